"""Whole periods of a waveform that repeats itself, so that a mean does not depend on where the run ends."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.measure.trace import Trace
from verdad_core.units import format_value

#: Intervals between crossings may differ by this part, and means and swings of periods by this part of the whole swing.
REGULAR, ALIKE = 2e-3, 5e-3

#: A crossing counts when the trace has been this part of its swing on the other side.
HYSTERESIS = 0.2


@dataclass(frozen=True)
class Periods:
    """`count` periods from the instant `start` to `stop`, in s."""

    start: float
    stop: float
    count: int

    @property
    def period(self) -> float:
        return (self.stop - self.start) / self.count

    @property
    def words(self) -> str:
        return f"over {self.count} periods of {format_value(self.period, 's', 4)}"

    def cut(self, trace: Trace) -> Trace:
        """The trace between the two instants."""
        return trace.between(self.start, self.stop)


def whole_periods(time: Floats, values: Floats) -> Periods | None:
    """The whole periods that a waveform holds; None where it does not repeat itself at least twice."""
    swing = float(np.ptp(values)) if len(values) > 3 else 0.0
    if swing <= 1e-12 * float(np.max(np.abs(values), initial=0.0)) or swing == 0.0:
        return None
    crossings = _rising(time, values, 0.5 * float(np.max(values) + np.min(values)), HYSTERESIS * swing)
    for skip in range(1, 5):
        # With several rises a period every second, third or fourth of them begins one.
        starts = crossings[::skip]
        if len(starts) < 3:
            return None
        lengths = np.diff(starts)
        if np.ptp(lengths) > REGULAR * lengths.mean():
            continue
        if _alike(time, values, starts, swing):
            return Periods(float(starts[0]), float(starts[-1]), len(lengths))
    return None


def _rising(time: Floats, values: Floats, level: float, away: float) -> Floats:
    """Where the waveform rises through a level, having been `away` below it."""
    found, armed = [], bool(values[0] < level - away)
    # Only points where something happens are walked.
    low, above = values < level - away, values > level
    for k in np.flatnonzero(np.concatenate([[True], (low[1:] != low[:-1]) | (above[1:] != above[:-1])])):
        if low[k]:
            armed = True
        elif above[k] and armed and k > 0:
            rise = values[k] - values[k - 1]
            part = (level - values[k - 1]) / rise if rise > 0 else 1.0
            found.append(time[k - 1] + min(max(part, 0.0), 1.0) * (time[k] - time[k - 1]))
            armed = False
    return np.array(found)


def _alike(time: Floats, values: Floats, starts: Floats, swing: float) -> bool:
    """Whether periods have the same mean and the same extremes, at the ends and in between."""
    seen = []
    for k in dict.fromkeys((0, (len(starts) - 1) // 2, len(starts) - 2)):
        low, high = np.searchsorted(time, starts[k], "right"), np.searchsorted(time, starts[k + 1], "left")
        instants = np.concatenate([[starts[k]], time[low:high], [starts[k + 1]]])
        part = np.interp(instants, time, values)
        mean = np.trapezoid(part, instants) / (instants[-1] - instants[0])
        seen.append((mean, part.min(), part.max()))
    return bool(np.all(np.ptp(np.array(seen), axis=0) <= ALIKE * swing))
