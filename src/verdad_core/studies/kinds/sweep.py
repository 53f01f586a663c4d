"""Sweep: one quantity, or two, take one value after the other, everything else stays as drawn."""

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

#: At the most so many rows.
_MOST = 100_000


class Sweep(StudyKind):
    """Checks repeated while a quantity takes values from start to stop, for each value of another one if asked for."""

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

    across: Name | None = setting(
        None, label="And of", chooses="quantity", empty="nothing else", resets=("across_start", "across_stop"),
        hint="Another quantity: every value of the one at every value of the other, as a map",
    )  # fmt: skip
    across_start: Quantity | None = setting(None, label="Other from", empty="from the value", needs="across")
    across_stop: Quantity | None = setting(None, label="Other to", empty="from the value", needs="across")
    across_points: Annotated[int, Field(ge=2, le=1_000)] = setting(15, label="Other values", needs="across")

    name: ClassVar[str] = "Sweep"
    question: ClassVar[str] = "How does it change with a value, with two, or with temperature?"
    meaning: ClassVar[str] = (
        "Each measurement along a quantity: a part's value, a supply, a load, the temperature; along two as a map."
    )
    shape: ClassVar[Shape] = "curve"

    @model_validator(mode="after")
    def _moves(self) -> Self:
        for start, stop in ((self.start, self.stop), (self.across_start, self.across_stop)):
            if start is not None and stop is not None and parse_value(start) == parse_value(stop):
                raise BoardError(f"the sweep stays at {start}", remedy="Stop at another value.")
        if self.across == self.over:
            raise BoardError(f"{self.over} cannot be swept twice at once", remedy="Choose another quantity, or none.")
        if self.across and self.points * self.across_points > _MOST:
            raise BoardError(
                f"{self.points} by {self.across_points} values are more than {_MOST:,} rows", remedy="Take fewer."
            )
        return self

    @classmethod
    def proposed(cls, board: Board, identifier: str, title: str, checks: Sequence[str]) -> Self:
        circuit, check = board.check(checks[0])
        parts = [part.designator for part in circuit.parts if isinstance(part, Valued) and part.value]
        over = next(iter(parts), next((f.name for f in check.fixtures if f.kind == "supply"), TEMPERATURE))
        # What turns a part's value explores: no board is built so.
        return cls(id=identifier, title=title, checks=tuple(checks), over=over, judged=over not in parts)

    def size_on(self, board: Board) -> int:
        return math.prod(len(axis.values) for axis in self.places(board))

    def content(self, board: Board, check: str) -> Any:
        axes = self.places(board)
        content = {"over": self.over, "values": axes[0].values.tolist()}
        return content if len(axes) == 1 else {**content, "across": self.across, "and": axes[1].values.tolist()}

    def values(
        self, board: Board, check: str, models: Models, start: int, stop: int, found: Found
    ) -> Mapping[str, Floats]:
        circuit, own = board.check(check)
        axes = self.places(board)
        for axis in axes:
            quantity(circuit, own, axis.title)
        rows = np.arange(start, min(stop, self.size_on(board)))
        at = np.unravel_index(rows, [len(axis.values) for axis in axes[::-1]])[::-1]
        return {axis.title: axis.values[where] for axis, where in zip(axes, at, strict=True)}

    def places(self, board: Board) -> tuple[Places, ...]:
        """The axes, the same in all checks that it covers: those of the first. Raises BoardError."""
        axes = (self._along(board, self.over, self.start, self.stop, self.points),)
        if self.across is None:
            return axes
        return (*axes, self._along(board, self.across, self.across_start, self.across_stop, self.across_points))

    def _along(self, board: Board, name: str, first: str | None, last: str | None, points: int) -> Places:
        turned = quantity(*board.check(self.checks[0]), name)
        low, high = INDUSTRIAL if name == TEMPERATURE else (0.5 * turned.value, 2.0 * turned.value)
        start = low if first is None else turned.read(first)
        stop = high if last is None else turned.read(last)
        if start == stop:
            raise BoardError(f"the sweep of {name} would begin and end at {start:g}", remedy="Give both its ends.")
        # A temperature is neither sold in series nor above zero.
        spacing = "linear" if name == TEMPERATURE and self.across is not None else self.spacing
        if spacing != "linear" and not start * stop > 0.0:
            raise BoardError(
                "equal ratios need both ends on one side of zero", remedy="Space the values evenly, or move an end."
            )
        if spacing in SERIES:
            values = self._preferred(min(start, stop), max(start, stop))
        elif spacing == "logarithmic":
            values = np.asarray(np.copysign(np.geomspace(abs(start), abs(stop), points), start))
        else:
            values = np.linspace(start, stop, points)
        return Places(name, turned.unit, values, spacing != "linear")

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
