"""Running a check: once as drawn, with hand values beside it, or over the rows of a study."""

from __future__ import annotations

import math
from contextlib import suppress
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.ac import ac, logarithmic
from verdad_core.analyses.operating_point import Path, operating_point
from verdad_core.analyses.poles import Poles
from verdad_core.arrays import Complexes, Floats
from verdad_core.board.document import Board, Check, Circuit, FrequencySweep, HandValue, MonteCarlo
from verdad_core.board.elaborate import Models, drive_node, elaborate, value_key
from verdad_core.board.parts import Valued
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND, Structure, compile_structure
from verdad_core.errors import BoardError, Finding, MeasurementError, Place, Severity
from verdad_core.handcalc.forms import CLOSED_FORMS
from verdad_core.measure.response import RESPONSE_MEASUREMENTS
from verdad_core.studies.monte_carlo import monte_carlo_rows
from verdad_core.units import format_value, parse_value


@dataclass(frozen=True)
class Hand:
    """A hand value: the closed form's text, its number, and how far the simulated one lies from it, in per cent."""

    formula: str
    source: str
    value: float
    deviation: float


@dataclass(frozen=True)
class Measured:
    """A measurement's number (NaN when the response does not hold it), with the hand value beside it."""

    id: str
    title: str
    unit: str
    value: float
    hand: Hand | None


@dataclass(frozen=True)
class Response:
    """A frequency response: frequency in hertz, v(output) / v(source)."""

    frequency: Floats
    ratio: Complexes


@dataclass(frozen=True)
class CheckResult:
    """One run of a check as drawn: the operating point in volts by net, and what its analysis brought."""

    voltages: dict[str, float]
    path: Path
    response: Response | None
    measured: tuple[Measured, ...]
    findings: tuple[Finding, ...]

    @property
    def objection(self) -> Finding | None:
        """Why the numbers are no evidence, where they are none: the circuit would not stay at its operating point."""
        return next((finding for finding in self.findings if finding.severity is Severity.ERROR), None)


@dataclass(frozen=True)
class _Prepared:
    structure: Structure
    frequency: Floats
    outputs: list[tuple[str, str]]


def _prepare(circuit: Circuit, check: Check, sweep: FrequencySweep, models: Models) -> _Prepared:
    structure = compile_structure(elaborate(circuit, check, models))
    frequency = logarithmic(parse_value(sweep.start), parse_value(sweep.stop), sweep.points_per_decade)
    # The document does not take a sweep without its output and source.
    assert check.output is not None
    assert check.source is not None
    source = next(fixture for fixture in check.fixtures if fixture.name == check.source)
    output, reference = (GROUND if net == "gnd" else net for net in (check.output, source.minus))
    return _Prepared(structure, frequency, [(output, GROUND), (drive_node(check.source), reference)])


def run_check(board: Board, check_id: str, models: Models) -> CheckResult:
    """Run a check with every value as drawn.

    Raises a VerdadError when the circuit cannot be built or its operating point is not found. A measurement that
    the response does not hold, and a hand value without its part, become findings.
    """
    circuit, check = board.check(check_id)
    if not isinstance(check.analysis, FrequencySweep):
        point = operating_point(compile_structure(elaborate(circuit, check, models)))
        point.require()
        return CheckResult(point.node_voltages(), point.path(), None, (), ())
    prepared = _prepare(circuit, check, check.analysis, models)
    result = ac(prepared.structure, prepared.frequency, prepared.outputs)
    result.operating_point.require()
    response = result.values[0, 0] / result.values[0, 1]
    [natural] = result.poles
    findings = _stability(natural)
    if not np.all(np.isfinite(response)):
        raise BoardError("the response could not be computed at every frequency", remedy="Look for extreme values.")
    measured = []
    for measurement in check.measurements:
        entry = RESPONSE_MEASUREMENTS[measurement.key]
        try:
            value = entry.function(prepared.frequency, response)
        except MeasurementError as error:
            findings.append(Finding(Severity.WARNING, f"{entry.title}: {error.message}", remedy=error.remedy))
            value = math.nan
        hand = None
        try:
            hand = _hand(circuit, check, measurement.hand, value) if measurement.hand else None
        except BoardError as error:
            findings.append(Finding(Severity.WARNING, error.message, error.place, error.remedy))
        measured.append(Measured(measurement.id, entry.title, entry.unit, value, hand))
    return CheckResult(
        voltages=result.operating_point.node_voltages(),
        path=result.operating_point.path(),
        response=Response(prepared.frequency, response),
        measured=tuple(measured),
        findings=tuple(findings),
    )


def _stability(natural: Poles) -> list[Finding]:
    """What must be said of a frequency response whose operating point is not stable, or not known to be."""
    if not natural.known:
        return [Finding(Severity.NOTE, "the poles were not computed, so the operating point may be unstable")]
    if not len(natural.unstable):
        return []
    growth = natural.unstable[np.argmax(natural.unstable.real)]
    count = len(natural.unstable)
    where = f"{format_value(abs(growth) / (2 * math.pi), 'Hz', 3)}"
    manner = f"oscillate near {where}" if growth.imag else f"run away within {format_value(1 / growth.real, 's', 3)}"
    return [
        Finding(
            Severity.ERROR,
            f"unstable: {count} pole{'s' if count > 1 else ''} in the right half-plane; the circuit would {manner}, "
            "and this response cannot be measured on it",
            remedy="Look for swapped inputs, for feedback to the wrong input, and for a capacitive load on an output.",
        )
    ]


def run_rows(board: Board, study: MonteCarlo, models: Models, start: int, stop: int) -> Floats:
    """The measurements [stop - start, measurements] of a study's rows start..stop-1.

    NaN where a row gave no number: its operating point was not found or is unstable, or its response does not hold it.
    """
    circuit, check = board.check(study.check)
    if not isinstance(check.analysis, FrequencySweep):
        raise BoardError(f"check '{check.title}' has no frequency response to study", remedy="Choose another check.")
    prepared = _prepare(circuit, check, check.analysis, models)
    valued = {part.designator: value_key(part) for part in circuit.parts if isinstance(part, Valued)}
    spreads = [spread for spread in board.spreads if spread.part in valued]
    matrix: ParameterMatrix = monte_carlo_rows(prepared.structure, spreads, valued, study.seed, start, stop)
    result = ac(prepared.structure, prepared.frequency, prepared.outputs, matrix)
    natural = result.poles
    table = np.full((stop - start, len(check.measurements)), np.nan)
    for row, (output, reference) in enumerate(result.values):
        response = output / reference
        if len(natural[row].unstable) or not np.all(np.isfinite(response)):
            continue
        for column, measurement in enumerate(check.measurements):
            with suppress(MeasurementError):
                table[row, column] = RESPONSE_MEASUREMENTS[measurement.key].function(prepared.frequency, response)
    return table


def _hand(circuit: Circuit, check: Check, hand: HandValue, simulated: float) -> Hand:
    form = CLOSED_FORMS[hand.form]
    value = form.evaluate(**{symbol: _looked_up(circuit, check, name) for symbol, name in hand.inputs.items()})
    deviation = 100.0 * (simulated - value) / abs(value) if value else math.nan
    return Hand(form.formula, form.source, value, deviation)


def _looked_up(circuit: Circuit, check: Check, name: str) -> float:
    """The number behind "R3" or "geophone.resistance". Raises BoardError."""
    fixture_name, _, attribute = name.partition(".")
    if attribute:
        for fixture in check.fixtures:
            if fixture.name == fixture_name and attribute in type(fixture).model_fields:
                return parse_value(str(getattr(fixture, attribute)))
    else:
        part = next((part for part in circuit.parts if part.designator == name), None)
        if isinstance(part, Valued):
            return parse_value(part.value)
    raise BoardError(
        f"the hand value uses '{name}', which has no value here",
        place=Place(part=name),
        remedy="Name a part such as R3, or a fixture's quantity such as geophone.resistance.",
    )
