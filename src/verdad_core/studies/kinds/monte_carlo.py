"""Monte Carlo: rows in which every quantity with a spread takes a value drawn from it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any, ClassVar, Literal, Self

from pydantic import Field

from verdad_core.arrays import Floats
from verdad_core.checks.elaborate import Models
from verdad_core.checks.quantities import TEMPERATURE
from verdad_core.document.board import Board
from verdad_core.schema import setting
from verdad_core.spreads.draw import draw
from verdad_core.studies.kind import Shape
from verdad_core.studies.kinds.between import Between
from verdad_core.studies.variations import spreads_of, variations


class MonteCarlo(Between):
    """Checks repeated over rows drawn from the spreads."""

    kind: Literal["monte carlo"] = "monte carlo"
    rows: Annotated[int, Field(ge=10, le=100_000)] = setting(500, label="Rows", hint="Units that are built")
    seed: Annotated[int, Field(ge=0, le=2**32 - 1)] = setting(
        1, label="Seed", hint="The same seed gives the same rows, every time"
    )

    name: ClassVar[str] = "Monte Carlo"
    question: ClassVar[str] = "What will production build?"
    meaning: ClassVar[str] = "Units with everything drawn from its spread: yield, extremes, distribution."
    shape: ClassVar[Shape] = "distribution"

    @classmethod
    def proposed(cls, board: Board, identifier: str, title: str, checks: Sequence[str]) -> Self:
        return cls(id=identifier, title=title, checks=tuple(checks))

    def size_on(self, board: Board) -> int:
        return self.rows

    def content(self, board: Board, check: str) -> Any:
        spreads = sorted(spreads_of(board, check), key=lambda spread: spread.of)
        between = {"between": self.range} if self.range else {}
        return {"spreads": [spread.model_dump(mode="json") for spread in spreads], "seed": self.seed, **between}

    def values(self, board: Board, check: str, models: Models, start: int, stop: int) -> Mapping[str, Floats]:
        found = variations(board, check, models)
        drawn = {each.spread.of: each.values(self.seed, start, stop) for each in found}
        if self.range:
            # Any temperature between the two is as likely as any other.
            middle, half = 0.5 * sum(self.range), 0.5 * (self.range[1] - self.range[0])
            drawn[TEMPERATURE] = middle + half * draw(self.seed, TEMPERATURE, "uniform", stop)[start:]
        return drawn
