"""Normal, with the limits at so many standard deviations and what lies outside of them sorted out."""

from __future__ import annotations

import numpy as np
from scipy.special import ndtr, ndtri

from verdad_core.arrays import Floats
from verdad_core.spreads.distribution import Distribution, Form

#: Tolerance limits lie at this many standard deviations of a normal distribution (common practice, no source).
SIGMAS = Form("σ at the limits", 3.0, 0.5, 8.0)


def _inverse(u: Floats, sigmas: float) -> Floats:
    """Cut at ±1 and rescaled to unit probability."""
    low, high = ndtr(-sigmas), ndtr(sigmas)
    return np.asarray(ndtri(low + u * (high - low)) / sigmas)


NORMAL = Distribution(
    "normal", "normal, cut", "limits at three standard deviations, or as chosen; what lies outside is sorted out",
    _inverse, SIGMAS,
)  # fmt: skip
