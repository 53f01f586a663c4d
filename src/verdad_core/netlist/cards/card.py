"""An element statement as it was read, and what the readers and writers of all kinds share."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

from verdad_core.devices.base import Control
from verdad_core.errors import NetlistError, Place
from verdad_core.netlist.expressions import Expression, Number, Value, read_value, write_value
from verdad_core.netlist.lines import Statement, Token


@dataclass(frozen=True)
class Wave:
    """A source's waveform (devices/waveforms.py) with the values that were given, and where a PWL one repeats from."""

    kind: int
    values: tuple[Value, ...]
    repeat: Value | None = None


@dataclass(frozen=True)
class Behaviour:
    """A source that follows an expression of voltages, currents, time and temperature."""

    expression: Expression


@dataclass(frozen=True)
class Transfer:
    """A source that follows an expression through a transfer function, a ratio of polynomials in s."""

    input: Expression
    transfer: Expression


@dataclass(frozen=True)
class Tabulated:
    """A source that follows an expression through a response given at some frequencies: Hz, dB, degrees, .."""

    input: Expression
    points: tuple[Value, ...]


Form = Wave | Behaviour | Transfer | Tabulated


@dataclass(frozen=True)
class Card:
    """An element statement: names as written in its own scope, before subcircuits are expanded."""

    name: str
    nodes: tuple[str, ...]
    statement: Statement = field(compare=False)
    family: str = ""
    values: Mapping[str, Value] = field(default_factory=dict)
    controls: tuple[Control, ...] = ()
    #: The `.model` it uses, where it has one.
    model: str = ""
    #: The subcircuit it is an instance of; its `values` are then the instance's parameters.
    subcircuit: str = ""
    form: Form | None = None
    #: Conditions of the `.if`s around it, and what each must be for the element to be there.
    when: tuple[tuple[Expression, bool], ...] = ()
    #: Why it cannot be used, where it could not be read: an error as soon as a circuit needs it.
    refusal: NetlistError | None = field(default=None, compare=False)


@dataclass(frozen=True)
class Kind:
    """One first letter: how its statements are read and written."""

    read: Callable[[Statement], Card]
    write: Callable[[Card], str]


class Words:
    """The words of a statement after its name, taken one after the other; errors stand at the word."""

    def __init__(self, statement: Statement) -> None:
        self.statement = statement
        self.rest = list(statement.tokens[1:])

    def error(self, message: str, remedy: str = "", token: Token | None = None) -> NetlistError:
        return self.statement.error(f"{self.statement.keyword}: {message}", remedy, token)

    def peek(self) -> str:
        """The next word, or nothing."""
        return self.rest[0].text if self.rest else ""

    def take(self, what: str) -> Token:
        if not self.rest:
            raise self.statement.error(
                f"{self.statement.keyword} is incomplete: expected {what}", "Complete the statement."
            )
        return self.rest.pop(0)

    def nodes(self, count: int, what: str) -> tuple[str, ...]:
        return tuple(self.take(what).text for _ in range(count))

    def skip(self, *words: str) -> bool:
        """Whether the next word is one of these; it is then passed over."""
        if self.peek() in words and self.rest:
            self.rest.pop(0)
            return True
        return False

    def number(self, what: str = "a number") -> Value:
        return number(self.statement, self.take(what))

    def expression(self, what: str) -> Expression:
        """An expression, perhaps after an equals sign; a plain number is one too."""
        self.skip("=")
        return self._expression(self.take(what))

    def last_expression(self, what: str) -> Expression:
        """All that is left as one expression, with or without braces, perhaps after an equals sign."""
        self.skip("=")
        token = self.take(what)
        before = self.statement.tokens[self.statement.tokens.index(token) - 1]
        self.rest.clear()
        return self._expression(replace(token, text=self.statement.after(before)))

    def _expression(self, token: Token) -> Expression:
        value = number(self.statement, token, bare=True)
        return value if isinstance(value, Expression) else constant(token, value)

    def done(self) -> None:
        """Raise NetlistError where anything is left."""
        if self.rest:
            raise self.error(f"'{self.rest[0].text}' is not understood here", "Remove it.", self.rest[0])

    def is_number(self) -> bool:
        """Whether a number or an expression comes next, and not a name or `name=`."""
        if not self.rest or (len(self.rest) > 1 and self.rest[1].text == "="):
            return False
        return self.rest[0].text[0] in "+-.0123456789{'\""

    def numbers(self) -> tuple[Value, ...]:
        """All numbers that come next."""
        found = []
        while self.is_number():
            found.append(self.number())
        return tuple(found)

    def pairs(self) -> dict[str, tuple[Value, ...]]:
        """All that is left, as `name=value` or `name=value,value`. Raises NetlistError for anything else."""
        found = {}
        while self.rest:
            name = self.rest.pop(0)
            if not self.skip("="):
                raise self.error(f"'{name.text}' is not understood here", "Write name=value.", name)
            if name.text in found:
                raise self.error(f"'{name.text}' is given twice", "Remove one.", name)
            values = [self.number(f"a value of {name.text}"), *self.numbers()]
            found[name.text] = tuple(values)
        return found

    def values(self, known: Mapping[str, str], ignored: frozenset[str] = frozenset()) -> dict[str, Value]:
        """All that is left as single values, by their names in `known` (written -> name of the parameter)."""
        found = {}
        for name, values in self.pairs().items():
            if name in known and len(values) > 1:
                token = next(token for token in self.statement.tokens if token.text == name)
                raise self.error(f"'{name}' has {len(values)} values", "Give it one; decimals follow a point.", token)
            if name in known:
                found[known[name]] = values[0]
            elif name not in ignored:
                raise self.error(
                    f"parameter '{name}' is not known",
                    f"Known are {', '.join(known)}." if known else "Remove it.",
                    next(token for token in self.statement.tokens if token.text == name),
                )
        return found


def number(statement: Statement, token: Token, *, bare: bool = False) -> Value:
    """The number or expression a token stands for; NetlistError at the token when it is neither."""
    try:
        return read_value(token, bare=bare)
    except NetlistError as error:
        raise statement.error(f"{statement.keyword}: {error.message}", error.remedy, token) from None


def constant(token: Token, value: float) -> Expression:
    """A number where an expression is wanted."""
    return Expression(token.text, Place(line=token.line, column=token.column), Number(value))


def write_values(values: Mapping[str, Value]) -> str:
    """`name=value` pairs, each with a blank before it."""
    return "".join(f" {name}={write_value(value)}" for name, value in values.items())


def write_list(values: tuple[Value, ...]) -> str:
    return " ".join(map(write_value, values))
