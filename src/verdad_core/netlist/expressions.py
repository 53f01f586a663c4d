"""Expressions in netlists: `{2*rx + 10k}`, parameters that depend on each other in any order, and `.func`.

Read by precedence climbing (Richards and Whitby-Strevens, "BCPL", 1980) into a tree that only this module evaluates.
Numbers carry the scale factors of netlists. Powers are `**` or `^`; they bind tighter than a sign before them.
`log` is refused: some dialects mean the natural and some the decimal logarithm by it.
"""

from __future__ import annotations

import math
import operator
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from verdad_core.errors import NetlistError, Place, ValueTextError
from verdad_core.netlist.lines import Token
from verdad_core.units import parse_netlist_number

#: Longer, or more deeply nested, expressions are refused; so are chains of parameters and functions deeper than this.
MAX_SYMBOLS = 2000
MAX_DEPTH = 60

#: A whole circuit may call its own functions this often: a few lines of them could otherwise ask for years.
MAX_CALLS = 100_000

_SYMBOL = re.compile(
    r"\s*(?:(?P<number>(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?[a-z]*)|(?P<name>[a-z_]\w*)"
    r"|(?P<operator>\*\*|<=|>=|==|!=|&&|\|\||[-+*/^()<>!~&|?:,]))"
)


def _power(x: float, y: float) -> float:
    if x < 0 and y != int(y):
        raise ValueError("a negative number to a broken power")
    return float(x**y)


def _divide(x: float, y: float) -> float:
    if y == 0:
        raise ValueError("a division by zero")
    return x / y


#: Binary operators: how tightly each binds, and what it does.
_BINARY: dict[str, tuple[int, Callable[[float, float], float]]] = {
    "||": (1, lambda x, y: float(bool(x) or bool(y))),
    "|": (1, lambda x, y: float(bool(x) or bool(y))),
    "&&": (2, lambda x, y: float(bool(x) and bool(y))),
    "&": (2, lambda x, y: float(bool(x) and bool(y))),
    "==": (3, lambda x, y: float(x == y)),
    "!=": (3, lambda x, y: float(x != y)),
    "<": (4, lambda x, y: float(x < y)),
    ">": (4, lambda x, y: float(x > y)),
    "<=": (4, lambda x, y: float(x <= y)),
    ">=": (4, lambda x, y: float(x >= y)),
    "+": (5, operator.add),
    "-": (5, operator.sub),
    "*": (6, operator.mul),
    "/": (6, _divide),
    "**": (8, _power),
    "^": (8, _power),
}
_SIGN = 7

#: Functions of makers' files: number of arguments, and what each does.
FUNCTIONS: dict[str, tuple[int, Callable[..., float]]] = {
    "abs": (1, abs),
    "sgn": (1, lambda x: float((x > 0) - (x < 0))),
    "stp": (1, lambda x: float(x > 0)),
    "sqrt": (1, math.sqrt),
    "exp": (1, math.exp),
    "ln": (1, math.log),
    "log10": (1, math.log10),
    "sin": (1, math.sin),
    "cos": (1, math.cos),
    "tan": (1, math.tan),
    "asin": (1, math.asin),
    "acos": (1, math.acos),
    "atan": (1, math.atan),
    "arctan": (1, math.atan),
    "atan2": (2, math.atan2),
    "sinh": (1, math.sinh),
    "cosh": (1, math.cosh),
    "tanh": (1, math.tanh),
    "min": (2, min),
    "max": (2, max),
    "pwr": (2, lambda x, y: _power(abs(x), y)),
    "pwrs": (2, lambda x, y: math.copysign(_power(abs(x), y), x) if x else 0.0),
    "limit": (3, lambda x, low, high: min(max(x, min(low, high)), max(low, high))),
}


@dataclass(frozen=True)
class _Number:
    value: float


@dataclass(frozen=True)
class _Name:
    name: str


@dataclass(frozen=True)
class _Apply:
    function: Callable[..., float]
    operands: tuple[_Node, ...]


@dataclass(frozen=True)
class _Choice:
    """`condition ? yes : no`, and `if(condition, yes, no)`; only one of the two is evaluated."""

    condition: _Node
    yes: _Node
    no: _Node


@dataclass(frozen=True)
class _Call:
    name: str
    arguments: tuple[_Node, ...]


_Node = _Number | _Name | _Apply | _Choice | _Call


@dataclass(frozen=True)
class Expression:
    """An expression that has been read, and where it stands."""

    text: str
    place: Place
    root: _Node

    def evaluate(self, scope: Parameters) -> float:
        """Its number. Raises NetlistError, at its place, for an unknown name, a cycle, or what has no value."""
        try:
            value = _evaluate(self.root, scope)
        except _NoValueError as error:
            raise self.error(str(error)) from None
        except (ValueError, OverflowError) as error:
            raise self.error(f"has no value: {error}") from None
        except RecursionError:
            raise self.error("depends on too many others") from None
        if not math.isfinite(value):
            raise self.error("is not finite")
        return value

    def error(self, what: str) -> NetlistError:
        return NetlistError(f"{self.text}: {what}", place=self.place, remedy="Correct the expression.")


#: What stands for a number in a netlist.
Value = float | Expression


@dataclass(frozen=True)
class UserFunction:
    """A `.func`: its arguments' names and its expression."""

    arguments: tuple[str, ...]
    body: Expression


class _NoValueError(Exception):
    """Why an expression has no value."""


@dataclass
class Parameters:
    """Names and functions of one scope, evaluated when they are asked for; what is not here is looked for outside."""

    values: Mapping[str, Value]
    functions: Mapping[str, UserFunction] = field(default_factory=dict)
    outer: Parameters | None = None
    depth: int = 0
    _known: dict[str, float] = field(default_factory=dict)
    _asked: set[str] = field(default_factory=set)
    _calls: int = 0

    def value(self, name: str) -> float:
        """The number behind a name."""
        if name in self._known:
            return self._known[name]
        if name not in self.values:
            if self.outer is None:
                raise _NoValueError(f"'{name}' is not a parameter")
            return self.outer.value(name)
        if name in self._asked:
            raise _NoValueError(f"parameter '{name}' depends on itself")
        if len(self._asked) > MAX_DEPTH:
            raise _NoValueError(f"parameters depend on each other more than {MAX_DEPTH} deep")
        self._asked.add(name)
        try:
            given = self.values[name]
            self._known[name] = number = given.evaluate(self) if isinstance(given, Expression) else given
        finally:
            self._asked.discard(name)
        return number

    def call(self, name: str, arguments: tuple[float, ...]) -> float:
        """A user's function, else one of FUNCTIONS."""
        scope = self
        while name not in scope.functions and scope.outer is not None:
            scope = scope.outer
        if name in scope.functions:
            return scope._call(name, scope.functions[name], arguments, self.depth + 1)
        if name == "log":
            raise _NoValueError(
                "log is the natural logarithm in some dialects and the decimal one in others: write ln or log10"
            )
        if name not in FUNCTIONS:
            raise _NoValueError(f"there is no function '{name}'")
        count, function = FUNCTIONS[name]
        if len(arguments) != count:
            raise _NoValueError(f"{name} takes {count} arguments, not {len(arguments)}")
        return float(function(*arguments))

    def _call(self, name: str, function: UserFunction, arguments: tuple[float, ...], depth: int) -> float:
        if len(arguments) != len(function.arguments):
            raise _NoValueError(f"{name} takes {len(function.arguments)} arguments, not {len(arguments)}")
        if depth > MAX_DEPTH:
            raise _NoValueError(f"functions call each other more than {MAX_DEPTH} deep")
        outermost = self
        while outermost.outer is not None:
            outermost = outermost.outer
        outermost._calls += 1
        if outermost._calls > MAX_CALLS:
            raise _NoValueError(f"the circuit's functions are called more than {MAX_CALLS:,} times")
        inner = Parameters(dict(zip(function.arguments, arguments, strict=True)), outer=self, depth=depth)
        return function.body.evaluate(inner)


def _evaluate(node: _Node, scope: Parameters) -> float:
    match node:
        case _Number(value):
            return value
        case _Name(name):
            return scope.value(name)
        case _Apply(function, operands):
            return function(*(_evaluate(operand, scope) for operand in operands))
        case _Choice(condition, yes, no):
            return _evaluate(yes if _evaluate(condition, scope) else no, scope)
        case _Call(name, arguments):
            return scope.call(name, tuple(_evaluate(argument, scope) for argument in arguments))


def read_value(token: Token, *, bare: bool = False) -> Value:
    """A number, or an expression in braces or quotes (with `bare` also without). Raises NetlistError at the token."""
    if token.text[0] in "{'":
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
    if text[0] in "{'":
        if len(text) < 2 or text[-1] != ("}" if text[0] == "{" else "'"):
            raise _wrong(token, f"{text} is not closed on its line", "Write the whole expression on one line.")
        text = text[1:-1]
    return _Reader(token, text).whole()


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
        return _wrong(self.token, f"{self.token.text}: {why}", "Write a number or an expression such as {2*rx}.")

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

    def _choice(self) -> _Node:
        self.depth += 1
        if self.depth > MAX_DEPTH:
            raise self._error("it is nested too deeply")
        node = self._binary(1)
        if self._next("?"):
            yes = self._choice()
            if not self._next(":"):
                raise self._error("':' is missing after '?'")
            node = _Choice(node, yes, self._choice())
        self.depth -= 1
        return node

    def _binary(self, least: int) -> _Node:
        node = self._operand()
        while self.at < len(self.symbols):
            kind, text = self.symbols[self.at]
            if kind != "operator" or text not in _BINARY or _BINARY[text][0] < least:
                break
            self.at += 1
            binds, function = _BINARY[text]
            # Powers group to the right, everything else to the left.
            node = _Apply(function, (node, self._binary(binds if text in ("**", "^") else binds + 1)))
        return node

    def _operand(self) -> _Node:
        if sign := self._next("-", "+", "!", "~"):
            self.depth += 1
            if self.depth > MAX_DEPTH:
                raise self._error("it is nested too deeply")
            inner = self._binary(_SIGN)
            self.depth -= 1
            if sign == "+":
                return inner
            return _Apply(operator.neg if sign == "-" else (lambda x: float(not x)), (inner,))
        if self._next("("):
            node = self._choice()
            if not self._next(")"):
                raise self._error("a parenthesis is not closed")
            return node
        if self.at == len(self.symbols):
            raise self._error("something is missing at its end")
        kind, text = self.symbols[self.at]
        self.at += 1
        if kind == "number":
            try:
                return _Number(parse_netlist_number(text))
            except ValueTextError as error:
                raise self._error(error.message) from None
        if kind != "name":
            raise self._error(f"'{text}' is not expected")
        return self._call(text) if self._next("(") else _Name(text)

    def _call(self, name: str) -> _Node:
        arguments = [self._choice()]
        while self._next(","):
            arguments.append(self._choice())
        if not self._next(")"):
            raise self._error("a parenthesis is not closed")
        if name == "if":
            if len(arguments) != 3:
                raise self._error("if takes 3 arguments")
            return _Choice(*arguments)
        return _Call(name, tuple(arguments))
