"""Scales that are chosen from the circuit where a check leaves them open, and why, in words."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.poles import Poles
from verdad_core.board.analyses import DcSweep, FrequencySweep, Transient
from verdad_core.board.checks import Check
from verdad_core.board.document import Circuit
from verdad_core.board.fixtures import Source, Supply
from verdad_core.board.quantities import TEMPERATURE, quantity
from verdad_core.errors import BoardError
from verdad_core.units import format_value, parse_value

#: Poles above this frequency are those of models, not of boards.
_FASTEST = 1e9
#: What is shown where the circuit says nothing: the audible band and a decade around it.
_USUAL = (1.0, 1e6)
#: Decades that are shown at most.
_DECADES = 9


@dataclass(frozen=True)
class Scale:
    """From where to where, and why where it was chosen."""

    start: float
    stop: float
    words: str = ""


def frequencies(sweep: FrequencySweep, natural: Poles) -> Scale:
    """The range of a sweep in hertz: whole decades, from two below the slowest pole to one above the fastest.

    A pass band is level to 1e-4 two decades below the pole that ends it.
    """
    found = np.abs(natural.values) / (2 * math.pi)
    found = found[(found > 1e-6) & (found < _FASTEST)]
    if len(found):
        low, high = 10.0 ** (math.floor(math.log10(found.min())) - 2), 10.0 ** (math.ceil(math.log10(found.max())) + 1)
        low = max(low, high / 10.0**_DECADES)
        ends = " to ".join(dict.fromkeys(format_value(f, "Hz", 3) for f in (found.min(), found.max())))
        words = f"beyond the poles, {ends}"
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


def duration(transient: Transient, check: Check, natural: Poles) -> Scale:
    """How long a transient runs, in seconds: periods of the slowest source, or else time constants of the circuit."""
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
        length, words = 5.0 * longest, f"five times the slowest time constant, {format_value(longest, 's', 3)}"
    else:
        length, words = 1e-3, "the circuit has no time constant to choose it from"
    if events > 0:
        words += f", after what happens until {format_value(events, 's', 3)}"
    stop = _rounded_up(events + length)
    return Scale(0.0, stop, f"{format_value(stop, 's', 3)}: {words}")


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
