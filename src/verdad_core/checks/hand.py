"""Hand values: the designer's own formula for a measurement, with the numbers that stand on the sheet now."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from difflib import get_close_matches
from functools import cache

from verdad_core.checks.elaborate import Models
from verdad_core.checks.quantities import Quantity, quantities, quantity
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.errors import BoardError, MeasurementError, ValueTextError
from verdad_core.handcalc.formula import Named, Number, evaluated
from verdad_core.handcalc.rendered import rendered
from verdad_core.handcalc.slips import DOUBTFUL, slips
from verdad_core.measure.expressions import CONSTANTS, read_expression, written_name
from verdad_core.measure.units import NONE, Unit, unit_called
from verdad_core.units import format_value

#: As they are usually written.
_CONSTANTS = {"pi": CONSTANTS["pi"], "k_B": CONSTANTS["k_b"], "q_e": CONSTANTS["q_e"]}

#: Measurements by their titles: number and unit.
Others = Mapping[str, tuple[float, str]]


@dataclass(frozen=True)
class Hand:
    """A hand value: the formula, also as MathML, where it is from, and its number.

    `deviation` is how far the simulated one lies from it in per cent; where that is doubtful, `slips` would explain it.
    """

    formula: str
    rendered: str
    source: str
    value: float
    deviation: float
    doubtful: bool
    slips: tuple[str, ...]


@dataclass(frozen=True)
class FormulaName:
    """What a formula can name, as it is written there, with its present number in words and its unit."""

    written: str
    text: str
    unit: str


def formula_names(circuit: Circuit, check: Check, models: Models, others: Others) -> list[FormulaName]:
    """All that a hand formula can name."""
    own = [
        FormulaName(written_name(q.name), format_value(q.value, q.unit), q.unit)
        for q in quantities(circuit, check, models)
    ]
    fixed = [
        FormulaName(name, f"{float(trace.values):.6g} {trace.unit.name}".strip(), trace.unit.name)
        for name, trace in _CONSTANTS.items()
    ]
    return (
        own
        + fixed
        + [FormulaName(f'"{title}"', format_value(value, unit), unit) for title, (value, unit) in others.items()]
    )


def hand_value(
    circuit: Circuit, check: Check, models: Models, text: str, source: str, unit: str, simulated: float, others: Others
) -> Hand:
    """The formula in `text`, worked out; `others` are the check's other measurements.

    Raises MeasurementError, with the column, for a formula without a number here or in another unit than `unit`.
    """
    formula = read_expression(text)
    named = _named(circuit, check, models, others)
    value = evaluated(formula, named, unit)
    deviation = 100.0 * (simulated - value) / abs(value) if value else math.nan
    doubtful = abs(deviation) > DOUBTFUL
    known = [each.name for each in quantities(circuit, check, models)] if doubtful else []
    found = slips(formula, named, known, unit, value, simulated) if doubtful else ()
    return Hand(text, rendered(formula), source, value, deviation, doubtful, found)


def _named(circuit: Circuit, check: Check, models: Models, others: Others) -> Named:
    titles = {title.lower(): number for title, number in others.items()}

    @cache
    def known() -> dict[str, Quantity]:
        """All there are; of many parts they take longer than the few that a formula names."""
        return {each.name.lower(): each for each in quantities(circuit, check, models)}

    @cache
    def found(name: str) -> Quantity | None:
        try:
            own = quantity(circuit, check, name, models)
            return own if math.isfinite(own.value) else None
        except (BoardError, ValueTextError):
            return known().get(name.lower())

    def number(name: str) -> Number:
        if name.lower() not in titles and (own := found(name)) is not None:
            return Number(own.value, unit_called(own.unit) if own.unit else _unknown(own))
        if name.lower() in titles:
            value, unit = titles[name.lower()]
            if math.isnan(value):
                raise MeasurementError(f"'{name}' has no value", remedy="Mend that measurement first.")
            return Number(value / 100.0, NONE) if unit == "%" else Number(value, unit_called(unit))
        near = get_close_matches(name, [each.name for each in known().values()] + list(others), 3, 0.4)
        raise MeasurementError(
            f"there is no value called {name}",
            remedy=f"Did you mean {' or '.join(map(written_name, near))}?" if near
            else "Name a part such as R3, a fixture's quantity, or another measurement in quotes.",
        )  # fmt: skip

    return number


def _unknown(quantity: Quantity) -> Unit | None:
    """Settings of parts and models say no unit, and may have one; others have none."""
    return None if "." in quantity.name else NONE
