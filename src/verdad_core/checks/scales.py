"""Scales that are chosen from the circuit where a check leaves them open, and why, in words."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.poles import Poles
from verdad_core.arrays import Floats
from verdad_core.checks.quantities import TEMPERATURE, quantity
from verdad_core.document.analyses import DcSweep, FrequencySweep, Transient
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Source, Supply
from verdad_core.errors import BoardError
from verdad_core.units import format_value, parse_value

#: Poles above the second frequency, in Hz, are those of models, not of boards; beyond the others they are rounding.
_SLOWEST, _FASTEST, _ROUNDING = 1e-9, 1e9, 1e13
#: What is shown where the circuit says nothing: the audible band and a decade around it.
_USUAL = (1.0, 1e6)
#: How much longer a run becomes that was too short.
LONGER = 4.0
#: Decades that are shown at most.
_DECADES = 11


@dataclass(frozen=True)
class Scale:
    """From where to where, and why where it was chosen."""

    start: float
    stop: float
    words: str = ""


def frequencies(sweep: FrequencySweep, natural: Poles) -> Scale:
    """The range of a sweep in hertz: whole decades, from two below the slowest pole to two above the fastest.

    A pass band is level to 1e-4 two decades away from the pole that ends it. Where poles lie too far apart for one
    range, those around the middle ones count, and the words say what was left out.
    """
    found = np.sort(np.abs(natural.values) / (2 * math.pi))
    found = found[(found > _SLOWEST) & (found < _ROUNDING)]
    within = _window(found[found < _FASTEST]) if np.any(found < _FASTEST) else _window(found)
    if len(within):
        low, high = (10.0 ** (rounded(math.log10(f)) + away) for rounded, f, away in
                     ((math.floor, within[0], -2), (math.ceil, within[-1], 2)))  # fmt: skip
        words = f"two decades beyond the poles, {_ends(within)}"
        if len(within) < len(found):
            words += f"; left out are poles at {_ends(np.setdiff1d(found, within))}"
    else:
        low, high = _USUAL
        words = "the circuit has no poles to choose it from"
    start = low if sweep.start is None else parse_value(sweep.start)
    stop = high if sweep.stop is None else parse_value(sweep.stop)
    if not start < stop:
        # One end was given, beyond what would have been chosen for the other.
        start, stop = (start, start * 1e3) if sweep.stop is None else (stop / 1e3, stop)
    given = sweep.start is not None and sweep.stop is not None
    return Scale(start, stop, "" if given else f"{_span(start, stop, 'Hz')}: {words}")


def _window(found: Floats) -> Floats:
    """Of poles in rising order those within _DECADES: as many as there can be, of equal numbers the faster ones."""
    best = found[:0]
    for k in range(len(found)):
        part = found[k:][found[k:] <= found[k] * 10.0 ** (_DECADES - 4)]
        best = part if len(part) >= len(best) else best
    return best


def _ends(found: Floats) -> str:
    return " to ".join(dict.fromkeys(format_value(float(f), "Hz", 3) for f in (found.min(), found.max())))


def duration(transient: Transient, check: Check, natural: Poles) -> Scale:
    """How long a transient runs, in seconds: periods of the slowest source, or else time constants of the circuit.

    Of these so many that what a measurement asks for has settled to a thousandth of it.
    """
    if transient.stop is not None:
        return Scale(0.0, parse_value(transient.stop))
    waves = {f.name: f.waveform for f in check.fixtures if isinstance(f, Source) and f.waveform is not None}
    periods = {name: wave.period for name, wave in waves.items() if wave.period}
    events = max((wave.settled for wave in waves.values()), default=0.0)
    decay = -natural.values.real
    slow = decay[(decay > 1e-3) & (decay < 2 * math.pi * _FASTEST)]
    if periods:
        slowest = max(periods, key=lambda name: periods[name] or 0.0)
        length, words = 5.0 * (periods[slowest] or 0.0), f"five periods of {slowest}"
    elif len(slow):
        longest = 1.0 / float(slow.min())
        count = _time_constants(check)
        length = count * longest
        words = f"{count:.0f} times the slowest time constant, {format_value(longest, 's', 3)}"
    else:
        length, words = 1e-3, "the circuit has no time constant to choose it from"
    if events > 0:
        words += f", after what happens until {format_value(events, 's', 3)}"
    stop = _rounded_up(events + length)
    return Scale(0.0, stop, f"{format_value(stop, 's', 3)}: {words}")


def _time_constants(check: Check) -> float:
    """At least ten, and so many that e^-n is a thousandth of the narrowest band that is settled to."""
    bands = [parse_value(m.at) / 100.0 for m in check.measurements if m.key == "settling_time" and m.at is not None]
    return float(math.ceil(max([10.0, *(math.log(1e3 / band) for band in bands if band > 0.0)])))


def longer(scale: Scale) -> Scale:
    """A run that goes on for much longer: a slewing amplifier takes no account of its poles."""
    stop = LONGER * scale.stop
    return Scale(scale.start, stop, f"{format_value(stop, 's', 3)}, until what is measured has settled")


def _rounded_up(value: float) -> float:
    """The next number with a first digit of 1, 2 or 5."""
    power = 10.0 ** math.floor(math.log10(value))
    step = next(digit for digit in (1.0, 2.0, 5.0, 10.0) if value <= digit * power * (1 + 1e-6))
    return float(f"{step * power:.3g}")


def swept(sweep: DcSweep, circuit: Circuit, check: Check) -> tuple[str, Scale]:
    """What a DC sweep turns, and over which range. Raises BoardError where there is nothing to sweep."""
    over = sweep.over or _first_source(check)
    found = quantity(circuit, check, over)
    low, high = _range(check, over, found.value)
    start = low if sweep.start is None else parse_value(sweep.start)
    stop = high if sweep.stop is None else parse_value(sweep.stop)
    given = sweep.over is not None and sweep.start is not None and sweep.stop is not None
    return over, Scale(start, stop, "" if given else f"{over} over {_span(start, stop, found.unit)}")


def _first_source(check: Check) -> str:
    ordered = sorted(check.fixtures, key=lambda fixture: not isinstance(fixture, Source))
    for fixture in ordered:
        if isinstance(fixture, Source | Supply):
            return fixture.name
    raise BoardError(
        f"check '{check.title}' has nothing to sweep", remedy="Attach a source, or name a part or the temperature."
    )


def _range(check: Check, over: str, value: float) -> tuple[float, float]:
    """Between the supplies for a source, zero to twice for a supply, the industrial range for a temperature."""
    if over == TEMPERATURE:
        return -40.0, 85.0
    fixture = check.fixture(over.partition(".")[0])
    if isinstance(fixture, Source):
        if fixture.quantity == "current":
            size = abs(value) or 1e-3
            return -size, size
        rails = [parse_value(f.volts) for f in check.fixtures if isinstance(f, Supply)]
        return (min(0.0, *rails), max(0.0, *rails)) if any(rails) else (-1.0, 1.0)
    if isinstance(fixture, Supply):
        return 0.0, 2.0 * value if value else 1.0
    return value / 10.0, value * 10.0


def _span(start: float, stop: float, unit: str) -> str:
    return f"{format_value(start, unit, 3)} to {format_value(stop, unit, 3)}"
