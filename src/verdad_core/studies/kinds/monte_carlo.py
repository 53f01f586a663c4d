"""Monte Carlo: rows in which every quantity with a spread takes a value drawn from it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any, ClassVar, Literal, Self

import numpy as np
from pydantic import Field

from verdad_core.arrays import Floats
from verdad_core.checks.elaborate import Models
from verdad_core.checks.quantities import TEMPERATURE
from verdad_core.document.board import Board
from verdad_core.schema import setting
from verdad_core.spreads.draw import Draws, Evenly, PseudoRandom, draw
from verdad_core.studies.keys import column_key
from verdad_core.studies.kind import Shape
from verdad_core.studies.kinds.between import Between
from verdad_core.studies.statistics import passing, yield_of
from verdad_core.studies.table import Found, computed
from verdad_core.studies.variations import spreads_of, variations

#: The numbers of rows after which it is looked whether they are enough: from the first on, by a half more each time.
_FIRST_LOOK, _MORE = 50, 1.5


class MonteCarlo(Between):
    """Checks repeated over rows drawn from the spreads."""

    kind: Literal["monte carlo"] = "monte carlo"
    rows: Annotated[int, Field(ge=10, le=100_000)] = setting(500, label="Rows", hint="Units that are built")
    enough: Annotated[float, Field(gt=0.0, le=50.0)] | None = setting(
        None, label="Yield to ±", unit="%", empty="all rows",
        hint="Ends when the 95 % interval of the yield is as narrow as this; looked at often, it holds a little "
        "less often",
    )  # fmt: skip
    seed: Annotated[int, Field(ge=0, le=2**32 - 1)] = setting(
        1, label="Seed", hint="The same seed gives the same rows, every time"
    )
    drawn: Literal["at random", "evenly"] = setting(
        "at random", label="Drawn", titles={"at random": "at random", "evenly": "evenly, as scrambled Sobol points"},
        hint="Evenly, means and yields settle with fewer rows; intervals of yields are wider than they need be",
    )  # fmt: skip

    name: ClassVar[str] = "Monte Carlo"
    question: ClassVar[str] = "What will production build?"
    meaning: ClassVar[str] = "Units with everything drawn from its spread: yield, extremes, distribution."
    shape: ClassVar[Shape] = "distribution"

    @classmethod
    def proposed(cls, board: Board, identifier: str, title: str, checks: Sequence[str]) -> Self:
        return cls(id=identifier, title=title, checks=tuple(checks))

    def size_on(self, board: Board) -> int:
        return self.rows

    def plan(self, board: Board, found: Found) -> int:
        if self.enough is None or not found:
            return self.rows
        done = computed(found.values())
        looks = [_FIRST_LOOK]
        while looks[-1] < self.rows:
            looks.append(min(int(_MORE * looks[-1]), self.rows))
        for look in looks:
            if look > done or self._is_enough(board, found, look):
                return look
        return self.rows

    def _is_enough(self, board: Board, found: Found, rows: int) -> bool:
        """Whether the first rows tell how many units are within all limits, as closely as is asked for."""
        within = [
            passing(found[which].values[:rows], *limit.bounds)
            for limit in board.limits
            if (which := (limit.check, self._column(board, limit.check, limit.measurement))) in found
        ]
        if not within or self.enough is None:
            return False
        part = yield_of(np.all(within, axis=0))
        return 100.0 * 0.5 * (part.high - part.low) <= self.enough

    def _column(self, board: Board, check: str, measurement: str) -> str:
        return column_key(board.check(check)[1].measurement(measurement))

    def content(self, board: Board, check: str) -> Any:
        spreads = sorted(spreads_of(board, check), key=lambda spread: spread.of)
        between = {"between": self.range} if self.range else {}
        # Evenly drawn, a row depends on what else is drawn, in all checks that are covered.
        evenly = {"evenly": sorted(self._streams(board))} if self.drawn == "evenly" else {}
        return {
            "spreads": [spread.model_dump(mode="json") for spread in spreads], "seed": self.seed, **between, **evenly
        }  # fmt: skip

    def values(
        self, board: Board, check: str, models: Models, start: int, stop: int, found: Found
    ) -> Mapping[str, Floats]:
        draws: Draws = Evenly(self.seed, self._streams(board)) if self.drawn == "evenly" else PseudoRandom(self.seed)
        drawn = {each.spread.of: each.values(draws, start, stop) for each in variations(board, check, models)}
        if self.range:
            # Any temperature between the two is as likely as any other.
            middle, half = 0.5 * sum(self.range), 0.5 * (self.range[1] - self.range[0])
            drawn[TEMPERATURE] = middle + half * draw(draws, TEMPERATURE, "uniform", start, stop)
        return drawn

    def _streams(self, board: Board) -> list[str]:
        """All that is drawn for a unit, in whichever of its checks."""
        own = {name for check in self.checks for spread in spreads_of(board, check) for name in spread.streams}
        return [*own, TEMPERATURE] if self.range else [*own]
