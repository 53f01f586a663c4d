"""Measured responses that lie over what a check computes: a network analyser's file, or a table of frequencies."""

from __future__ import annotations

from typing import Annotated, Self

import numpy as np
from pydantic import Field, StringConstraints, model_validator

from verdad_core.arrays import Complexes
from verdad_core.errors import BoardError
from verdad_core.schema import Document, Title

#: Points of a response that are kept at most.
MOST_POINTS = 10_001

_Numbers = Annotated[
    tuple[Annotated[float, Field(allow_inf_nan=False)], ...], Field(min_length=2, max_length=MOST_POINTS)
]
#: What it is called in expressions, before a point: lab.s21.
OverlayName = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,15}$")]
_TraceName = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,31}$")]


class Overlay(Document):
    """Complex values over rising frequencies in Hz, of one trace or several: `real` and `imaginary` by its name."""

    name: OverlayName
    file: Title
    frequency: _Numbers
    real: Annotated[dict[_TraceName, _Numbers], Field(min_length=1, max_length=81)]
    imaginary: Annotated[dict[_TraceName, _Numbers], Field(min_length=1, max_length=81)]

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if np.any(np.diff(self.frequency) <= 0.0) or self.frequency[0] <= 0.0:
            raise BoardError(
                f"the frequencies of {self.file} do not rise from above zero", remedy="Take the file anew."
            )
        lengths = {len(numbers) for part in (self.real, self.imaginary) for numbers in part.values()}
        if self.real.keys() != self.imaginary.keys() or lengths != {len(self.frequency)}:
            raise BoardError(f"{self.file} is not whole", remedy="Take the file anew.")
        return self

    def values(self, trace: str) -> Complexes:
        return np.array(self.real[trace]) + 1j * np.array(self.imaginary[trace])
