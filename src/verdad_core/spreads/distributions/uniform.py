"""Every value between the limits is as likely as any other."""

from __future__ import annotations

from verdad_core.arrays import Floats
from verdad_core.spreads.distribution import Distribution


def _inverse(u: Floats, _: float) -> Floats:
    return 2.0 * u - 1.0


UNIFORM = Distribution("uniform", "uniform", "every value between the limits is as likely as any other", _inverse)
