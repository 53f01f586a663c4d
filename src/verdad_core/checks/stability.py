"""What must be said where an operating point is one that the circuit would leave by itself."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint
from verdad_core.analyses.poles import Poles, moving
from verdad_core.errors import Finding, Severity
from verdad_core.units import format_value

#: What being unstable means for numbers at rest.
STAYS = "it will not stay here: numbers of it are no evidence"


#: Natural frequencies within these, in Hz, are those of boards, not of models and rounding; as many are told.
_SLOWEST, _FASTEST, _MOST = 1e-3, 1e10, 24


@dataclass(frozen=True)
class Mode:
    """A natural frequency in hertz, how it is damped (1 and above creeps, below it rings, below 0 it grows), and the
    net that moves most in it; empty where that is not known.
    """

    frequency: float
    damping: float
    net: str = ""


def modes(natural: Poles, point: OperatingPoint, nets: Sequence[str]) -> tuple[Mode, ...]:
    """The natural frequencies that matter on a board, the least damped first; a pair is one."""
    found = natural.values[natural.values.imag >= 0.0]
    hertz = np.abs(found) / (2.0 * math.pi)
    kept = found[(hertz > _SLOWEST) & (hertz < _FASTEST)]
    listed = kept[np.lexsort((np.abs(kept), -kept.real / np.abs(kept)))][:_MOST]
    names = moving(point, listed, nets) if len(listed) and nets else [""] * len(listed)
    return tuple(
        Mode(float(abs(p)) / (2.0 * math.pi), -float(p.real / abs(p)), net)
        for p, net in zip(listed, names, strict=True)
    )


def unstable(natural: Poles) -> str:
    """What an unstable circuit does, in a sentence; empty for one that is not, or not known to be."""
    if not len(natural.unstable):
        return ""
    growth = natural.unstable[np.argmax(natural.unstable.real)]
    if not growth.imag:
        return "Unstable: it runs away from where it rests, to a limit."
    return f"Unstable: it oscillates near {format_value(abs(growth) / (2 * math.pi), 'Hz', 3)}."


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
