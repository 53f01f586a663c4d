"""The expression language over traces: `db(v(out)/v(in))`, `i(R1.2)`, `rms(v(a,b))`, `p(Q1)`.

`v(net)` is a net's voltage and `v(a,b)` a difference of two; `i(R1.2)` is the current into a pin, `i(R1)` that into
the first pin of a part or the plus terminal of a fixture; `p(R1)` is the power that a part takes. `a || b` is what two
have in parallel. Other names stand bare, R3 or geophone.resistance, or in quotes where they are no single word. Numbers
are written as on the sheet: 4k7, 10m, 0.5V. An error carries the column at which it stands.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from difflib import get_close_matches
from functools import cached_property, lru_cache

import numpy as np
from lark import Lark, Token, Tree, UnexpectedCharacters, UnexpectedInput, UnexpectedToken

from verdad_core.arrays import Values
from verdad_core.devices.base import BOLTZMANN, CHARGE
from verdad_core.errors import MeasurementError, Place, ValueTextError
from verdad_core.measure.functions import FUNCTIONS
from verdad_core.measure.trace import Axis, Nature, Trace
from verdad_core.measure.units import AMPERES, CELSIUS, NONE, SECONDS, WATTS, WRITTEN, Unit
from verdad_core.units import parse_value

#: Longer expressions are refused: what can be nested without end must not be.
LONGEST = 300

_GRAMMAR = r"""
?sum: product | sum "+" product -> add | sum "-" product -> sub
?product: parallel | product ("*" | "·" | "×") parallel -> mul | product "/" parallel -> div
?parallel: signed | parallel "||" signed -> par
?signed: power | "-" signed -> neg | "+" signed
?power: atom | atom ("^" | "**") signed -> pow
?atom: NUMBER -> number | PROBE -> probe | (NAME | QUOTED) -> name | NAME "(" sum ("," sum)* ")" -> call | "(" sum ")"
PROBE.3: /[vip]\s*\(\s*[^\s(),]+\s*(,\s*[^\s(),]+\s*)?\)/i
NUMBER.2: /(\d+\.?\d*|\.\d+)(e[+-]?\d+)?([a-zµμ]+\d*)?( ?(%|°C|Ω|Ω|[fpnuµμmkMGT]?(ohms?|Hz|V|A|W|s|F|H|Ω|Ω)\b))?/i
NAME: /π|[a-z_]\w*(\.\w+)*/i
QUOTED: /"[^"]+"/
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


#: Names that stand for numbers (BIPM, SI Brochure, 9th edition, 2019, table 1).
CONSTANTS = {
    "pi": Trace(np.asarray(math.pi), NONE),
    "π": Trace(np.asarray(math.pi), NONE),
    "k_b": Trace(np.asarray(BOLTZMANN), WATTS * SECONDS / CELSIUS),
    "q_e": Trace(np.asarray(CHARGE), AMPERES * SECONDS),
}


@dataclass(frozen=True)
class Expression:
    """An expression that has been read."""

    text: str
    tree: Tree[Token]

    @cached_property
    def functions(self) -> frozenset[str]:
        """The functions it calls."""
        return frozenset(str(node.children[0]).lower() for node in self.tree.iter_subtrees() if node.data == "call")

    @cached_property
    def probes(self) -> tuple[Probe, ...]:
        """What it looks at, names such as `response` as probes of kind ""."""
        nodes = (node for node in self.tree.iter_subtrees() if node.data in ("probe", "name"))
        return tuple(probe for probe in dict.fromkeys(map(probe_of, nodes)) if _constant(probe) is None)

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
        if node.data == "call":
            _check_call(node)
        if node.data == "number":
            _value(node, _no_signals)
    return Expression(text, tree)


_WORD = re.compile(r"[A-Za-z_]\w*(\.\w+)*")


def written_name(name: str) -> str:
    """A name as an expression writes it: in quotes where it is no single word."""
    return name if _WORD.fullmatch(name) else f'"{name}"'


def with_names(text: str, name: Callable[[str], str]) -> str:
    """An expression with other names; what cannot be read stays as it is."""
    try:
        tree = read_expression(text).tree
    except MeasurementError:
        return text
    found = sorted((node.meta.start_pos, node.meta.end_pos, probe_of(node).name) for node in tree.find_data("name"))
    for start, end, old in reversed(found):
        if (new := name(old)) != old:
            text = text[:start] + written_name(new) + text[end:]
    return text


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


def _check_call(node: Tree[Token]) -> None:
    """Raise MeasurementError for a function that does not exist, or takes other operands."""
    function = FUNCTIONS.get(str(node.children[0]).lower())
    if function is None:
        _unknown_function(node)
    elif len(node.children) - 1 not in function.count:
        raise MeasurementError(
            f"{function.name} takes {' or '.join(map(str, function.count))} operand, not {len(node.children) - 1}",
            place=Place(column=node.meta.column), remedy=f"Write {function.written}.",
        )  # fmt: skip


def _no_signals(probe: Probe) -> Trace:
    raise MeasurementError(f"there is no {probe.name}")


def _constant(probe: Probe) -> Trace | None:
    return None if probe.kind else CONSTANTS.get(probe.name.lower())


def probe_of(node: Tree[Token]) -> Probe:
    """What a node that looks at something looks at; a name has the kind ""."""
    text = str(node.children[0])
    if node.data == "name":
        return Probe("", text.strip('"'))
    kind, _, rest = text.partition("(")
    first, _, second = rest.removesuffix(")").partition(",")
    return Probe(kind.strip().lower(), first.strip(), second.strip())


def _value(node: Tree[Token] | Token, lookup: Lookup) -> Trace:
    assert isinstance(node, Tree)
    place = Place(column=node.meta.column)
    if node.data in ("probe", "name"):
        try:
            probe = probe_of(node)
            constant = _constant(probe)
            return lookup(probe) if constant is None else constant
        except MeasurementError as error:
            raise MeasurementError(error.message, place=place, remedy=error.remedy) from None
    if node.data == "number":
        try:
            return _number(str(node.children[0]))
        except ValueTextError as error:
            raise MeasurementError(error.message, place=place, remedy=error.remedy) from None
    if node.data == "call":
        return _called(node, place, lookup)
    operands = [_value(child, lookup) for child in node.children]
    if node.data == "neg":
        return _negative(operands[0])
    if node.data == "par":
        # A plain number takes the unit of what is beside it, as in a sum.
        one, other = (replace(x, unit=_summed(operands[0], operands[1], place)) for x in operands)
        return _combined("div", _combined("mul", one, other, place), _combined("add", one, other, place), place)
    return _combined(str(node.data), operands[0], operands[1], place)


def _negative(x: Trace) -> Trace:
    middle, slope = (None if values is None else -values for values in (x.middle, x.slope))
    return replace(x, values=-x.values, middle=middle, slope=slope)


def _called(node: Tree[Token], place: Place, lookup: Lookup) -> Trace:
    function = FUNCTIONS[str(node.children[0]).lower()]
    operands = [_value(child, lookup) for child in node.children[1:]]
    if len(operands) > 1:
        _common(operands[0].axis, operands[1].axis, place)
    try:
        return function.apply(*operands)
    except MeasurementError as error:
        if error.place.column:
            raise
        raise MeasurementError(f"{function.name}: {error.message}", place=place, remedy=error.remedy) from None


def _combined(operation: str, a: Trace, b: Trace, place: Place) -> Trace:
    axis = _common(a.axis, b.axis, place)
    if operation != "pow":
        unit, nature = _meaning(operation, a, b, place)
        function = _OPERATIONS[operation]
        one, other = (x.values if x.axis is None else x.middle for x in (a, b))
        middle = None if axis is None or one is None or other is None else function(one, other)
        return Trace(function(a.values, b.values), unit, axis, middle, nature, _slope(operation, a, b))
    if b.axis is not None or b.is_complex:
        raise MeasurementError("an exponent is a number", place=place, remedy="Write it like v(out)^2.")
    if b.unit != NONE:
        raise MeasurementError("an exponent has no unit", place=place, remedy="Write it like v(out)^2.")
    exponent = float(b.values)
    middle = None if a.middle is None else a.middle**exponent
    # Of a negative number a broken power has no value, and is none here.
    return Trace(a.values**exponent, a.unit**exponent, axis, middle)


def _slope(operation: str, a: Trace, b: Trace) -> Values | None:
    """How a sum, product or ratio changes with the axis, by the rules of the derivative; None where it is not known."""
    da, db = (np.zeros(()) if x.axis is None else x.slope for x in (a, b))
    if da is None or db is None:
        return None
    if operation == "mul":
        return np.asarray(da * b.values + a.values * db)
    if operation == "div":
        return np.asarray((da - a.values / b.values * db) / b.values)
    return np.asarray(_OPERATIONS[operation](da, db))


_OPERATIONS = {"add": np.add, "sub": np.subtract, "mul": np.multiply, "div": np.divide}


def _meaning(operation: str, a: Trace, b: Trace, place: Place) -> tuple[Unit, Nature]:
    """The unit of what comes out, and whether it is a power or a ratio of powers, or a logarithm.

    Raises MeasurementError for what cannot be added.
    """
    plain = [not x.is_power and x.unit == NONE and not x.nature for x in (a, b)]
    logarithm: Nature = "logarithm" if "logarithm" in (a.nature, b.nature) else ""
    if operation in ("add", "sub"):
        return _summed(a, b, place), "power" if a.nature == b.nature == "power" else logarithm
    unit = a.unit * b.unit if operation == "mul" else a.unit / b.unit
    kept = (a.is_power and (plain[1] or (b.is_power and operation == "div"))) or (
        b.is_power and plain[0] and operation == "mul"
    )
    return unit, "power" if kept else logarithm


def _number(text: str) -> Trace:
    """A number with its unit: of 10 % a tenth, of 1kΩ a thousand ohms. Raises ValueTextError."""
    compact = text.replace(" ", "").replace("\u2126", "Ω").replace("ohms", "ohm")
    written = next((unit for unit in sorted(WRITTEN, key=len, reverse=True) if compact.endswith(unit)), "")
    if compact.endswith("%"):
        return Trace(np.asarray(parse_value(compact[:-1]) / 100.0), NONE)
    # A single letter may be a prefix: 10m, and 1F a farad.
    value = parse_value(compact)
    return Trace(np.asarray(value), WRITTEN[written] if written else NONE)


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
