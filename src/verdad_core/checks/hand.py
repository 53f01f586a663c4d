"""Hand values: the designer's closed form for a measurement, with the numbers that stand on the sheet now."""

from __future__ import annotations

import math
from dataclasses import dataclass

from verdad_core.checks.quantities import quantity
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.measurements import HandValue
from verdad_core.handcalc.forms import CLOSED_FORMS


@dataclass(frozen=True)
class Hand:
    """A hand value: the closed form's text, its number, and how far the simulated one lies from it, in per cent."""

    formula: str
    source: str
    value: float
    deviation: float


def hand_value(circuit: Circuit, check: Check, hand: HandValue, simulated: float) -> Hand:
    """Raises BoardError where a symbol's part or fixture has no value."""
    form = CLOSED_FORMS[hand.form]
    value = form.evaluate(**{s: quantity(circuit, check, name).value for s, name in hand.inputs.items()})
    deviation = 100.0 * (simulated - value) / abs(value) if value else math.nan
    return Hand(form.formula, form.source, value, deviation)
