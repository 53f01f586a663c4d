"""Temperature: checks from cold to hot, the temperature that each is drawn for always among them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any, ClassVar, Literal, Self

import numpy as np
from pydantic import Field

from verdad_core.arrays import Floats
from verdad_core.checks.elaborate import Models
from verdad_core.checks.quantities import TEMPERATURE
from verdad_core.document.board import Board
from verdad_core.schema import Celsius, setting
from verdad_core.studies.kind import Places, Shape
from verdad_core.studies.kinds.between import INDUSTRIAL, Between
from verdad_core.studies.table import Found
from verdad_core.units import parse_value


class Temperature(Between):
    """Checks repeated while everything is as warm as its surroundings, and by its own rise warmer."""

    kind: Literal["temperature"] = "temperature"
    coldest: Celsius | None = setting("-40", label="Coldest", unit="°C", empty="-40 °C")
    hottest: Celsius | None = setting(
        "85", label="Hottest", unit="°C", empty="85 °C", hint="The industrial range unless asked otherwise"
    )
    points: Annotated[int, Field(ge=2, le=10_000)] = setting(
        26, label="Values", hint="How many; the checks' own temperatures come besides"
    )

    name: ClassVar[str] = "Temperature"
    question: ClassVar[str] = "How does it change from cold to hot?"
    meaning: ClassVar[str] = (
        "Each measurement over temperature, the nominal one among them, with its slope. Parts follow by their models, "
        "and by the temperature coefficients and rises that they are given."
    )
    shape: ClassVar[Shape] = "curve"

    @classmethod
    def proposed(cls, board: Board, identifier: str, title: str, checks: Sequence[str]) -> Self:
        return cls(id=identifier, title=title, checks=tuple(checks))

    def size_on(self, board: Board) -> int:
        return len(self._temperatures(board))

    def content(self, board: Board, check: str) -> Any:
        return self._temperatures(board).tolist()

    def values(
        self, board: Board, check: str, models: Models, start: int, stop: int, found: Found
    ) -> Mapping[str, Floats]:
        return {TEMPERATURE: self._temperatures(board)[start:stop]}

    def places(self, board: Board) -> tuple[Places, ...]:
        return (Places(TEMPERATURE, "°C", self._temperatures(board), logarithmic=False),)

    def _temperatures(self, board: Board) -> Floats:
        """From cold to hot [rows]; the checks' own ones are among them where they lie between."""
        low, high = self.range or INDUSTRIAL
        even = np.linspace(low, high, self.points)
        own = [parse_value(board.check(check)[1].temperature) for check in self.checks]
        # One that is nearly there anyway takes its place.
        near = 0.01 * (high - low) / self.points
        kept = [value for value in even if all(abs(value - each) > near for each in own)]
        return np.unique([*kept, *(each for each in own if low <= each <= high)])
