"""Running a check: once as drawn, with hand values beside it, or over the rows of a study."""

from __future__ import annotations

import math
import time
from collections.abc import Collection, Mapping
from contextlib import suppress
from dataclasses import dataclass, replace

from verdad_core.analyses.operating_point import Path
from verdad_core.board.analyses import Transient
from verdad_core.board.checks import Check
from verdad_core.board.compiled import Compiler, compiled
from verdad_core.board.document import Board, MonteCarlo
from verdad_core.board.elaborate import Models, value_key
from verdad_core.board.experiment import Experiment, Look, RowResult, prepare
from verdad_core.board.fixtures import Source
from verdad_core.board.hand import Hand, hand_value
from verdad_core.board.known import known_volts
from verdad_core.board.measurements import Measurement
from verdad_core.board.parts import Valued
from verdad_core.board.scales import longer
from verdad_core.board.signals import Names, Needed, Signals
from verdad_core.board.usual_cards import cards_of
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import BoardError, CircuitError, ConvergenceError, Finding, MeasurementError, Severity
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.registry import MEASUREMENTS, measured, unit_of
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import VOLTS
from verdad_core.measure.waveform import UnsettledError
from verdad_core.studies.monte_carlo import monte_carlo_rows
from verdad_core.studies.table import Cause, Table
from verdad_core.units import parse_value

#: A run whose length was left open is made longer so many times, until what is measured has settled, as long as it has
#: no more steps than these.
MOST_LONGER, MOST_STEPS = 5, 200_000

#: Seconds that one row of a study may take.
ROW_SECONDS = 60.0


@dataclass(frozen=True)
class Measured:
    """A measurement's number (NaN when the trace does not hold it), with the hand value beside it."""

    id: str
    title: str
    unit: str
    value: float
    hand: Hand | None
    #: How it was measured, where that is not plain: over which periods.
    said: str = ""


@dataclass(frozen=True)
class CheckResult:
    """One run of a check as drawn: its signals (None where it could not start) and what was measured on them.

    `scale` says in words over which range it ran, where that was chosen from the circuit.
    """

    path: Path
    #: Volts of every node at the operating point; empty where it was not found.
    nodes: Mapping[str, float]
    scale: str
    signals: Signals | None
    measured: tuple[Measured, ...]
    findings: tuple[Finding, ...]

    @property
    def objection(self) -> Finding | None:
        """Why the numbers are no evidence, where they are none: the circuit would not stay at its operating point."""
        return next((finding for finding in self.findings if finding.severity is Severity.ERROR), None)


def run_check(
    board: Board, check_id: str, models: Models, metered: Collection[str] = (), look: Look = lambda _: None,
    compiler: Compiler = compiled,
) -> CheckResult:  # fmt: skip
    """Run a check with every value as drawn.

    Currents are computed for what the check's measurements and cards ask for, and for the pins in `metered`. `look` is
    told the fraction that is done; a VerdadError that it raises ends the run with what it has. Raises a VerdadError
    when the circuit cannot be built or its operating point is not found. A measurement that its trace does not hold,
    and a hand value without its part, become findings.
    """
    circuit, check = board.check(check_id)
    shown = (curve.expression for card in cards_of(circuit, check) for curve in card.curves)
    expressions = [*shown, *(m.of for m in check.measurements)]
    needed = Needed.by(expressions, circuit, Names.of(circuit, check))
    experiment = prepare(circuit, check, models, sorted(needed.pins | set(metered)), compiler=compiler)
    [result] = experiment.rows(look=look)
    experiment, result = _long_enough(experiment, result, None, look)
    findings = list(result.findings)
    numbers = []
    for measurement in check.measurements if result.signals else ():
        assert result.signals is not None
        try:
            value, unit = _measure(measurement, result.signals)
            said = MEASUREMENTS[measurement.key].said(_trace(measurement, result.signals))
        except MeasurementError as error:
            findings.append(Finding(Severity.WARNING, f"{measurement.title}: {error.message}", remedy=error.remedy))
            value, unit, said = math.nan, MEASUREMENTS[measurement.key].unit, ""
        hand = None
        try:
            hand = hand_value(circuit, check, measurement.hand, value) if measurement.hand else None
        except BoardError as error:
            findings.append(Finding(Severity.WARNING, error.message, error.place, error.remedy))
        numbers.append(Measured(measurement.id, measurement.title, unit, value, hand, said))
    point = experiment.point
    nodes = point.node_voltages() if point.path().solved else {}
    words = experiment.scale.words
    return CheckResult(point.path(), nodes, words, result.signals, tuple(numbers), tuple(findings))


def _long_enough(
    experiment: Experiment, result: RowResult, matrix: ParameterMatrix | None, look: Look = lambda _: None
) -> tuple[Experiment, RowResult]:
    """One row, run for longer until what is measured has settled, where its length was left open."""
    for _ in range(MOST_LONGER):
        if not _asks_for_more(experiment.check, result):
            break
        experiment = replace(experiment, scale=longer(experiment.scale))
        [result] = experiment.rows(matrix, look)
    return experiment, result


def _asks_for_more(check: Check, result: RowResult) -> bool:
    """Whether a run whose length was left open is too short for what is measured, and has gone well so far."""
    if not isinstance(check.analysis, Transient) or check.analysis.stop is not None or result.signals is None:
        return False
    if any(isinstance(fixture, Source) and fixture.waveform and fixture.waveform.period for fixture in check.fixtures):
        return False  # what is driven on and on need not come to rest
    axis = result.signals.axis
    many = axis is not None and len(axis.values) > MOST_STEPS
    if many or any(finding.severity is Severity.ERROR for finding in result.findings):
        return False
    for measurement in check.measurements:
        try:
            _measure(measurement, result.signals)
        except UnsettledError:
            return True
        except MeasurementError:
            continue
    return False


def _trace(measurement: Measurement, signals: Signals) -> Trace:
    return signals.evaluate(read_expression(measurement.of))


def _measure(measurement: Measurement, signals: Signals) -> tuple[float, str]:
    """The number and its unit. Raises MeasurementError."""
    entry = MEASUREMENTS[measurement.key]
    trace = _trace(measurement, signals)
    at = math.nan if measurement.at is None else parse_value(measurement.at)
    value, unit = measured(entry, trace, at), unit_of(entry, trace)
    if unit == VOLTS.name and not trace.is_complex:
        value = known_volts(value, signals.largest_volts)
    return value, unit


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
                _, result = _long_enough(experiment, found, matrix.row(row), clock.look)
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
            table.put(row, column, _measure(measurement, result.signals)[0])
