"""What a column of measurements says: moments, percentiles, histogram, capability, yield and its confidence."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from scipy.special import betaincinv, ndtr

from verdad_core.arrays import Booleans, Floats, Integers

#: With how much confidence an interval holds the yield.
CONFIDENCE = 0.95

#: Fewer values than this tell nothing of their distribution's form.
_FEWEST_FOR_FORM = 20


@dataclass(frozen=True)
class Summary:
    """Of `n` rows that gave a number; `missing` rows gave none. `sigma` is the sample standard deviation (n - 1).

    `skew` is the third standardised moment (NIST/SEMATECH e-Handbook, 1.3.5.11). `normal` is the probability that a
    normal distribution gives values at least as far from it (`normality`); None for few values or equal ones.
    """

    n: int
    missing: int
    mean: float
    sigma: float
    skew: float
    min: float
    p1: float
    p10: float
    median: float
    p90: float
    p99: float
    max: float
    normal: float | None


@dataclass(frozen=True)
class Histogram:
    """`counts` [bins] of the values between `edges` [bins + 1]."""

    edges: Floats
    counts: Integers


@dataclass(frozen=True)
class Yield:
    """The share of rows within the limits, with its confidence interval. A row without a number does not pass."""

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
    p1, p10, median, p90, p99 = map(float, np.percentile(good, [1, 10, 50, 90, 99]))
    mean, least, greatest = float(np.mean(good)), float(np.min(good)), float(np.max(good))
    # What differs by rounding alone has no form.
    differs = greatest - least > 1e-12 * max(abs(least), abs(greatest))
    spread = float(np.std(good)) if differs else 0.0
    return Summary(
        n=len(good), missing=len(values) - len(good), mean=mean,
        sigma=float(np.std(good, ddof=1)) if len(good) > 1 else 0.0,
        skew=float(np.mean(((good - mean) / spread) ** 3)) if spread else 0.0,
        min=least, p1=p1, p10=p10, median=median, p90=p90, p99=p99, max=greatest,
        normal=normality(good) if differs and len(good) >= _FEWEST_FOR_FORM else None,
    )  # fmt: skip


def normality(values: Floats) -> float:
    """The probability of values [n] that lie so far from a normal distribution, by the test of Anderson and Darling.

    Mean and deviation are taken from the values (Stephens in D'Agostino and Stephens, "Goodness-of-fit techniques",
    1986, table 4.9, from memory).
    """
    n = len(values)
    z = np.sort((values - np.mean(values)) / np.std(values, ddof=1))
    # Far out, where the distribution function is 0 or 1 to all digits, the logarithm is still a number.
    low, high = np.maximum(ndtr(z), 1e-300), np.maximum(ndtr(-z), 1e-300)
    weights = 2.0 * np.arange(1, n + 1) - 1.0
    square = -n - float(np.sum(weights * (np.log(low) + np.log(high[::-1])))) / n
    a = square * (1.0 + 0.75 / n + 2.25 / n**2)
    if a < 0.2:
        return float(1.0 - np.exp(-13.436 + 101.14 * a - 223.73 * a * a))
    if a < 0.34:
        return float(1.0 - np.exp(-8.318 + 42.796 * a - 59.938 * a * a))
    if a < 0.6:
        return float(np.exp(0.9177 - 4.279 * a - 1.38 * a * a))
    return float(np.exp(min(1.2937 - 5.709 * a + 0.0186 * a * a, 0.0))) if a < 13.0 else 0.0


def histogram(values: Floats, cuts: Iterable[float] = ()) -> Histogram | None:
    """Bins of equal width: as many as the rule of Freedman and Diaconis (1981) asks for, or the square root of the
    number of values where that is more (a flat distribution has wide quartiles), and at most 60.

    At `cuts` a bin ends, so that none lies on both sides of a limit; the bins between two cuts are of equal width.
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
    width, inner = max((high - low) / bins, 5e-324), sorted({cut for cut in cuts if low < cut < high})
    stretches = list(zip([low, *inner], [*inner, high], strict=True))
    edges = np.concatenate([
        [low], *(np.linspace(start, stop, 1 + max(1, round((stop - start) / width)))[1:] for start, stop in stretches)
    ])  # fmt: skip
    counts, _ = np.histogram(good, bins=edges)
    return Histogram(edges, counts.astype(np.int32))


@dataclass(frozen=True)
class Capability:
    """How often a deviation fits between limits (NIST/SEMATECH e-Handbook, 6.1.6): `cp` = (U - L) / 6σ, None with one
    limit, and `cpk` = the distance of the mean to the nearer limit / 3σ. They speak of a yield where the values are
    normally distributed.
    """

    cp: float | None
    cpk: float


def capability(found: Summary, lower: float | None, upper: float | None) -> Capability | None:
    """None without a limit, or where nothing varies."""
    rooms = [found.mean - lower] if lower is not None else []
    rooms += [upper - found.mean] if upper is not None else []
    if not rooms or found.sigma <= 0.0:
        return None
    both = (upper - lower) / (6.0 * found.sigma) if lower is not None and upper is not None else None
    return Capability(both, min(rooms) / (3.0 * found.sigma))


def passing(values: Floats, lower: float | None, upper: float | None) -> Booleans:
    """Which of [rows] values are within limits; what is no number is not."""
    inside = np.isfinite(values)
    if lower is not None:
        inside &= values >= lower
    if upper is not None:
        inside &= values <= upper
    return np.asarray(inside)


def yield_of(passed: Booleans) -> Yield:
    """The yield of rows of which it is known whether they pass.

    With the interval of Clopper and Pearson (Biometrika 26, 1934), which holds the true yield at least as often as it
    says.
    """
    count, total = int(np.sum(passed)), len(passed)
    if total == 0:
        return Yield(0, 0, math.nan, 0.0, 1.0)
    tail = 0.5 * (1.0 - CONFIDENCE)
    low = float(betaincinv(count, total - count + 1, tail)) if count else 0.0
    high = float(betaincinv(count + 1, total - count, 1.0 - tail)) if count < total else 1.0
    return Yield(count, total, count / total, low, high)
