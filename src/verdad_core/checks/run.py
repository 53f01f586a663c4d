"""Running a check once, as drawn, with hand values beside what is measured."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, replace

from verdad_core.analyses.operating_point import Path
from verdad_core.analyses.table_span import table_span
from verdad_core.checks.cards import cards_of
from verdad_core.checks.cause import Cause
from verdad_core.checks.compiled import Compiler, compiled
from verdad_core.checks.elaborate import Models
from verdad_core.checks.experiment import Experiment, prepare
from verdad_core.checks.hand import Hand, hand_value
from verdad_core.checks.kind import kind_of
from verdad_core.checks.known import known_volts
from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.checks.prepared import Look, RowResult, Scale
from verdad_core.checks.signals import Names, Needed, Signals
from verdad_core.checks.stability import Mode, modes, unstable
from verdad_core.document.board import Board
from verdad_core.document.checks import Check
from verdad_core.document.measurements import Measurement
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import Finding, MeasurementError, Severity
from verdad_core.measure.entry import measured, unit_of
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.registry import MEASUREMENTS
from verdad_core.measure.steps import UnsettledError
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import HERTZ, VOLTS
from verdad_core.units import format_span, format_value

#: A run whose length was left open is made so much longer, so many times, until what is measured has settled, as long
#: as it has no more steps than these.
LONGER, MOST_LONGER, MOST_STEPS = 4.0, 5, 200_000


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
    #: What the numbers mean, in one sentence; and the natural frequencies of the circuit as drawn.
    sentence: str = ""
    modes: tuple[Mode, ...] = ()

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
    cards = cards_of(circuit, check)
    curves = (curve.expression for card in cards for curve in card.curves)
    expressions = [*curves, *(m.of for m in check.measurements)]
    needed = Needed.by(expressions, circuit, Names.of(circuit, check))
    experiment = prepare(circuit, check, models, sorted(needed.pins | set(metered)), compiler=compiler)
    [result] = experiment.rows(look=look)
    experiment, result = long_enough(experiment, result, None, look)
    findings = [*result.findings, *_beyond_tables(experiment, result)]
    found: list[tuple[Measurement, float, str, str]] = []
    for measurement in check.measurements if result.signals else ():
        assert result.signals is not None
        try:
            value, unit = measure(measurement, result.signals)
            said = MEASUREMENTS[measurement.key].said(_trace(measurement, result.signals), measurement.asked)
        except MeasurementError as error:
            findings.append(Finding(Severity.WARNING, f"{measurement.title}: {error.message}", remedy=error.remedy))
            value, unit, said = math.nan, unit_of_measurement(circuit, check, measurement), ""
        found.append((measurement, value, unit, said))
    numbers = []
    for measurement, value, unit, said in found:
        others = {each.title: (number, of) for each, number, of, _ in found if each.id != measurement.id}
        hand = None
        try:
            if (own := measurement.hand) is not None:
                # What is no evidence does not speak against a formula.
                shown = value if result.cause is Cause.NUMBER else math.nan
                hand = hand_value(circuit, check, models, own.formula, own.source, unit, shown, others)
        except MeasurementError as error:
            words = f"by hand, {measurement.title}: {error.message}"
            findings.append(Finding(Severity.WARNING, words, remedy=error.remedy))
        numbers.append(Measured(measurement.id, measurement.title, unit, value, hand, said))
    point = experiment.point
    nodes = point.node_voltages() if point.path().solved else {}
    words = experiment.scale.words
    # Which net moves most takes a factorisation a mode: only for who looks at it.
    looked_at = [net for net in experiment.nets if net in nodes] if any(card.shape == "poles" for card in cards) else []
    return CheckResult(
        point.path(),
        nodes,
        words,
        result.signals,
        tuple(numbers),
        tuple(findings),
        _sentence(experiment, result),
        modes(experiment.natural, experiment.point, looked_at),
    )


def _beyond_tables(experiment: Experiment, result: RowResult) -> Iterator[Finding]:
    """A note where a sweep goes beyond the frequencies that tables in the circuit hold numbers for."""
    span = table_span(experiment.structure)
    traces = result.signals.others.values() if result.signals else ()
    axis = next((trace.axis for trace in traces if trace.axis), result.signals.axis if result.signals else None)
    if span is None or axis is None or axis.unit != HERTZ:
        return
    low, high = float(axis.values[0]), float(axis.values[-1])
    if low < span[0] * (1 - 1e-6) or high > span[1] * (1 + 1e-6):
        words = f"a model in it is a table from {format_span(*span, 'Hz')}: beyond, its ends are held"
        yield Finding(Severity.NOTE, words, remedy="Start and stop the check within it.")


def _sentence(experiment: Experiment, result: RowResult) -> str:
    """What the numbers mean; those that are no evidence mean nothing."""
    if result.cause is Cause.UNSTABLE:
        return unstable(experiment.natural)
    if result.cause is not Cause.NUMBER or result.signals is None:
        return ""
    try:
        return kind_of(experiment.check).sentence(experiment, result.signals)
    except MeasurementError:
        return ""


def long_enough(
    experiment: Experiment, result: RowResult, matrix: ParameterMatrix | None, look: Look = lambda _: None
) -> tuple[Experiment, RowResult]:
    """One row, run for longer until what is measured has settled, where its length was left open."""
    for _ in range(MOST_LONGER):
        if not _asks_for_more(experiment.check, result):
            break
        experiment = replace(experiment, scale=_longer(experiment.scale))
        [result] = experiment.rows(matrix, look)
    return experiment, result


def _longer(scale: Scale) -> Scale:
    """A run that goes on for much longer: a slewing amplifier takes no account of its poles."""
    stop = LONGER * scale.stop
    return Scale(scale.start, stop, f"{format_value(stop, 's', 3)}, until what is measured has settled")


def _asks_for_more(check: Check, result: RowResult) -> bool:
    """Whether a run whose length was left open is too short for what is measured, and has gone well so far."""
    if not kind_of(check).is_open_ended(check) or result.signals is None:
        return False
    axis = result.signals.axis
    many = axis is not None and len(axis.values) > MOST_STEPS
    if many or any(finding.severity is Severity.ERROR for finding in result.findings):
        return False
    for measurement in check.measurements:
        try:
            measure(measurement, result.signals)
        except UnsettledError:
            return True
        except MeasurementError:
            continue
    return False


def _trace(measurement: Measurement, signals: Signals) -> Trace:
    return signals.evaluate(read_expression(measurement.of))


def measure(measurement: Measurement, signals: Signals) -> tuple[float, str]:
    """The number and its unit. Raises MeasurementError."""
    entry = MEASUREMENTS[measurement.key]
    trace = _trace(measurement, signals)
    value, unit = measured(entry, trace, measurement.asked), unit_of(entry, trace)
    if unit == VOLTS.name and not trace.is_complex:
        value = known_volts(value, signals.largest_volts)
    return value, unit
