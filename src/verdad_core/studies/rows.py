"""The rows of a study: what each gives, for every measurement of its check."""

from __future__ import annotations

import time
from contextlib import suppress

from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import Models, value_key
from verdad_core.checks.experiment import prepare
from verdad_core.checks.prepared import RowResult
from verdad_core.checks.run import long_enough, measure
from verdad_core.checks.signals import Names, Needed
from verdad_core.document.board import Board, MonteCarlo
from verdad_core.document.checks import Check
from verdad_core.document.parts import Valued
from verdad_core.errors import CircuitError, ConvergenceError, MeasurementError
from verdad_core.studies.monte_carlo import monte_carlo_rows
from verdad_core.studies.table import Table

#: Seconds that one row of a study may take.
ROW_SECONDS = 60.0


def run_rows(board: Board, study: MonteCarlo, models: Models, start: int, stop: int) -> Table:
    """What a study's rows start..stop-1 give. A row's numbers do not depend on which others are run with it.

    Raises a VerdadError where the circuit cannot be built; a row that cannot be run has a cause instead of numbers.
    """
    circuit, check = board.check(study.check)
    needed = Needed.by((m.of for m in check.measurements), circuit, Names.of(circuit, check))
    experiment = prepare(circuit, check, models, sorted(needed.pins), needed.nets)
    valued = {part.designator: value_key(part) for part in circuit.parts if isinstance(part, Valued)}
    spreads = [spread for spread in board.spreads if spread.part in valued]
    table = Table.of(stop - start, len(check.measurements))

    def fill(first: int, last: int) -> None:
        try:
            matrix = monte_carlo_rows(experiment.structure, spreads, valued, study.seed, first, last)
            clock = _RowClock()
            for row, found in enumerate(experiment.rows(matrix, clock.look)):
                _, result = long_enough(experiment, found, matrix.row(row), clock.look)
                _put(table, first - start + row, check, result, clock.late)
        except CircuitError:
            if last - first == 1:
                table.causes[first - start] = Cause.REFUSED
                return
            for row in range(first, last):
                fill(row, row + 1)

    at_once = experiment.rows_at_once
    for first in range(start, stop, at_once):
        fill(first, min(first + at_once, stop))
    return table


class _RowClock:
    """Ends a row that takes longer than its time."""

    def __init__(self) -> None:
        self.ends, self.late = time.monotonic() + ROW_SECONDS, False

    def look(self, done: float) -> None:
        if time.monotonic() > self.ends:
            self.late = True
            raise ConvergenceError(f"the row was ended after {ROW_SECONDS:g} s, with {100 * done:.0f} % of it done")


def _put(table: Table, row: int, check: Check, result: RowResult, late: bool) -> None:
    cause = Cause.OUT_OF_TIME if late else result.cause
    if cause is not Cause.NUMBER or result.signals is None:
        table.causes[row] = cause
        return
    for column, measurement in enumerate(check.measurements):
        with suppress(MeasurementError):
            table.put(row, column, measure(measurement, result.signals)[0])
