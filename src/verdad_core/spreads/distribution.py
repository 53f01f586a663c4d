"""What a distribution is: how values lie between the limits of a tolerance."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from verdad_core.arrays import Floats


@dataclass(frozen=True)
class Form:
    """A number that a distribution's form depends on."""

    title: str
    usual: float
    least: float
    most: float


@dataclass(frozen=True)
class Distribution:
    """`inverse` turns uniform numbers [rows] between 0 and 1 into deviations within ±1, in units of the tolerance.

    Where its form can be chosen, by `form`, that is handed to it as well.
    """

    key: str
    title: str
    meaning: str
    inverse: Callable[[Floats, float], Floats]
    form: Form | None = None
