"""The period of a circuit that several sources drive: the shortest that holds whole periods of each."""

from __future__ import annotations

import math
from collections.abc import Mapping
from fractions import Fraction

from verdad_core.devices.waveforms import NONE, Waveform
from verdad_core.engine.structure import Structure
from verdad_core.errors import CircuitError
from verdad_core.units import format_value

#: Periods of a source within the common one, and how far from whole their ratio may be.
MOST, WHOLE = 1_000, 1e-9


def periods(structure: Structure) -> dict[str, float]:
    """The periods in s of all sources that repeat themselves, by their names."""
    forms = {e.name: e.extra for e in structure.elements if isinstance(e.extra, Waveform) and e.extra.kind != NONE}
    return {name: period for name, form in forms.items() if (period := form.period)}


def common_period(of: Mapping[str, float]) -> float:
    """The least common multiple of periods in s, by source. Raises CircuitError where there is none."""
    if not of:
        raise CircuitError(
            "no source repeats itself, so there is no period",
            remedy="Give a source a sine or a pulse, or say the period.",
        )
    first = min(of, key=lambda name: of[name])
    count = 1
    for name, period in of.items():
        ratio = Fraction(period / of[first]).limit_denominator(MOST)
        if abs(float(ratio) - period / of[first]) > WHOLE * period / of[first]:
            raise CircuitError(_apart(first, name, of), remedy="Choose frequencies with a plain ratio.")
        count = math.lcm(count, ratio.numerator)
        if count > MOST:
            raise CircuitError(_apart(first, name, of), remedy="Choose frequencies with a plainer ratio.")
    return count * of[first]


def _apart(first: str, other: str, of: Mapping[str, float]) -> str:
    words = " and ".join(f"{name} ({format_value(of[name], 's', 4)})" for name in (first, other))
    return f"the periods of {words} have no common multiple within {MOST} of the shortest"
