"""Worst case: every quantity with a spread at an end of what it can be, each by itself, then all of them together.

Extreme value analysis: with few factors every corner is built; with more, for each measurement the two corners to which
the effects of single factors point, which are its extremes where each effect keeps its direction (any text on
worst-case analysis).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import astuple
from typing import Any, ClassVar, Literal, Self

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.checks.elaborate import Models
from verdad_core.checks.quantities import TEMPERATURE
from verdad_core.document.board import Board
from verdad_core.errors import BoardError
from verdad_core.spreads.amount import Amount, Deviations
from verdad_core.spreads.contributors import CONTRIBUTORS
from verdad_core.spreads.spread import Spread
from verdad_core.studies.corners import Corners, corners
from verdad_core.studies.keys import column_key, rows_key
from verdad_core.studies.kind import Factor, Shape
from verdad_core.studies.kinds.between import Between
from verdad_core.studies.rows import Rows
from verdad_core.studies.variations import amounts_of, spreads_of, variations
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

    @classmethod
    def proposed(cls, board: Board, identifier: str, title: str, checks: Sequence[str]) -> Self:
        if not any(spreads_of(board, check) for check in checks):
            raise BoardError("nothing in this circuit has a spread yet", remedy="Give parts theirs under Spreads.")
        return cls(id=identifier, title=title, checks=tuple(checks))

    def size_on(self, board: Board) -> int:
        count = len(self.factors(board))
        return 1 + 2 * count + (2**count if count <= ALL_CORNERS else 2 * len(self._measurements(board)))

    def content(self, board: Board, check: str) -> Any:
        factors = [
            [each.title, [[name, *map(astuple, amounts)] for name, amounts in sorted(each.moves.items())]]
            for each in self.factors(board)
        ]
        # Corners that effects point to stand in the order of what is measured.
        order = self._measurements(board) if len(factors) > ALL_CORNERS else []
        return {"factors": factors, "between": [self.coldest, self.hottest], "order": order}

    def factors(self, board: Board) -> list[Factor]:
        """All factors of the checks that it covers, so that a row is the same unit in each of them."""
        spreads = {each[0].of: each for check in self.checks for each in amounts_of(board, check)}
        found = _factors([spreads[name] for name in sorted(spreads)])
        return [*found, Factor(TEMPERATURE, {TEMPERATURE: ()})] if self.range else found

    def corners(self, board: Board, columns: Mapping[tuple[str, str], Floats], which: tuple[str, str]) -> Corners:
        factors = [factor.title for factor in self.factors(board)]

        def towards(measurement: int) -> Floats:
            return _ways(columns[self._measurements(board)[measurement]][: 1 + 2 * len(factors)])

        signs = self._signs(0, len(columns[which]), len(factors), towards)
        return corners(columns[which], signs, factors)

    def values(self, board: Board, check: str, models: Models, start: int, stop: int) -> Mapping[str, Floats]:
        factors = self.factors(board)
        count = len(factors)
        signs = self._signs(start, stop, count, lambda measurement: self._towards(board, models, measurement, count))
        own = {each.spread.of: each for each in variations(board, check, models)}
        moved: dict[str, Deviations] = {}
        found: dict[str, Floats] = {}
        for factor, sign in zip(factors, signs.T, strict=True):
            for name, amounts in factor.moves.items():
                if name == TEMPERATURE:
                    found[name] = self._temperatures(parse_value(board.check(check)[1].temperature), sign)
                elif name in own:
                    deviations = moved.setdefault(name, Deviations(len(sign)))
                    for amount in amounts:
                        deviations.add(amount, np.where(sign == 0.0, 0.0, amount.deviation(sign)))
        return found | {name: deviations.of(own[name].nominal) for name, deviations in moved.items()}

    def _temperatures(self, nominal: float, sign: Floats) -> Floats:
        low, high = self.range or (nominal, nominal)
        return np.asarray(np.where(sign < 0, low, np.where(sign > 0, high, nominal)))

    def _signs(self, start: int, stop: int, count: int, towards: Callable[[int], Floats]) -> Floats:
        """Which way each factor goes in rows start..stop-1: -1, 0 or 1 [rows, factors].

        `towards` says which way each takes the greatest of a measurement, by its number.
        """
        signs = np.zeros((stop - start, count))
        for row in range(start, stop):
            if 1 <= row <= 2 * count:
                signs[row - start, (row - 1) // 2] = -1.0 if row % 2 else 1.0
            elif row > 2 * count:
                corner = row - 1 - 2 * count
                signs[row - start] = (
                    [1.0 if corner >> k & 1 else -1.0 for k in range(count)] if count <= ALL_CORNERS
                    else (1.0 if corner % 2 else -1.0) * towards(corner // 2)
                )  # fmt: skip
        return signs

    def _towards(self, board: Board, models: Models, measurement: int, count: int) -> Floats:
        """Which way each factor takes the greatest of a measurement, from what each does by itself [factors]."""
        check, column = self._measurements(board)[measurement]
        key = rows_key(board, self, check, models)
        if (key, column) not in _EFFECTS:
            found = Rows(board, self, check, models, [column]).table(0, 1 + 2 * count).values[:, 0]
            while len(_EFFECTS) >= _MOST_KEPT:
                del _EFFECTS[next(iter(_EFFECTS))]
            _EFFECTS[key, column] = _ways(found)
        return _EFFECTS[key, column]

    def _measurements(self, board: Board) -> list[tuple[str, str]]:
        """All that is measured in the checks that it covers: check, and key of the column."""
        return [(check, column_key(each)) for check in self.checks for each in board.check(check)[1].measurements]


def _ways(values: Floats) -> Floats:
    """Which way each factor takes a measurement that was taken as drawn, then with each factor low and high."""
    return np.asarray(np.nan_to_num(np.sign(values[2::2] - values[1::2])))


#: Where single factors take measurements, by the keys of rows and column: many blocks of rows ask for the same.
_EFFECTS: dict[tuple[str, str], Floats] = {}
_MOST_KEPT = 64


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
