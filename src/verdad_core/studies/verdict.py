"""The verdict: per limit and study, whether it holds, with the worst value and its margin."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from verdad_core.checks.cause import Cause
from verdad_core.document.board import Limit
from verdad_core.studies.table import Column


class State(StrEnum):
    """What the evidence says of a limit."""

    HOLDS = "holds"
    THIN = "thin"
    BREAKS = "breaks"
    UNPROVEN = "unproven"


#: From the worst to the best.
WORST_FIRST = (State.BREAKS, State.UNPROVEN, State.THIN, State.HOLDS)


def worst(states: Iterable[State]) -> State:
    """The worst of some states; unproven where there is none."""
    return min(states, key=WORST_FIRST.index, default=State.UNPROVEN)


@dataclass(frozen=True)
class Cell:
    """One cell of the matrix.

    `worst` is the value nearest to, or farthest beyond, a bound; `margin` its distance to that bound in the
    measurement's unit, negative beyond it; `margin_percent` the same in per cent of the bound's size (of the worst
    value's where the bound is zero).
    """

    state: State
    worst: float | None = None
    margin: float | None = None
    margin_percent: float | None = None
    why: str = ""


def unproven(why: str) -> Cell:
    """The cell for a limit without current evidence."""
    return Cell(State.UNPROVEN, why=why)


def judge(limit: Limit, column: Column, thin_margin: float) -> Cell:
    """The cell for a measured column. A row without a number breaks the limit: it was not shown to hold."""
    good = column.values[column.causes == Cause.NUMBER]
    if len(good) == 0:
        return Cell(State.BREAKS if len(column.values) else State.UNPROVEN, why=column.why or "no row gave a number")
    lower, upper = limit.bounds
    worst, margin, percent = math.nan, math.inf, math.inf
    for bound, value, sign in ((lower, float(np.min(good)), 1.0), (upper, float(np.max(good)), -1.0)):
        if bound is None:
            continue
        distance = sign * (value - bound)
        share = 100.0 * distance / (abs(bound) or abs(value) or 1.0)
        if share < percent:
            worst, margin, percent = value, distance, share
    if margin < 0 or column.why:
        state = State.BREAKS
    elif percent < thin_margin:
        state = State.THIN
    else:
        state = State.HOLDS
    return Cell(state, worst, margin, percent, column.why)
