"""The rows of a study: what each gives, for every measurement of a check."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from functools import cached_property

from verdad_core.arrays import Floats
from verdad_core.checks.cause import Cause
from verdad_core.checks.elaborate import Models
from verdad_core.checks.experiment import Experiment, prepare
from verdad_core.checks.prepared import Look, RowResult
from verdad_core.checks.quantities import engine_key, with_errors_given, with_quantity
from verdad_core.checks.run import long_enough, measure
from verdad_core.checks.signals import Names, Needed
from verdad_core.document.board import Board
from verdad_core.document.studies import Study
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, CircuitError, ConvergenceError, MeasurementError, VerdadError
from verdad_core.studies.keys import column_key
from verdad_core.studies.kind import kind_of
from verdad_core.studies.table import NOTHING, Found, Table

#: Seconds that one row of a study may take.
ROW_SECONDS = 60.0


class Rows:
    """The rows of one check that a study covers; what was compiled for some of them serves for all.

    `columns` are the keys of the measurements that are wanted, all of the check's where it is None. `keep` is told what
    each row gave, None where that is no evidence, with what the expressions of `also` need besides.
    """

    def __init__(
        self, board: Board, study: Study, check: str, models: Models, columns: Sequence[str] | None = None,
        also: Sequence[str] = (), keep: Callable[[RowResult | None], None] = lambda _: None,
    ) -> None:  # fmt: skip
        turned = [spread.of for spread in board.spreads]
        self.board, self.study, self.models = with_errors_given(board, check, turned), kind_of(study), models
        self.circuit, self.check = self.board.check(check)
        keys = [column_key(measurement) for measurement in self.check.measurements]
        wanted = dict.fromkeys(keys if columns is None else columns)
        #: What is measured, by the key of its column; of two that say the same only one.
        self.measurements = {key: m for key, m in zip(keys, self.check.measurements, strict=True) if key in wanted}

        self._also, self._keep = also, keep

    @cached_property
    def _experiment(self) -> Experiment:
        return self._prepared(self.board)

    def _prepared(self, board: Board) -> Experiment:
        circuit, check = board.check(self.check.id)
        of = [*(measurement.of for measurement in self.check.measurements), *self._also]
        needed = Needed.by(of, circuit, Names.of(circuit, check))
        return prepare(circuit, check, self.models, sorted(needed.pins), needed.nets)

    def table(self, start: int, stop: int, look: Look = lambda _: None, found: Found = NOTHING) -> Table:
        """What rows start..stop-1 give. A row's numbers do not depend on which others are run with it.

        `found` holds the phases before, where the study's rows depend on them.

        `look` is told, again and again, what part of a row or of the rows is done; what it raises, if it is no
        VerdadError, ends them.

        Raises a VerdadError where the circuit cannot be built; a row that cannot be run has a cause instead of numbers.
        """
        table = Table.of(stop - start, len(self.measurements))
        values = self.study.values(self.board, self.check.id, self.models, start, stop, found)
        if self._turned_by_hand(values):
            self._one_board_a_row(table, values, look)
            return table
        at_once = self._experiment.rows_at_once
        for first in range(0, stop - start, at_once):
            self._fill(table, values, first, min(first + at_once, stop - start), look)
        return table

    def _turned_by_hand(self, values: Mapping[str, Floats]) -> bool:
        """Whether some quantity is no number of the engine's, so that each row is a circuit of its own."""
        try:
            for name in values:
                engine_key(self.circuit, self.check, name)
        except BoardError:
            return True
        return False

    def _fill(self, table: Table, values: Mapping[str, Floats], first: int, last: int, look: Look) -> None:
        experiment = self._experiment
        try:
            changes = {engine_key(self.circuit, self.check, name): v[first:last] for name, v in values.items()}
            nominal = {("", "temperature"): experiment.structure.nominal[:1].repeat(last - first)}
            matrix = ParameterMatrix.varied(experiment.structure, changes or nominal)
            clock = _RowClock(look)
            for row, found in enumerate(experiment.rows(matrix, clock.look)):
                look(row / (last - first))
                _, result = long_enough(experiment, found, matrix.row(row), clock.look)
                self._put(table, first + row, result, clock.late)
        except CircuitError:
            if last - first == 1:
                self._without(table, first, Cause.REFUSED)
                return
            for row in range(first, last):
                self._fill(table, values, row, row + 1, look)

    def _one_board_a_row(self, table: Table, values: Mapping[str, Floats], look: Look) -> None:
        for row in range(len(table.values)):
            look(row / len(table.values))
            clock = _RowClock(look)
            try:
                board = self.board
                for name, numbers in values.items():
                    board = with_quantity(board, self.check.id, name, repr(float(numbers[row])))
                experiment = self._prepared(board)
                [found] = experiment.rows(look=clock.look)
                _, result = long_enough(experiment, found, None, clock.look)
                self._put(table, row, result, clock.late)
            except ConvergenceError:
                self._without(table, row, Cause.NOT_SOLVED)
            except VerdadError:
                self._without(table, row, Cause.REFUSED)

    def _without(self, table: Table, row: int, cause: Cause) -> None:
        table.causes[row] = cause
        self._keep(None)

    def _put(self, table: Table, row: int, result: RowResult, late: bool) -> None:
        cause = Cause.OUT_OF_TIME if late else result.cause
        if cause is not Cause.NUMBER or result.signals is None:
            self._without(table, row, cause)
            return
        self._keep(result)
        for column, measurement in enumerate(self.measurements.values()):
            with suppress(MeasurementError):
                table.put(row, column, measure(measurement, result.signals)[0])


class _RowClock:
    """Ends a row that takes longer than its time."""

    def __init__(self, look: Look) -> None:
        self._look, self.ends, self.late = look, time.monotonic() + ROW_SECONDS, False

    def look(self, done: float) -> None:
        self._look(done)
        if time.monotonic() > self.ends:
            self.late = True
            raise ConvergenceError(f"the row was ended after {ROW_SECONDS:g} s, with {100 * done:.0f} % of it done")
