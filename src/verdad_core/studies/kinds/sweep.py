"""Sweep: one quantity takes one value after the other, everything else stays as drawn."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Annotated, Any, ClassVar, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from verdad_core.arrays import Floats
from verdad_core.checks.elaborate import Models
from verdad_core.checks.quantities import TEMPERATURE, quantity
from verdad_core.document.board import Board
from verdad_core.document.parts import Valued
from verdad_core.errors import BoardError
from verdad_core.handcalc.series import SERIES
from verdad_core.schema import Name, Quantity, setting
from verdad_core.studies.kind import Places, Shape, StudyKind
from verdad_core.studies.kinds.between import INDUSTRIAL
from verdad_core.studies.table import Found
from verdad_core.units import parse_value


class Sweep(StudyKind):
    """Checks repeated while one quantity takes values from start to stop."""

    kind: Literal["sweep"] = "sweep"
    over: Name = setting(
        label="Of", chooses="quantity", resets=("start", "stop"), hint="A part, a fixture's value, or the temperature"
    )
    start: Quantity | None = setting(None, label="From", empty="from the value", hint="Empty: half of it, -40 °C")
    stop: Quantity | None = setting(None, label="To", empty="from the value", hint="Empty: twice of it, 85 °C")
    points: Annotated[int, Field(ge=2, le=100_000)] = setting(25, label="Values", hint="How many, both ends included")
    spacing: Literal["linear", "logarithmic", "E6", "E12", "E24", "E96"] = setting(
        "linear", label="Spaced", titles={
            "linear": "evenly", "logarithmic": "by equal ratios",
            **{series: f"as {series}, whatever number that is" for series in ("E6", "E12", "E24", "E96")},
        }
    )  # fmt: skip

    name: ClassVar[str] = "Sweep"
    question: ClassVar[str] = "How does it change with one value, or with temperature?"
    meaning: ClassVar[str] = "Each measurement along a quantity: a part's value, a supply, a load, the temperature."
    shape: ClassVar[Shape] = "curve"

    @model_validator(mode="after")
    def _moves(self) -> Self:
        if self.start is not None and self.stop is not None and parse_value(self.start) == parse_value(self.stop):
            raise BoardError(f"the sweep stays at {self.start}", remedy="Stop at another value.")
        return self

    @classmethod
    def proposed(cls, board: Board, identifier: str, title: str, checks: Sequence[str]) -> Self:
        circuit, check = board.check(checks[0])
        parts = [part.designator for part in circuit.parts if isinstance(part, Valued) and part.value]
        over = next(iter(parts), next((f.name for f in check.fixtures if f.kind == "supply"), TEMPERATURE))
        # What turns a part's value explores: no board is built so.
        return cls(id=identifier, title=title, checks=tuple(checks), over=over, judged=over not in parts)

    def size_on(self, board: Board) -> int:
        return len(self._grid(board, self.checks[0])) if self.spacing in SERIES else self.points

    def content(self, board: Board, check: str) -> Any:
        return {"over": self.over, "values": self._grid(board, check).tolist()}

    def values(
        self, board: Board, check: str, models: Models, start: int, stop: int, found: Found
    ) -> Mapping[str, Floats]:
        return {self.over: self._grid(board, check)[start:stop]}

    def places(self, board: Board) -> Places:
        unit = quantity(*board.check(self.checks[0]), self.over).unit
        return Places(self.over, unit, self._grid(board, self.checks[0]), self.spacing != "linear")

    def _grid(self, board: Board, check: str) -> Floats:
        """The values [points], the same in all checks that it covers: those of the first. Raises BoardError."""
        quantity(*board.check(check), self.over)
        turned = quantity(*board.check(self.checks[0]), self.over)
        now = turned.value
        low, high = INDUSTRIAL if self.over == TEMPERATURE else (0.5 * now, 2.0 * now)
        start = low if self.start is None else turned.read(self.start)
        stop = high if self.stop is None else turned.read(self.stop)
        if start == stop:
            raise BoardError(f"the sweep of {self.over} would begin and end at {start:g}", remedy="Give both its ends.")
        if self.spacing != "linear" and not start * stop > 0.0:
            raise BoardError(
                "equal ratios need both ends on one side of zero", remedy="Space the values evenly, or move an end."
            )
        if self.spacing in SERIES:
            return self._preferred(min(start, stop), max(start, stop))
        if self.spacing == "logarithmic":
            return np.asarray(np.copysign(np.geomspace(abs(start), abs(stop), self.points), start))
        return np.linspace(start, stop, self.points)

    def _preferred(self, low: float, high: float) -> Floats:
        """The values of a series within both ends, which count."""
        if low <= 0.0:
            raise BoardError("preferred values lie above zero", remedy="Space the values evenly, or move an end.")
        decades = range(math.floor(math.log10(low)), math.floor(math.log10(high)) + 1)
        values = [float(f"{value:g}e{power}") for power in decades for value in SERIES[self.spacing]]
        found = [value for value in values if low * (1 - 1e-9) <= value <= high * (1 + 1e-9)]
        if len(found) < 2:
            raise BoardError(
                f"{self.spacing} has no two values between {low:g} and {high:g}", remedy="Move the ends apart."
            )
        return np.array(found)
