"""What would help: single changes of tolerances and values, tried on the very units that a study has drawn.

A draw belongs to its contributor and row, so that a part that is bought closer, or with another value, meets the same
units otherwise as they were: what a change does shows with few rows (common random numbers; Glasserman, "Monte Carlo
methods in financial engineering", 2004, chapter 7, from memory). Only what carries variation is changed.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Booleans, Floats
from verdad_core.checks.elaborate import Models
from verdad_core.checks.quantities import with_quantity
from verdad_core.document.board import Board, Limit
from verdad_core.document.parts import Valued
from verdad_core.document.studies import Study
from verdad_core.errors import VerdadError
from verdad_core.handcalc.series import SERIES
from verdad_core.spreads.amount import Amount, parse_amount
from verdad_core.spreads.grades import GRADES
from verdad_core.spreads.spread import Spread
from verdad_core.studies.blame import blame
from verdad_core.studies.keys import column_key
from verdad_core.studies.kind import kind_of
from verdad_core.studies.rows import Rows
from verdad_core.studies.statistics import Yield, passing, yield_of
from verdad_core.studies.table import Found, computed
from verdad_core.units import parse_value, plain_value

#: Units that every change is tried on, and quantities that are changed, at most.
ROWS, _QUANTITIES = 300, 4

#: What carries less of the variance than this is left as it is.
_CARRIES = 0.01

#: Preferred values to either side that are tried, and from which tolerance on, in per cent, those of E96 are bought.
_STEPS, _CLOSE = 2, 2.0

#: How much closer is tried where no grade says: parts of the present amount.
_CLOSER = (0.5, 0.2)


@dataclass(frozen=True)
class Change:
    """A change of one quantity, in words: what takes the place of its spread, or of its value."""

    of: str
    words: str
    spread: Spread | None = None
    value: str | None = None


@dataclass(frozen=True)
class Remedy:
    """A change, and the yield that it gives."""

    change: Change
    within: Yield


@dataclass(frozen=True)
class Remedies:
    """What helps, the best first, beside the yield of the same units as they are; `tried` of `known` changes, as far
    as time was.
    """

    now: Yield
    found: tuple[Remedy, ...]
    tried: int
    known: int


class OverError(Exception):
    """The time for trying is over."""


def remedies(
    board: Board, study: Study, models: Models, found: Found, over: Callable[[], bool] = lambda: False
) -> Remedies | None:  # fmt: skip
    """Changes that give a study's units more yield against all limits on its checks.

    `found` is what is kept of the study. None where there is no limit on it, or nothing varies. Changes that are left
    when it is `over` are not tried. Raises a VerdadError where the circuit cannot be run.
    """
    limits = [limit for limit in board.limits if limit.check in study.checks]
    columns = {limit.id: found.get((limit.check, _column(board, limit))) for limit in limits}
    rows = min(ROWS, computed(column for column in columns.values() if column is not None))
    if not rows or None in columns.values():
        return None
    values = {key: column.values[:rows] for key, column in columns.items() if column is not None}
    now = np.all([passing(values[limit.id], *limit.bounds) for limit in limits], axis=0)
    carrying = _carrying(board, study, models, limits, values, found)
    changes = [change for of in carrying for change in _changes(board, of)]
    helping: list[Remedy] = []
    tried = 0
    try:
        for change, changed in changes:
            passed = _passed(changed, study, models, limits, rows, over)
            tried += 1
            if passed is not None and np.sum(passed) > np.sum(now):
                helping.append(Remedy(change, yield_of(passed)))
    except OverError:
        pass
    return Remedies(yield_of(now), tuple(sorted(helping, key=lambda each: -each.within.share)), tried, len(changes))


def _column(board: Board, limit: Limit) -> str:
    return column_key(board.check(limit.check)[1].measurement(limit.measurement))


def _carrying(
    board: Board, study: Study, models: Models, limits: Sequence[Limit], values: Mapping[str, Floats], found: Found
) -> list[str]:  # fmt: skip
    """The quantities that carry most of what breaks limits, or, where nothing breaks, of what varies."""
    weights: dict[str, float] = {}
    spread = {each.of for each in board.spreads}
    for limit in limits:
        own = values[limit.id]
        rows, broken = len(own), int(np.sum(~passing(own, *limit.bounds)))
        drawn = kind_of(study).values(board, limit.check, models, 0, rows, found)
        shares = blame(drawn, own)
        for each in shares.shares if shares is not None else ():
            if each.share >= _CARRIES and each.name in spread:
                weights[each.name] = weights.get(each.name, 0.0) + each.share * (broken + 1e-3)
    return sorted(weights, key=lambda name: -weights[name])[:_QUANTITIES]


def _changes(board: Board, of: str) -> Iterator[tuple[Change, Board]]:
    """All that is tried of one quantity, each with the board as it makes it: closer, and other preferred values."""
    spread = next(each for each in board.spreads if each.of == of)
    part = next((p for c in board.circuits for p in c.parts if p.designator == of and isinstance(p, Valued)), None)
    bought = next((each for each in spread.contributions if each.contributor == "purchase"), None)
    amount = _relative(bought.amount) if bought is not None else None
    if bought is not None and amount is not None:
        for text, title in _closer(part.kind if part is not None else "", amount):
            own = bought.model_copy(update={"amount": text})
            others = tuple(own if each is bought else each for each in spread.contributions)
            closer = spread.model_copy(update={"contributions": others})
            spreads = tuple(closer if each is spread else each for each in board.spreads)
            yield Change(of, f"{of}: {title}", spread=closer), board.model_copy(update={"spreads": spreads})
    if part is not None and part.value:
        within = 100.0 * amount.high if amount is not None else 100.0
        check = next(check.id for circuit, check in board.checks() if part in circuit.parts)
        for value in _around(parse_value(part.value), "E96" if within <= _CLOSE else "E24"):
            text = plain_value(value)
            words = f"{of}: {text} instead of {part.value}"
            yield Change(of, words, value=text), with_quantity(board, check, of, text)


def _relative(text: str) -> Amount | None:
    """An amount in per cent, the same both ways; None for another one."""
    try:
        amount = parse_amount(text)
    except VerdadError:
        return None
    return amount if not amount.absolute and amount.low == -amount.high and amount.high else None


def _closer(kind: str, amount: Amount) -> list[tuple[str, str]]:
    """Smaller amounts, as they are typed and in words: the next two grades of a kind of part, or a half and a fifth."""
    per_cent = 100.0 * amount.high
    grades = sorted((g for g in GRADES if g.kind == kind and g.tolerance < per_cent), key=lambda g: -g.tolerance)
    if grades:
        # Of several grades with one tolerance the first that is listed is named.
        such_as = {f"{grade.tolerance:g}": f", such as {grade.title.partition(',')[0]}" for grade in reversed(grades)}
        amounts = list(dict.fromkeys(f"{grade.tolerance:g}" for grade in grades))[:2]
    else:
        such_as, amounts = {}, [f"{part * per_cent:.3g}" for part in _CLOSER]
    return [(text, f"±{text} % instead of ±{per_cent:.3g} %{such_as.get(text, '')}") for text in amounts]


def _around(value: float, series: str) -> list[float]:
    """The preferred values nearest to one on either side, itself left out."""
    decade = math.floor(math.log10(value))
    every = sorted(float(f"{each:g}e{power}") for power in (decade - 1, decade, decade + 1) for each in SERIES[series])
    below = [each for each in every if each < value * (1 - 1e-9)]
    above = [each for each in every if each > value * (1 + 1e-9)]
    return [*reversed(below[-_STEPS:]), *above[:_STEPS]]


def _passed(
    board: Board, study: Study, models: Models, limits: Sequence[Limit], rows: int, over: Callable[[], bool]
) -> Booleans | None:
    """Which units are within all limits [rows]; None where the circuit cannot be so."""

    def look(_: float) -> None:
        if over():
            raise OverError

    within = np.ones(rows, dtype=bool)
    try:
        for check in study.checks:
            own = [limit for limit in limits if limit.check == check]
            if not own:
                continue
            keys = list(dict.fromkeys(_column(board, limit) for limit in own))
            runs = Rows(board, study, check, models, keys)
            table = runs.table(0, rows, look)
            place = {key: k for k, key in enumerate(runs.measurements)}
            for limit in own:
                within &= passing(table.column(place[_column(board, limit)]).values, *limit.bounds)
    except VerdadError:
        return None
    return within
