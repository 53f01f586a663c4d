"""What must be said where an operating point is one that the circuit would leave by itself."""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.poles import Poles
from verdad_core.errors import Finding, Severity
from verdad_core.units import format_value

#: What being unstable means for numbers at rest.
STAYS = "it will not stay here: numbers of it are no evidence"


def stability(natural: Poles, severity: Severity, means: str = "it will not stay here") -> list[Finding]:
    """What must be said of a result whose operating point is not stable, or not known to be, and what that means."""
    if not natural.known:
        return [Finding(Severity.NOTE, "the poles were not computed, so the operating point may be unstable")]
    if not len(natural.unstable):
        return []
    growth = natural.unstable[np.argmax(natural.unstable.real)]
    count = len(natural.unstable)
    where = f"{format_value(abs(growth) / (2 * math.pi), 'Hz', 3)}"
    manner = f"oscillate near {where}" if growth.imag else f"run away within {format_value(1 / growth.real, 's', 3)}"
    return [
        Finding(
            severity,
            f"unstable: {count} pole{'s' if count > 1 else ''} in the right half-plane; the circuit would {manner}, "
            f"and {means}",
            remedy="Look for swapped inputs, for feedback to the wrong input, and for a capacitive load on an output.",
        )
    ]
