"""What a kind of study is: settings, and all that is known of its rows and of how they are read.

A kind is one file in `kinds/` and one row in its table; docs/kinds.md says how to add one.
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, Literal, Self

from verdad_core.arrays import Floats
from verdad_core.checks.elaborate import Models
from verdad_core.document.board import Board, Limit
from verdad_core.document.studies import Study
from verdad_core.spreads.amount import Amount
from verdad_core.studies.corners import Corners
from verdad_core.studies.table import Column, Found
from verdad_core.studies.verdict import Cell, judge


@dataclass(frozen=True)
class Places:
    """What rows stand at, where a quantity takes one value after the other: `values` in `unit`, in their order."""

    title: str
    unit: str
    values: Floats
    logarithmic: bool


@dataclass(frozen=True)
class Factor:
    """What goes to one end or the other: the quantities that move with it, each by the sum of some amounts."""

    title: str
    moves: Mapping[str, tuple[Amount, ...]]


#: As numbers are distributed, along the quantity that is turned, or as the corners of what can be built.
Shape = Literal["distribution", "curve", "corners"]


class StudyKind(Study):
    """One kind of study."""

    #: What the kind is called, what it answers, and what it does.
    name: ClassVar[str]
    question: ClassVar[str]
    meaning: ClassVar[str]
    #: How the numbers of a measurement are shown.
    shape: ClassVar[Shape]
    #: Whether rows depend on what rows before them gave.
    looks_back: ClassVar[bool] = False

    @classmethod
    @abstractmethod
    def proposed(cls, board: Board, identifier: str, title: str, checks: Sequence[str]) -> Self:
        """Settings for checks of a board. Raises BoardError where it cannot be asked, with what is missing."""

    @abstractmethod
    def size_on(self, board: Board) -> int:
        """How many rows it has, at the most."""

    def plan(self, board: Board, found: Found) -> int:
        """How many rows are wanted, as far as `found` tells: those computed so far, or the next ones besides.

        It has phases where rows depend on those before, or where enough may be known before all are computed. It is
        asked again when they are there, and is done where it wants no more.
        """
        return self.size_on(board)

    @abstractmethod
    def content(self, board: Board, check: str) -> Any:
        """What the rows of a check depend on besides the check itself, as plain data.

        Their number is left out where more rows leave those before as they are.
        """

    @abstractmethod
    def values(
        self, board: Board, check: str, models: Models, start: int, stop: int, found: Found
    ) -> Mapping[str, Floats]:
        """What quantities of a check have in rows start..stop-1, by name. Raises BoardError for one that is gone.

        A number belongs to the quantity and the row: it is the same in whichever block, and whatever else varies.
        `found` holds the rows of the phases before, where the kind `looks_back`.
        """

    def places(self, board: Board) -> tuple[Places, ...]:
        """What the rows stand at: none where they have no order, one axis, or two, of which the first goes faster."""
        return ()

    def corners(self, board: Board, found: Found, which: tuple[str, str]) -> Corners | None:
        """What one of some columns, [rows] values by check and key, says where rows are corners."""
        return None

    def judge(self, limit: Limit, column: Column, thin_margin: float) -> Cell:
        """What its numbers say of a limit."""
        return judge(limit, column, thin_margin)


def kind_of(study: Study) -> StudyKind:
    """The settings of a study as their kind."""
    assert isinstance(study, StudyKind)
    return study
