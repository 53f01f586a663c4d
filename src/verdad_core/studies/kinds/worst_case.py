"""Worst case: every quantity with a spread at an end of what it can be, each by itself, then all of them together.

Extreme value analysis: with few factors every corner is built; with more, for each measurement the two corners to which
the effects of single factors point, which are its extremes where each effect keeps its direction (any text on
worst-case analysis). Whether it does is looked at on the way from what is drawn to the worst corners, and where it does
not the inside is searched (within.py).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import astuple
from typing import Any, ClassVar, Literal, Self

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.checks.elaborate import Models
from verdad_core.checks.quantities import TEMPERATURE
from verdad_core.document.board import Board
from verdad_core.errors import BoardError
from verdad_core.spreads.amount import Amount, Deviations, between
from verdad_core.spreads.contributors import CONTRIBUTORS
from verdad_core.spreads.spread import Spread
from verdad_core.studies.corners import Corners, corners, singles
from verdad_core.studies.keys import column_key
from verdad_core.studies.kind import Factor, Shape
from verdad_core.studies.kinds.between import Between
from verdad_core.studies.table import Found, computed
from verdad_core.studies.variations import amounts_of, spreads_of, variations
from verdad_core.studies.within import MOST_ROWS, next_levels
from verdad_core.units import parse_value

#: Up to so many factors every corner is built.
ALL_CORNERS = 8


class WorstCase(Between):
    """Checks repeated with everything at its ends."""

    kind: Literal["worst case"] = "worst case"
    name: ClassVar[str] = "Worst case"
    question: ClassVar[str] = "What is the worst that can be built?"
    meaning: ClassVar[str] = "Everything at the ends of its spread: what each does by itself, and the extremes of all."
    shape: ClassVar[Shape] = "corners"
    looks_back: ClassVar[bool] = True

    @classmethod
    def proposed(cls, board: Board, identifier: str, title: str, checks: Sequence[str]) -> Self:
        if not any(spreads_of(board, check) for check in checks):
            raise BoardError("nothing in this circuit has a spread yet", remedy="Give parts theirs under Spreads.")
        return cls(id=identifier, title=title, checks=tuple(checks))

    def size_on(self, board: Board) -> int:
        count, measured = len(self.factors(board)), len(self._measurements(board))
        return 1 + 2 * count + (2**count if count <= ALL_CORNERS else 2 * measured) + 2 * measured * MOST_ROWS

    def plan(self, board: Board, found: Found) -> int:
        return len(self._levels(board, found))

    def content(self, board: Board, check: str) -> Any:
        factors = [
            [each.title, [[name, *map(astuple, amounts)] for name, amounts in sorted(each.moves.items())]]
            for each in self.factors(board)
        ]
        # Rows that others point to stand in the order of what is measured.
        return {"factors": factors, "between": [self.coldest, self.hottest], "order": self._measurements(board)}

    def factors(self, board: Board) -> list[Factor]:
        """All factors of the checks that it covers, so that a row is the same unit in each of them."""
        spreads = {each[0].of: each for check in self.checks for each in amounts_of(board, check)}
        found = _factors([spreads[name] for name in sorted(spreads)])
        return [*found, Factor(TEMPERATURE, {TEMPERATURE: ()})] if self.range else found

    def corners(self, board: Board, found: Found, which: tuple[str, str]) -> Corners:
        factors = [factor.title for factor in self.factors(board)]
        return corners(found[which].values, self._levels(board, found), factors)

    def values(
        self, board: Board, check: str, models: Models, start: int, stop: int, found: Found
    ) -> Mapping[str, Floats]:
        levels = self._levels(board, found)[start:stop]
        own = {each.spread.of: each for each in variations(board, check, models)}
        moved: dict[str, Deviations] = {}
        turned: dict[str, Floats] = {}
        for factor, level in zip(self.factors(board), levels.T, strict=True):
            for name, amounts in factor.moves.items():
                if name == TEMPERATURE:
                    turned[name] = self._temperatures(parse_value(board.check(check)[1].temperature), level)
                elif name in own:
                    deviations = moved.setdefault(name, Deviations(len(level)))
                    for amount in amounts:
                        deviations.add(amount, between(level, amount.low, 0.0, amount.high))
        return turned | {name: deviations.of(own[name].nominal) for name, deviations in moved.items()}

    def _temperatures(self, nominal: float, level: Floats) -> Floats:
        low, high = self.range or (nominal, nominal)
        return between(level, low, nominal, high)

    def _levels(self, board: Board, found: Found) -> Floats:
        """Where each factor stands, from -1 over 0 as drawn to 1, in all rows that can be told so far [rows, factors].

        As drawn; every factor at its low and at its high end; the corners; and what is looked at within.
        """
        count, measurements = len(self.factors(board)), self._measurements(board)
        levels = singles(count)
        if count <= ALL_CORNERS:
            levels = np.vstack([levels, _corners(count)])
        known = computed(found[which] for which in measurements if which in found) if found else 0
        columns = [found[which].values[:known] for which in measurements] if known else []
        if known < len(levels):
            return levels
        if count > ALL_CORNERS:
            ways = [_ways(column[: 1 + 2 * count]) for column in columns]
            levels = np.vstack([levels, *(sign * way[np.newaxis] for way in ways for sign in (-1.0, 1.0))])
        while len(levels) <= known and len(more := next_levels(levels, [column[: len(levels)] for column in columns])):
            levels = np.vstack([levels, more])
        return levels

    def _measurements(self, board: Board) -> list[tuple[str, str]]:
        """All that is measured in the checks that it covers: check, and key of the column."""
        return [(check, column_key(each)) for check in self.checks for each in board.check(check)[1].measurements]


def _corners(count: int) -> Floats:
    """All that can be made of low and high ends [2^factors, factors]."""
    bits = np.arange(2**count)[:, np.newaxis] >> np.arange(count) & 1
    return np.where(bits == 1, 1.0, -1.0)


def _ways(values: Floats) -> Floats:
    """Which way each factor takes a measurement that was taken as drawn, then with each factor low and high."""
    return np.asarray(np.nan_to_num(np.sign(values[2::2] - values[1::2])))


def _factors(spreads: Sequence[tuple[Spread, tuple[Amount, ...]]]) -> list[Factor]:
    """What varies by itself: a quantity by all that contributes, a group by what it shares, its members by the rest."""
    alone: list[Factor] = []
    shared: dict[str, dict[str, tuple[Amount, ...]]] = {}
    for spread, amounts in spreads:
        own: tuple[Amount, ...] = ()
        for contribution, amount in zip(spread.contributions, amounts, strict=True):
            if spread.group is not None and CONTRIBUTORS[contribution.contributor].shared:
                group = shared.setdefault(spread.group, {})
                group[spread.of] = (*group.get(spread.of, ()), amount)
            else:
                own = (*own, amount)
        if own:
            alone.append(Factor(spread.of, {spread.of: own}))
    return [*alone, *(Factor(f"group {name}", moves) for name, moves in sorted(shared.items()))]
