"""Triangular: the nominal value is the most likely, the limits have none left."""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.spreads.distribution import Distribution


def _inverse(u: Floats, _: float) -> Floats:
    """Of the density 1 - |x| on ±1 (Devroye 1986, chapter 2)."""
    return np.asarray(np.where(u < 0.5, np.sqrt(2.0 * u) - 1.0, 1.0 - np.sqrt(2.0 * (1.0 - u))))


TRIANGULAR = Distribution("triangular", "triangular", "the nominal value is the most likely one", _inverse)
