"""Normal, with the limits at three standard deviations and what lies outside of them sorted out."""

from __future__ import annotations

import numpy as np
from scipy.special import ndtr, ndtri

from verdad_core.arrays import Floats
from verdad_core.spreads.distribution import Distribution

#: Tolerance limits lie at this many standard deviations of a normal distribution (common practice, no source).
SIGMAS = 3.0


def _inverse(u: Floats) -> Floats:
    """Cut at ±1 and rescaled to unit probability."""
    low, high = ndtr(-SIGMAS), ndtr(SIGMAS)
    return np.asarray(ndtri(low + u * (high - low)) / SIGMAS)


NORMAL = Distribution(
    "normal", "normal, cut", "limits at three standard deviations; what lies outside is sorted out", _inverse
)
