"""Expressions in netlists, read into a tree: `{2*rx + 10k}`, `{if(v(a,b) > 1, i(v1)*2, 0)}`.

Read by precedence climbing (Richards and Whitby-Strevens, "BCPL", 1980). Numbers carry the scale factors of
netlists. Powers are `**` or `^`; they bind tighter than a sign before them. The tree is data: netlist/parameters.py
evaluates what is constant, netlist/behaviour.py turns the rest into a program for the engine.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from verdad_core.devices.program import FUNCTIONS
from verdad_core.errors import NetlistError, Place, ValueTextError
from verdad_core.netlist.lines import Token
from verdad_core.units import parse_netlist_number

#: Longer, or more deeply nested, expressions are refused, and those with more operators in a row.
MAX_SYMBOLS = 5000
MAX_DEPTH = 60
MAX_ROW = 200

_SYMBOL = re.compile(
    r"(?<!\s)\s*+(?:(?P<number>(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?[a-z]*)"
    r"|(?P<probe>[vi]\s*\(\s*[^\s(),{}]+\s*(?:,\s*[^\s(),{}]+\s*)?\))"
    r"|(?P<name>[a-z_]\w*)|(?P<operator>\*\*|<=|>=|==|!=|&&|\|\||[-+*/^()<>!~&|?:,{}]))"
)
_PROBE = re.compile(r"([vi])\s*\(\s*([^\s(),]+)\s*(?:,\s*([^\s(),]+)\s*)?\)")

#: How tightly each binary operator binds, and the function it stands for.
_BINARY: dict[str, tuple[int, str]] = {
    "||": (1, "or"), "|": (1, "or"), "&&": (2, "and"), "&": (2, "and"), "==": (3, "eq"), "!=": (3, "ne"),
    "<": (4, "lt"), ">": (4, "gt"), "<=": (4, "le"), ">=": (4, "ge"), "+": (5, "add"), "-": (5, "sub"),
    "*": (6, "mul"), "/": (6, "div"), "**": (8, "pow"), "^": (8, "pow"),
}  # fmt: skip
_SIGN = 7

#: Other names of functions.
SYNONYMS = {
    "arctan": "atan", "arcsin": "asin", "arccos": "acos", "u": "stp", "log": "ln", "tbl": "table", "idt": "sdt",
    "nint": "round", "absdelay": "delay",
}  # fmt: skip

#: Names that makers' files call and that stand for more than one function of the engine.
DERIVATIVE, INTEGRAL, TABLE, DELAY = "ddt", "sdt", "table", "delay"


@dataclass(frozen=True)
class Number:
    value: float


@dataclass(frozen=True)
class Name:
    name: str


@dataclass(frozen=True)
class Probe:
    """`v(a)`, `v(a,b)`, or `i(source)` with the source in `plus`."""

    kind: str
    plus: str
    minus: str = "0"


@dataclass(frozen=True)
class Apply:
    """A function of the engine, by its name in devices/program.py."""

    function: str
    operands: tuple[Node, ...]


@dataclass(frozen=True)
class Choice:
    """`condition ? yes : no`, and `if(condition, yes, no)`; of a constant condition only one side is looked at."""

    condition: Node
    yes: Node
    no: Node


@dataclass(frozen=True)
class Call:
    """A call of a user's function, or of one that the engine realises by other means (ddt, sdt, table)."""

    name: str
    arguments: tuple[Node, ...]


Node = Number | Name | Probe | Apply | Choice | Call


@dataclass(frozen=True)
class Expression:
    """An expression that has been read, and where it stands. Equal when it says the same."""

    text: str = field(compare=False)
    place: Place = field(compare=False)
    root: Node

    def error(self, what: str) -> NetlistError:
        return NetlistError(f"{self.text}: {what}", place=self.place, remedy="Correct the expression.")


#: What stands for a number in a netlist.
Value = float | Expression


@dataclass(frozen=True)
class UserFunction:
    """A `.func`: its arguments' names and its expression."""

    arguments: tuple[str, ...]
    body: Expression


def read_value(token: Token, *, bare: bool = False) -> Value:
    """A number, or an expression in braces or quotes (with `bare` also without). Raises NetlistError at the token."""
    if token.is_expression:
        return read_expression(token)
    try:
        return parse_netlist_number(token.text)
    except ValueTextError as error:
        if bare:
            return read_expression(token)
        raise _wrong(token, error.message, f"{error.remedy} Expressions stand in braces.") from None


def read_expression(token: Token) -> Expression:
    """An expression in braces, quotes or bare. Raises NetlistError at the token."""
    text = token.text
    for quote in "'\"":
        if text.count(quote) % 2:
            raise _wrong(token, f"{text} is not closed", "Close it, or continue it on lines that start with '+'.")
        # What stands in quotes is as what stands in parentheses.
        text = re.sub(f"{quote}([^{quote}]*){quote}", r"{\1}", text)
    if text.count("{") != text.count("}"):
        raise _wrong(token, f"{text} is not closed", "Close it, or continue it on lines that start with '+'.")
    return _Reader(token, text).whole()


def write_value(value: Value) -> str:
    """Text that reads back as the same value."""
    if isinstance(value, Expression):
        return "{" + _written(value.root) + "}"
    return repr(value)


_OPERATOR_OF = {function: operator for operator, (_, function) in _BINARY.items()}


def _written(node: Node) -> str:
    match node:
        case Number(value):
            return repr(value)
        case Name(name):
            return name
        case Probe("i", source, _):
            return f"i({source})"
        case Probe(_, plus, minus):
            return f"v({plus})" if minus == "0" else f"v({plus},{minus})"
        case Apply("neg" | "not" as function, (operand,)):
            return f"({'-' if function == 'neg' else '!'}{_written(operand)})"
        case Apply(function, (left, right)):
            return f"({_written(left)}{_OPERATOR_OF[function]}{_written(right)})"
        case Choice(condition, yes, no):
            return f"if({_written(condition)},{_written(yes)},{_written(no)})"
        case Call(name, arguments):
            return f"{name}({','.join(map(_written, arguments))})"
    raise TypeError(node)


def _wrong(token: Token, message: str, remedy: str) -> NetlistError:
    return NetlistError(message, place=Place(line=token.line, column=token.column), remedy=remedy)


class _Reader:
    def __init__(self, token: Token, text: str) -> None:
        self.token = token
        self.symbols = self._split(text)
        self.at = 0
        self.depth = 0

    def _split(self, text: str) -> list[tuple[str, str]]:
        symbols: list[tuple[str, str]] = []
        text, at = text.rstrip(), 0
        while at < len(text):
            match = _SYMBOL.match(text, at)
            if match is None or len(symbols) >= MAX_SYMBOLS:
                raise self._error(f"'{text[at : at + 10]}' is not understood" if match is None else "it is too long")
            kind = match.lastgroup or ""
            symbols.append((kind, match.group(kind)))
            at = match.end()
        return symbols

    def _error(self, why: str) -> NetlistError:
        text = self.token.text if len(self.token.text) <= 80 else self.token.text[:77] + "..."
        return _wrong(self.token, f"{text}: {why}", "Write a number or an expression such as {2*rx}.")

    def _next(self, *wanted: str) -> str:
        """The operator that comes next, if it is one of `wanted`; it is then taken."""
        if self.at < len(self.symbols):
            kind, text = self.symbols[self.at]
            if kind == "operator" and text in wanted:
                self.at += 1
                return text
        return ""

    def whole(self) -> Expression:
        root = self._choice()
        if self.at < len(self.symbols):
            raise self._error(f"'{self.symbols[self.at][1]}' is not expected")
        return Expression(self.token.text, Place(line=self.token.line, column=self.token.column), root)

    def _deeper(self) -> None:
        self.depth += 1
        if self.depth > MAX_DEPTH:
            raise self._error("it is nested too deeply")

    def _choice(self) -> Node:
        self._deeper()
        node = self._binary(1)
        if self._next("?"):
            yes = self._choice()
            if not self._next(":"):
                raise self._error("':' is missing after '?'")
            node = Choice(node, yes, self._choice())
        self.depth -= 1
        return node

    def _binary(self, least: int) -> Node:
        node, row = self._operand(), 0
        while self.at < len(self.symbols):
            kind, text = self.symbols[self.at]
            if kind != "operator" or text not in _BINARY or _BINARY[text][0] < least:
                break
            self.at += 1
            row += 1
            if row > MAX_ROW:
                raise self._error(f"it has more than {MAX_ROW} operators in a row")
            binds, function = _BINARY[text]
            self._deeper()
            # Powers group to the right, everything else to the left.
            node = Apply(function, (node, self._binary(binds if function == "pow" else binds + 1)))
            self.depth -= 1
        return node

    def _operand(self) -> Node:
        if sign := self._next("-", "+", "!", "~"):
            self._deeper()
            inner = self._binary(_SIGN)
            self.depth -= 1
            if sign == "+":
                return inner
            return Apply("neg" if sign == "-" else "not", (inner,))
        if opening := self._next("(", "{"):
            node = self._choice()
            if not self._next(")" if opening == "(" else "}"):
                left = self.symbols[self.at][1] if self.at < len(self.symbols) else ""
                bracket = "parenthesis" if opening == "(" else "brace"
                closed = left not in ("", ")", "}")
                raise self._error(f"'{left}' is not expected" if closed else f"a {bracket} is not closed")
            return node
        if self.at == len(self.symbols) or self.symbols[self.at] == ("operator", "}"):
            raise self._error("something is missing at its end")
        kind, text = self.symbols[self.at]
        self.at += 1
        if kind == "number":
            try:
                return Number(parse_netlist_number(text))
            except ValueTextError as error:
                raise self._error(error.message) from None
        if kind == "probe":
            return self._probe(text)
        if kind != "name":
            raise self._error(f"'{text}' is not expected")
        return self._call(text) if self._next("(") else Name(text)

    def _probe(self, text: str) -> Probe:
        match = _PROBE.fullmatch(text)
        if match is None or (match[1] == "i" and match[3]):
            raise self._error(f"'{text}' is not understood")
        return Probe(match[1], match[2], match[3] or "0")

    def _call(self, name: str) -> Node:
        if self._next(")"):
            return Call(name, ())
        arguments = [self._choice()]
        while self._next(","):
            arguments.append(self._choice())
        if not self._next(")"):
            raise self._error("a parenthesis is not closed")
        if name == "if":
            if len(arguments) != 3:
                raise self._error("if takes 3 arguments")
            return Choice(*arguments)
        return Call(name, tuple(arguments))


def known_function(name: str) -> str | None:
    """The engine's name of a function that an expression may call, or None."""
    name = "sgn" if name == "sign" else name
    return name if name in FUNCTIONS and FUNCTIONS[name].callable else None
