"""The envelope of a study: what a curve is as drawn, and within which bands it lies in the units that are built."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.checks.elaborate import Models
from verdad_core.checks.prepared import RowResult
from verdad_core.document.board import Board
from verdad_core.document.studies import Study
from verdad_core.errors import MeasurementError
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import Unit
from verdad_core.studies.rows import Rows
from verdad_core.studies.table import Found

#: Parts of the units, in per cent, below which the bands' borders lie; the extremes are the outermost.
BORDERS = (0.0, 1.0, 10.0, 50.0, 90.0, 99.0, 100.0)


#: Points of the axis, at the most; of a longer curve every so many-th.
MOST_POINTS = 2000


class EnoughError(Exception):
    """The time for an envelope is over."""


@dataclass(frozen=True)
class Envelope:
    """`nominal` [points] and `bands` [borders, points] of one curve along an axis, over so many rows that gave it; of
    `left_out` more there is none.

    NaN where the curve as drawn, or no row's, has a value there.
    """

    axis: Axis
    unit: Unit
    nominal: Floats
    bands: Floats
    rows: int
    left_out: int


def envelope(
    board: Board, study: Study, check: str, of: str, drawn: Trace, models: Models, rows: int, found: Found,
    over: Callable[[], bool] = lambda: False,
) -> Envelope:  # fmt: skip
    """The envelope of an expression over the first rows of a study, or over as many as there are when it is `over`;
    `drawn` is what it is as drawn.

    Each row's curve is taken along the axis of the one as drawn, between its own points by straight lines, along the
    logarithm where the axis is logarithmic. Raises MeasurementError where that is a number, or no row has a curve, and
    a VerdadError where the circuit cannot be run.
    """
    curves: list[Floats] = []
    own = drawn.along()
    at = np.unique(np.linspace(0, len(own.values) - 1, MOST_POINTS).astype(int))
    axis = replace(own, values=own.values[at], thinned=own.thinned or len(at) < len(own.values))
    left_out = 0

    def keep(result: RowResult | None) -> None:
        nonlocal left_out
        try:
            if result is None or result.signals is None:
                raise MeasurementError("the row is no evidence")
            curves.append(_on(axis, result.signals.evaluate(read_expression(of))))
        except MeasurementError:
            left_out += 1

    def look(_: float) -> None:
        if over():
            raise EnoughError

    with suppress(EnoughError):
        Rows(board, study, check, models, (), (of,), keep).table(0, rows, look, found)
    if not curves:
        raise MeasurementError("no row gave this curve", remedy="Look at the rows: each says why it has no number.")
    stacked = np.array(curves)
    bands = np.full((len(BORDERS), len(axis.values)), np.nan)
    known = np.any(np.isfinite(stacked), axis=0)
    bands[:, known] = np.nanpercentile(stacked[:, known], BORDERS, axis=0)
    return Envelope(axis, drawn.unit, drawn.real()[at], bands, len(curves), left_out)


def _on(axis: Axis, trace: Trace) -> Floats:
    """A curve at the points of another axis [points]; NaN outside of its own."""
    own = trace.along().values
    x, y = (np.log(axis.values), np.log(own)) if axis.logarithmic else (axis.values, own)
    order = np.argsort(y, kind="stable")
    return np.interp(x, y[order], trace.real()[order], left=np.nan, right=np.nan)
