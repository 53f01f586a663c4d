"""The usual slips of a hand calculation: what would make a formula fit. Common practice, no source."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from itertools import combinations

from lark import Token, Tree

from verdad_core.errors import MeasurementError
from verdad_core.handcalc.formula import Named, Number, evaluated
from verdad_core.measure.expressions import Expression, probe_of
from verdad_core.units import format_value

#: A hand value that lies farther from the simulated one than this, in per cent, asks which of the two is wrong.
DOUBTFUL = 5.0
#: A slip counts where the formula without it lies this close, in per cent, and so many times closer than with it.
FITS, CLOSER = 3.0, 8.0
#: So many are named.
_MOST = 3

#: Factors that are forgotten or too many, with what they are, and the units in which they are; () for any.
_FACTORS: tuple[tuple[float, str, tuple[str, ...]], ...] = (
    (2 * math.pi, "2π: an angular frequency taken for a frequency", ("Hz", "s")),
    (math.sqrt(2), "√2: peak taken for rms", ("V", "A", "V/√Hz", "A/√Hz")),
    (2 * math.sqrt(2), "2√2: peak to peak taken for rms", ("V", "A")),
    (math.pi / 2, "π/2: a corner taken for a noise bandwidth", ("Hz",)),
    (2.0, "two", ()),
    *((10.0**k, f"10^{k}: a prefix" if k % 3 == 0 else "ten" if k == 1 else "a hundred", ()) for k in (1, 2, 3, 6, 9)),
)
_PREFIXES = tuple(10.0**k for k in (-6, -3, -2, -1, 1, 2, 3, 6))


def slips(
    formula: Expression, named: Named, known: Sequence[str], unit: str, value: float, simulated: float
) -> tuple[str, ...]:
    """What makes the formula fit, in words, the closest first; nothing where it fits as it is.

    `value` is what it comes to in `unit`, `known` the names of other values there are.
    """
    if not value or not math.isfinite(simulated) or not simulated or _apart(value, simulated) <= DOUBTFUL:
        return ()
    tries = [
        *_of_values(formula, named, unit),
        *_of_the_whole(value, unit),
        *_of_the_form(formula, named, unit),
        *_of_other_parts(formula, named, known, unit),
    ]
    close = min(FITS, _apart(value, simulated) / CLOSER)
    fitting = sorted(
        (round(_apart(found, simulated), 1), k, words)
        for k, (found, words) in enumerate(tries)
        if _apart(found, simulated) <= close
    )
    # A slip that lies much farther off than the best is none.
    best = [words for apart, _, words in fitting if apart <= 3 * fitting[0][0] + 0.1]
    return tuple(dict.fromkeys(best))[:_MOST]


def within(value: float, simulated: float) -> str:
    """How close two numbers are, in words."""
    return f"{max(_apart(value, simulated), 0.1):.1g} %"


def _apart(value: float, simulated: float) -> float:
    return 100.0 * abs(value - simulated) / abs(simulated)


def _of_values(formula: Expression, named: Named, unit: str) -> Iterator[tuple[float, str]]:
    """A value that is a power of ten off."""
    for probe in formula.probes:
        for factor in _PREFIXES:

            def scaled(name: str, own: str = probe.name, factor: float = factor) -> Number:
                number = named(name)
                return Number(number.value * factor, number.unit) if name == own else number

            if (found := _tried(formula, scaled, unit)) is not None:
                number = named(probe.name)
                text = format_value(number.value * factor, number.unit.name if number.unit else "", 3)
                yield found, f"if {probe.name} were {text}"


def _of_the_whole(value: float, unit: str) -> Iterator[tuple[float, str]]:
    if unit == "dB":
        yield 2 * value, "with 20 log in the place of 10 log"
        yield value / 2, "with 10 log in the place of 20 log"
        return
    for factor, words, units in _FACTORS:
        if not units or unit in units:
            yield value * factor, f"times {words}"
            yield value / factor, f"divided by {words}"
    yield -value, "with the other sign"
    if value > 0 and unit in ("", "V/V"):
        yield 1 / value, "the other way up"
        yield value**2, "squared"
        yield math.sqrt(value), "as its square root"
        yield value + 1, "with one more: a non-inverting gain"
        yield value - 1, "with one less: an inverting gain"


def _of_the_form(formula: Expression, named: Named, unit: str) -> Iterator[tuple[float, str]]:
    """Series taken for parallel, squares and roots, and two parts that stand for each other."""
    for node in formula.tree.iter_subtrees():
        for other, words in _OTHERWISE.get(str(node.data), {}).items():
            changed = Expression(formula.text, _replaced(formula.tree, node, Tree(other, node.children, node.meta)))
            if (found := _tried(changed, named, unit)) is not None:
                yield found, words.format(*map(_plain, node.children))
        if node.data == "call" and str(node.children[0]).lower() == "sqrt":
            inner = node.children[1]
            assert isinstance(inner, Tree)
            changed = Expression(formula.text, _replaced(formula.tree, node, inner))
            if (found := _tried(changed, named, unit)) is not None:
                yield found, "without the root"
    for one, other in combinations([probe.name for probe in formula.probes], 2):
        if named(one).unit == named(other).unit:
            found = _tried(formula, _exchanged(named, {one: other, other: one}), unit)
            if found is not None:
                yield found, f"with {one} and {other} exchanged"


def _of_other_parts(formula: Expression, named: Named, known: Sequence[str], unit: str) -> Iterator[tuple[float, str]]:
    """Another part taken for the one that is meant."""
    own = [probe.name for probe in formula.probes]
    lowered = {name.lower() for name in own}
    for one in own:
        for other in known:
            if other.lower() not in lowered and named(one).unit == named(other).unit is not None:
                found = _tried(formula, _exchanged(named, {one: other}), unit)
                if found is not None:
                    yield found, f"with {other} in the place of {one}"


_OTHERWISE = {
    "add": {"par": "with {} parallel to {} instead of in series"},
    "par": {"add": "with {} in series with {} instead of parallel"},
}


def _plain(node: Tree[Token] | Token) -> str:
    if isinstance(node, Tree) and node.data == "name":
        return probe_of(node).name
    return "the first" if isinstance(node, Tree) else str(node)


def _replaced(tree: Tree[Token], old: Tree[Token], new: Tree[Token]) -> Tree[Token]:
    if tree is old:
        return new
    children = [_replaced(child, old, new) if isinstance(child, Tree) else child for child in tree.children]
    return Tree(tree.data, children, tree.meta)


def _exchanged(named: Named, pair: Mapping[str, str]) -> Named:
    return lambda name: named(pair.get(name, name))


def _tried(formula: Expression, named: Named, unit: str) -> float | None:
    try:
        return evaluated(formula, named, unit)
    except MeasurementError:
        return None
