"""Measurements on a loop gain T(f): frequency [F] in hertz, complex values [F], positive where it opposes its cause.

Between two points the logarithm of the magnitude and the phase are straight lines over the logarithm of the frequency;
a check of a loop brings enough points around its crossings (Bode 1945: a loop is stable with the phase to spare that is
left where its gain is 1, where it is one that crosses once).
"""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.loop_gain import Crossing, margins_of
from verdad_core.arrays import Complexes
from verdad_core.errors import MeasurementError
from verdad_core.measure.entry import Entry, Settings, always
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import DECIBELS, DEGREES, HERTZ, Unit

#: A loop that gives back less than this is none.
NOTHING = 1e-6


def phase_margin(trace: Trace, settings: Settings) -> float:
    """Degrees that are left to -180° where the gain is 1; of several such places the smallest."""
    return _critical(trace).margin


def crossover(trace: Trace, settings: Settings) -> float:
    """The frequency in hertz at which the gain is 1, where the phase margin is smallest."""
    return _critical(trace).frequency


def gain_margin(trace: Trace, settings: Settings) -> float:
    """Decibels to a gain of 1 where the phase is -180°; of several such places the smallest."""
    found = margins_of(trace.along().values, _values(trace)).gain_margin
    if found is None:
        raise MeasurementError(
            "the phase does not reach -180° within the range", remedy="Widen it, if it ends before the gain has gone."
        )
    return found.margin


def rate_of_closure(trace: Trace, settings: Settings) -> float:
    """How steeply the gain falls where it is 1, in dB per decade: 20 leaves phase to spare, 40 next to none."""
    f, level = trace.along().values, 20.0 * np.log10(np.maximum(np.abs(_values(trace)), 1e-300))
    at = crossover(trace, settings)
    if not f[0] <= at * 10**-0.05 < at * 10**0.05 <= f[-1]:
        raise MeasurementError("the loop gain is 1 at the very end of the range", remedy="Widen it.")
    low, high = (float(np.interp(math.log(at * side), np.log(f), level)) for side in (10**-0.05, 10**0.05))
    return (low - high) / 0.1


def _critical(trace: Trace) -> Crossing:
    values = _values(trace)
    found = margins_of(trace.along().values, values).phase_margin
    if found is not None:
        return found
    if np.max(np.abs(values)) < 1.0:
        raise MeasurementError(
            "the loop gain stays below 1, so there is nothing to oscillate",
            remedy="Cut the loop at another pin if there should be one.",
        )
    raise MeasurementError("the loop gain does not fall to 1 within the range", remedy="Stop at a higher frequency.")


def _values(trace: Trace) -> Complexes:
    """Raises MeasurementError where nothing comes back."""
    values = np.asarray(trace.values, complex)
    if np.max(np.abs(values)) < NOTHING:
        raise MeasurementError("nothing comes back there: the cut opens no loop", remedy="Cut it at another pin.")
    return values


_PER_DECADE = Unit(word="dB/dec")
_BODE = "Bode, Network Analysis and Feedback Amplifier Design, 1945 (from memory)"

ENTRIES = (
    Entry("phase_margin", "Phase margin", "Degrees left to oscillation where the loop gain is 1.", "loop",
          phase_margin, always(DEGREES), source=_BODE),
    Entry("crossover", "Crossover frequency", "Where the loop gain is 1.", "loop", crossover, always(HERTZ),
          source=_BODE),
    Entry("gain_margin", "Gain margin", "Decibels left to oscillation where the phase is -180°.", "loop",
          gain_margin, always(DECIBELS), source=_BODE),
    Entry("rate_of_closure", "Rate of closure", "How steeply the loop gain falls where it is 1.", "loop",
          rate_of_closure, always(_PER_DECADE), source=_BODE),
)  # fmt: skip
