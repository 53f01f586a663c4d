"""What a distribution is: how values lie between the limits of a tolerance."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from verdad_core.arrays import Floats


@dataclass(frozen=True)
class Distribution:
    """`inverse` turns uniform numbers [rows] between 0 and 1 into deviations within ±1, in units of the tolerance."""

    key: str
    title: str
    meaning: str
    inverse: Callable[[Floats], Floats]
