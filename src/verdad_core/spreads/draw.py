"""Drawing rows: one stream of random numbers per part, so that a row depends on nothing but seed, part and number.

Adding a part's spread, asking for more rows, or cutting the rows into blocks leaves all other numbers as they were.
The draws are made by inverting the distribution functions (Devroye, "Non-Uniform Random Variate Generation", 1986,
chapter 2) from PCG64 streams (O'Neill 2014) seeded by SHA-256 of seed and part.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from enum import StrEnum

import numpy as np
from scipy.special import ndtr, ndtri

from verdad_core.arrays import Floats

#: Tolerance limits lie at this many standard deviations of a normal distribution (common practice, no source).
SIGMAS = 3.0


class Distribution(StrEnum):
    """How parts lie between their tolerance limits."""

    UNIFORM = "uniform"
    NORMAL = "normal"


def _uniform(u: Floats) -> Floats:
    return 2.0 * u - 1.0


def _normal(u: Floats) -> Floats:
    """Normal with σ = 1/SIGMAS, cut at ±1 and rescaled to unit probability (parts outside are sorted out)."""
    low, high = ndtr(-SIGMAS), ndtr(SIGMAS)
    return np.asarray(ndtri(low + u * (high - low)) / SIGMAS)


_INVERSES: dict[Distribution, Callable[[Floats], Floats]] = {
    Distribution.UNIFORM: _uniform,
    Distribution.NORMAL: _normal,
}


def draw(seed: int, part: str, distribution: Distribution, rows: int) -> Floats:
    """Deviations of one part in units of its tolerance, within ±1: [rows]."""
    digest = hashlib.sha256(f"{seed}:{part}".encode()).digest()
    generator = np.random.Generator(np.random.PCG64(int.from_bytes(digest[:16], "big")))
    return _INVERSES[distribution](generator.random(rows))
