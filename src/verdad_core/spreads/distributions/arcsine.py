"""Arcsine: what swings as a sine, caught at any moment, is near its limits most of the time."""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.spreads.distribution import Distribution


def _inverse(u: Floats, _: float) -> Floats:
    """Of the density 1 / (π √(1 - x²)) on ±1 (JCGM 101:2008, 6.4.6)."""
    return np.asarray(-np.cos(np.pi * u))


ARCSINE = Distribution("arcsine", "arcsine", "most values lie near the limits, as of something that swings", _inverse)
