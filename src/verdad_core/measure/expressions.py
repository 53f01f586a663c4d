"""The expression language over traces: `db(v(out)/v(in))`, `i(R1.2)`, `rms(v(a,b))`, `p(Q1)`.

`v(net)` is a net's voltage and `v(a,b)` a difference of two; `i(R1.2)` is the current into a pin, `i(R1)` that into
the first pin of a part or the plus terminal of a fixture; `p(R1)` is the power that a part takes. Numbers are written
as on the sheet: 4k7, 10m, 0.5V. An error carries the column at which it stands.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from difflib import get_close_matches
from functools import cached_property, lru_cache

import numpy as np
from lark import Lark, Token, Tree, UnexpectedCharacters, UnexpectedInput, UnexpectedToken

from verdad_core.errors import MeasurementError, Place, ValueTextError
from verdad_core.measure.functions import FUNCTIONS
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import NONE, Unit
from verdad_core.units import parse_value

#: Longer expressions are refused: what can be nested without end must not be.
LONGEST = 300

_GRAMMAR = r"""
?sum: product | sum "+" product -> add | sum "-" product -> sub
?product: signed | product "*" signed -> mul | product "/" signed -> div
?signed: power | "-" signed -> neg | "+" signed
?power: atom | atom ("^" | "**") signed -> pow
?atom: NUMBER -> number | PROBE -> probe | NAME -> name | NAME "(" sum ")" -> call | "(" sum ")"
PROBE.3: /[vip]\s*\(\s*[^\s(),]+\s*(,\s*[^\s(),]+\s*)?\)/i
NUMBER.2: /(\d+\.?\d*|\.\d+)(e[+-]?\d+)?([a-zµμΩ%]+\d*)?/i
NAME: /[a-z_]\w*/i
%ignore /\s+/
"""

_PARSER = Lark(_GRAMMAR, parser="lalr", start="sum", propagate_positions=True)


@dataclass(frozen=True)
class Probe:
    """What is looked at: `kind` is "v", "i" or "p"; `second` is the net that a voltage counts from."""

    kind: str
    name: str
    second: str = ""


#: What says the values of a probe, or of a name such as `time`; raises MeasurementError for one that is not there.
Lookup = Callable[[Probe], Trace]


@dataclass(frozen=True)
class Expression:
    """An expression that has been read."""

    text: str
    tree: Tree[Token]

    @cached_property
    def probes(self) -> tuple[Probe, ...]:
        """What it looks at, names such as `response` as probes of kind ""."""
        nodes = (node for node in self.tree.iter_subtrees() if node.data in ("probe", "name"))
        return tuple(dict.fromkeys(map(_probe, nodes)))

    def evaluate(self, lookup: Lookup) -> Trace:
        """Its values. Raises MeasurementError, with the column, for what cannot be computed."""
        with np.errstate(all="ignore"):
            return _value(self.tree, lookup)


@lru_cache(maxsize=4096)
def read_expression(text: str) -> Expression:
    """The expression in `text`. Raises MeasurementError with the column of what cannot be read."""
    if not text.strip():
        raise MeasurementError("the expression is empty", remedy="Write one such as v(out).", place=Place(column=1))
    if len(text) > LONGEST:
        raise MeasurementError(f"an expression has at most {LONGEST} characters", place=Place(column=LONGEST))
    try:
        tree = _PARSER.parse(text)
    except UnexpectedInput as error:
        raise _misread(text, error) from None
    if not isinstance(tree, Tree):
        raise MeasurementError("the expression is empty", place=Place(column=1))
    for node in tree.iter_subtrees():
        if node.data == "call" and str(node.children[0]).lower() not in FUNCTIONS:
            _unknown_function(node)
        if node.data == "number":
            _value(node, _no_signals)
    return Expression(text, tree)


def _misread(text: str, error: UnexpectedInput) -> MeasurementError:
    column = min(max(getattr(error, "column", len(text) + 1) or 1, 1), len(text) + 1)
    if isinstance(error, UnexpectedToken) and error.token.type != "$END":
        what = f"'{error.token}' is not expected here"
    elif isinstance(error, UnexpectedCharacters):
        what = f"'{text[column - 1 : column]}' is not understood"
    else:
        column = len(text) + 1
        what = "a parenthesis is not closed" if text.count("(") > text.count(")") else "something is missing at the end"
    return MeasurementError(what, place=Place(column=column), remedy="Write it like db(v(out)/v(in)).")


def _unknown_function(node: Tree[Token]) -> None:
    name = str(node.children[0])
    near = get_close_matches(name.lower(), FUNCTIONS, 3)
    raise MeasurementError(
        f"there is no function '{name}'", place=Place(column=node.meta.column),
        remedy=f"Did you mean {' or '.join(near)}?" if near else "Functions: " + ", ".join(FUNCTIONS),
    )  # fmt: skip


def _no_signals(probe: Probe) -> Trace:
    raise MeasurementError(f"there is no {probe.name}")


def _probe(node: Tree[Token]) -> Probe:
    text = str(node.children[0])
    if node.data == "name":
        return Probe("", text.lower())
    kind, _, rest = text.partition("(")
    first, _, second = rest.removesuffix(")").partition(",")
    return Probe(kind.strip().lower(), first.strip(), second.strip())


def _value(node: Tree[Token] | Token, lookup: Lookup) -> Trace:
    assert isinstance(node, Tree)
    place = Place(column=node.meta.column)
    if node.data in ("probe", "name"):
        try:
            return lookup(_probe(node))
        except MeasurementError as error:
            raise MeasurementError(error.message, place=place, remedy=error.remedy) from None
    if node.data == "number":
        try:
            return Trace(np.asarray(parse_value(str(node.children[0]))), NONE)
        except ValueTextError as error:
            raise MeasurementError(error.message, place=place, remedy=error.remedy) from None
    if node.data == "call":
        return _called(node, place, lookup)
    operands = [_value(child, lookup) for child in node.children]
    if node.data == "neg":
        return Trace(-operands[0].values, operands[0].unit, operands[0].axis)
    return _combined(str(node.data), operands[0], operands[1], place)


def _called(node: Tree[Token], place: Place, lookup: Lookup) -> Trace:
    function = FUNCTIONS[str(node.children[0]).lower()]
    inner = _value(node.children[1], lookup)
    try:
        return function.apply(inner)
    except MeasurementError as error:
        if error.place.column:
            raise
        raise MeasurementError(f"{function.name}: {error.message}", place=place, remedy=error.remedy) from None


def _combined(operation: str, a: Trace, b: Trace, place: Place) -> Trace:
    axis = _common(a.axis, b.axis, place)
    x, y = a.values, b.values
    match operation:
        case "add" | "sub":
            return Trace(x + y if operation == "add" else x - y, _summed(a, b, place), axis)
        case "mul":
            return Trace(x * y, a.unit * b.unit, axis)
        case "div":
            return Trace(x / y, a.unit / b.unit, axis)
    if b.axis is not None or b.is_complex:
        raise MeasurementError("an exponent is a number", place=place, remedy="Write it like v(out)^2.")
    exponent = float(y)
    base = x.astype(complex) if not a.is_complex and exponent % 1 and np.any(x < 0) else x
    return Trace(base**exponent, a.unit**exponent, axis)


def _common(a: Axis | None, b: Axis | None, place: Place) -> Axis | None:
    if a is not None and b is not None and a is not b and not np.array_equal(a.values, b.values):
        raise MeasurementError(
            f"one runs along {a.title}, the other along {b.title}", place=place, remedy="Combine traces of one axis."
        )
    return a or b


def _summed(a: Trace, b: Trace, place: Place) -> Unit:
    """The unit of a sum: a plain number takes that of the trace beside it."""
    if a.unit != b.unit and NONE not in (a.unit, b.unit):
        raise MeasurementError(
            f"{a.unit.name} and {b.unit.name} cannot be added", place=place, remedy="Add what has the same unit."
        )
    return b.unit if a.unit == NONE else a.unit
