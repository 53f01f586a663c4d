"""Monte Carlo: rows in which every part with a spread takes a value drawn from it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any, ClassVar, Literal, Self

import numpy as np
from pydantic import Field

from verdad_core.arrays import Floats
from verdad_core.document.board import Board
from verdad_core.document.parts import Valued
from verdad_core.schema import setting
from verdad_core.spreads.draw import draw
from verdad_core.spreads.spread import Spread
from verdad_core.studies.kind import StudyKind
from verdad_core.units import parse_value


class MonteCarlo(StudyKind):
    """Checks repeated over rows drawn from the spreads."""

    kind: Literal["monte carlo"] = "monte carlo"
    rows: Annotated[int, Field(ge=10, le=100_000)] = setting(500, label="Rows", hint="Units that are built")
    seed: Annotated[int, Field(ge=0, le=2**32 - 1)] = setting(
        1, label="Seed", hint="The same seed gives the same rows, every time"
    )

    name: ClassVar[str] = "Monte Carlo"
    question: ClassVar[str] = "What will production build?"
    meaning: ClassVar[str] = "Units with every part drawn from its spread: yield, extremes, distribution."
    shape: ClassVar[Literal["distribution", "curve"]] = "distribution"

    @classmethod
    def proposed(cls, board: Board, identifier: str, title: str, checks: Sequence[str]) -> Self:
        return cls(id=identifier, title=title, checks=tuple(checks))

    @property
    def size(self) -> int:
        return self.rows

    def content(self, board: Board, check: str) -> Any:
        spreads = sorted((spread.model_dump(mode="json") for spread in _spreads(board, check)), key=lambda s: s["part"])
        return {"spreads": spreads, "seed": self.seed}

    def values(self, board: Board, check: str, start: int, stop: int) -> Mapping[str, Floats]:
        circuit, _ = board.check(check)
        valued = [part for part in circuit.parts if isinstance(part, Valued) and part.value]
        nominal = {part.designator: parse_value(part.value) for part in valued}
        drawn = {}
        for spread in _spreads(board, check):
            deviation = draw(self.seed, spread.part, spread.distribution, stop)[start:]
            drawn[spread.part] = np.asarray(nominal[spread.part] * (1.0 + spread.tolerance / 100.0 * deviation))
        return drawn


def _spreads(board: Board, check: str) -> list[Spread]:
    """The spreads of parts that the check's circuit has, with a value."""
    parts = {part.designator for part in board.check(check)[0].parts if isinstance(part, Valued) and part.value}
    return [spread for spread in board.spreads if spread.part in parts]
