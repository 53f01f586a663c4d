"""Preferred values for resistors and capacitors (IEC 60063:2015), and the one nearest to a wanted value."""

from __future__ import annotations

import math
from dataclasses import dataclass

from verdad_core.errors import ValueTextError

#: E24 as the standard lists it: rounded by history, not by rule.
_E24 = (1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5,
        8.2, 9.1)  # fmt: skip
#: E192 is 10^(k/192) rounded to three digits, but for 9.19, which the standard lists as 9.20.
_E192 = tuple(9.20 if k == 185 else round(10 ** (k / 192), 2) for k in range(192))

#: Values within a decade, 1 to 10, by series.
SERIES: dict[str, tuple[float, ...]] = {
    "E3": _E24[::8], "E6": _E24[::4], "E12": _E24[::2], "E24": _E24,
    "E48": _E192[::4], "E96": _E192[::2], "E192": _E192,
}  # fmt: skip


@dataclass(frozen=True)
class Preferred:
    """A value of a series, and how far it lies from what was wanted, in per cent."""

    value: float
    deviation: float


def nearest(wanted: float, series: str) -> Preferred:
    """The value of a series with the smallest relative deviation. Raises ValueTextError for what has none."""
    if series not in SERIES:
        raise ValueTextError(f"there is no series '{series}'", remedy=f"Use one of {', '.join(SERIES)}.")
    if not (math.isfinite(wanted) and wanted > 0):
        raise ValueTextError("only values above zero have a preferred value", remedy="Write a value such as 4k7.")
    decade = math.floor(math.log10(wanted))
    # One conversion of the decimal text keeps the nearest double.
    around = [float(f"{value:g}e{power}") for power in (decade - 1, decade, decade + 1) for value in SERIES[series]]
    best = min(around, key=lambda value: abs(math.log(value / wanted)))
    return Preferred(best, 100.0 * (best / wanted - 1.0))
