"""Bimodal: a grade from which the better parts have been sorted out, and sold as the next one."""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.spreads.distribution import Distribution, Form


def _inverse(u: Floats, gap: float) -> Floats:
    """Uniform on both sides of the gap."""
    side = 2.0 * u - 1.0
    return np.asarray(np.where(side < 0.0, -1.0, 1.0) * (gap + (1.0 - gap) * np.abs(side)))


BIMODAL = Distribution(
    "bimodal", "sorted, with a gap", "the middle is missing: it was sorted out and sold as a better grade", _inverse,
    Form("gap, of the limit", 0.5, 0.0, 0.99),
)  # fmt: skip
