"""What a column of measurements says: moments, percentiles, histogram, yield with its confidence interval."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats, Integers

#: Two-sided 95 % point of the standard normal distribution.
Z95 = 1.959963984540054


@dataclass(frozen=True)
class Summary:
    """Of `n` rows that gave a number; `missing` rows gave none. `sigma` is the sample standard deviation (n - 1)."""

    n: int
    missing: int
    mean: float
    sigma: float
    min: float
    p10: float
    median: float
    p90: float
    max: float


@dataclass(frozen=True)
class Histogram:
    """`counts` [bins] of the values between `edges` [bins + 1]."""

    edges: Floats
    counts: Integers


@dataclass(frozen=True)
class Yield:
    """The share of rows within the limits, with its 95 % confidence interval. A row without a number does not pass."""

    passed: int
    total: int
    share: float
    low: float
    high: float


def summarise(values: Floats) -> Summary | None:
    """Statistics of [rows] values, NaN where a row gave none; None when no row gave a number."""
    good = values[np.isfinite(values)]
    if len(good) == 0:
        return None
    p10, median, p90 = np.percentile(good, [10, 50, 90])
    return Summary(
        n=len(good),
        missing=len(values) - len(good),
        mean=float(np.mean(good)),
        sigma=float(np.std(good, ddof=1)) if len(good) > 1 else 0.0,
        min=float(np.min(good)),
        p10=float(p10),
        median=float(median),
        p90=float(p90),
        max=float(np.max(good)),
    )


def histogram(values: Floats) -> Histogram | None:
    """Bins of equal width: as many as the rule of Freedman and Diaconis (1981) asks for, or the square root of the
    number of values where that is more (a flat distribution has wide quartiles), and at most 60.
    """
    good = values[np.isfinite(values)]
    if len(good) == 0:
        return None
    low, high = float(np.min(good)), float(np.max(good))
    if high - low <= 1e-12 * max(abs(low), abs(high)):
        half = 0.5e-3 * abs(low) or 0.5
        low, high = low - half, high + half
    quartiles = np.percentile(good, [25, 75])
    width = 2 * float(quartiles[1] - quartiles[0]) / len(good) ** (1 / 3)
    # Values that are nearly all the same have a width so small that there is no number for how many there would be.
    wanted = (high - low) / width if width > 0 else 1.0
    bins = math.ceil(min(max(wanted, math.sqrt(len(good))), 60))
    counts, edges = np.histogram(good, bins=bins, range=(low, high))
    return Histogram(edges, counts.astype(np.int32))


def yield_of(values: Floats, lower: float | None, upper: float | None) -> Yield:
    """The yield against limits, with the interval of Wilson (Journal of the American Statistical Association, 1927)."""
    inside = np.isfinite(values)
    if lower is not None:
        inside &= values >= lower
    if upper is not None:
        inside &= values <= upper
    passed, total = int(np.sum(inside)), len(values)
    if total == 0:
        return Yield(0, 0, math.nan, 0.0, 1.0)
    share = passed / total
    centre = (share + Z95**2 / (2 * total)) / (1 + Z95**2 / total)
    half = Z95 / (1 + Z95**2 / total) * math.sqrt(share * (1 - share) / total + Z95**2 / (4 * total**2))
    return Yield(passed, total, share, max(0.0, centre - half), min(1.0, centre + half))
