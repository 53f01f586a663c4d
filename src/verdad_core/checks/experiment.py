"""A check made ready for the engine: its circuit compiled once, its scale chosen, and run for any rows."""

from __future__ import annotations

import cmath
import math
from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cache

import numpy as np

from verdad_core.analyses.ac import ac_at, logarithmic
from verdad_core.analyses.crowding import crowded, light
from verdad_core.analyses.dc_sweep import Swept, dc_sweep, up_and_down
from verdad_core.analyses.in_time import approximated
from verdad_core.analyses.operating_point import OperatingPoint as Point
from verdad_core.analyses.operating_point import one_row, operating_point
from verdad_core.analyses.poles import Poles, lasting, poles, possible_zeros
from verdad_core.analyses.transient import Start, transient
from verdad_core.arrays import Complexes, Floats, Values
from verdad_core.checks.cause import Cause
from verdad_core.checks.compiled import Compiler, compiled
from verdad_core.checks.elaborate import Models, drive_node, meter_current
from verdad_core.checks.quantities import engine_key, quantity
from verdad_core.checks.scales import Scale, duration, frequencies, swept
from verdad_core.checks.signals import Names, Signals
from verdad_core.document.analyses import DcSweep, FrequencySweep, OperatingPoint, Transient
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Source
from verdad_core.document.measurements import RESPONSE
from verdad_core.document.parts import nets_of
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.structure import GROUND, Structure
from verdad_core.errors import BoardError, Finding, Severity
from verdad_core.measure.trace import Axis, Trace
from verdad_core.measure.units import AMPERES, HERTZ, SECONDS, VOLTS, unit_named
from verdad_core.units import format_value, parse_value

#: Numbers that a run in time keeps for all of its rows, 128 MB, so that measurements see every step. Where there are
#: more points, the extremes of each stretch stay, and what needs the points between them has no answer.
MOST_NUMBERS, LEAST_POINTS = 16_000_000, 20_000

#: Phase may turn by this much between two points of a response, in radians; what is between them is computed then, as
#: long as there are no more than so many.
TURN, MOST_REFINED = 0.5 * math.pi, 4_000

#: What being unstable means for numbers at rest, and how little moves in a run that stays there, by what there is.
STAYS, STILL = "it will not stay here: numbers of it are no evidence", 1e-6

#: How far beside a frequency the solutions are that say how it changes there, by the frequency.
BESIDE = 1e-6

Look = Callable[[float], None]


@dataclass(frozen=True)
class RowResult:
    """One row: its signals, or None where its operating point was not found, what must be said of it, and why its
    numbers are no evidence, where they are none.
    """

    signals: Signals | None
    findings: tuple[Finding, ...]
    cause: Cause = Cause.NUMBER


@dataclass(frozen=True)
class Experiment:
    """`scale` says over which range the analysis runs; `point` is the operating point as drawn, `natural` its poles."""

    circuit: Circuit
    check: Check
    structure: Structure
    names: Names
    #: The nets whose voltages, and the pins and fixtures whose currents, are kept.
    nets: tuple[str, ...]
    metered: tuple[str, ...]
    point: Point
    natural: Poles
    scale: Scale

    def rows(self, matrix: ParameterMatrix | None = None, look: Look = lambda _: None) -> Iterator[RowResult]:
        """Run the analysis for every row of `matrix` (default: as drawn)."""
        analysis = self.check.analysis
        match analysis:
            case OperatingPoint():
                yield from self._at_rest(matrix)
            case DcSweep():
                yield from self._dc(analysis, matrix)
            case FrequencySweep():
                yield from self._ac(analysis, matrix)
            case Transient():
                yield from self._in_time(analysis, matrix, look)

    @property
    def rows_at_once(self) -> int:
        """How many rows are run side by side, so that what they bring stays within MOST_NUMBERS; in time one by one."""
        match self.check.analysis:
            case Transient():
                return 1
            case DcSweep(points=points, and_back=back):
                points *= 2 if back else 1
            case FrequencySweep(points_per_decade=per_decade):
                points = 4 + int(2 * per_decade * math.log10(max(self.scale.stop / self.scale.start, 10.0)))
            case _:
                points = 1
        return max(1, min(1000, MOST_NUMBERS // 8 // (points * (1 + len(self._outputs)))))

    @property
    def _outputs(self) -> list[tuple[str, str]]:
        """Nets, then metered currents."""
        return [(net, GROUND) for net in self.nets] + [(meter_current(pin), GROUND) for pin in self.metered]

    def _signals(self, axis: Axis | None, values: Values, others: Mapping[str, Trace] | None = None) -> Signals:
        return Signals(
            self.names, axis,
            voltages=dict(zip(self.nets, values, strict=False)),
            currents=dict(zip(self.metered, values[len(self.nets) :], strict=False)),
            others=others or {},
            nets_of={part.designator: nets_of(part) for part in self.circuit.parts},
        )  # fmt: skip

    def _restless(self) -> list[Finding]:
        """A note where the operating point as drawn is one that the circuit would leave by itself."""
        return stability(self.natural, Severity.NOTE) if self.natural.known else []

    def _points(self, matrix: ParameterMatrix | None) -> tuple[Point, list[Poles]]:
        if matrix is None:
            return self.point, [self.natural]
        point = operating_point(self.structure, matrix)
        return point, poles(point)

    def _at_rest(self, matrix: ParameterMatrix | None) -> Iterator[RowResult]:
        point, natural = self._points(matrix)
        index = [self.structure.index(unknown) for unknown, _ in self._outputs]
        for row, found in enumerate(natural):
            solved = point.path(row).solved
            signals = self._signals(None, point.values[row, index]) if solved else None
            cause = Cause.UNSTABLE if len(found.unstable) else Cause.NUMBER
            findings = tuple(stability(found, Severity.ERROR, STAYS))
            yield RowResult(signals, findings, cause if solved else Cause.NOT_SOLVED)

    def _dc(self, analysis: DcSweep, matrix: ParameterMatrix | None) -> Iterator[RowResult]:
        over, _ = swept(analysis, self.circuit, self.check)
        values = np.linspace(self.scale.start, self.scale.stop, analysis.points)
        values = up_and_down(values) if analysis.and_back else values
        key = engine_key(self.circuit, self.check, over)
        result = dc_sweep(self.structure, [Swept(key, values)], self._outputs, matrix)
        unit = unit_named(quantity(self.circuit, self.check, over).unit)
        for row, values_of_row in enumerate(result.values):
            solved = result.paths[row] >= 0
            axis = Axis(over, unit, values[solved])
            findings = self._restless()
            if not np.all(solved):
                findings.append(_unsolved(over, unit.name, values[~solved]))
            some = bool(np.any(solved))
            signals = self._signals(axis, values_of_row[:, solved]) if some else None
            yield RowResult(signals, tuple(findings), Cause.NUMBER if some else Cause.NOT_SOLVED)

    def _ac(self, analysis: FrequencySweep, matrix: ParameterMatrix | None) -> Iterator[RowResult]:
        point, natural = self._points(matrix)
        grid = self._following_lines(logarithmic(self.scale.start, self.scale.stop, analysis.points_per_decade))
        drive = self._drive()
        outputs = [*self._outputs, *([drive] if isinstance(drive, tuple) else [])]
        narrow = [light(roots) for roots in self._roots(point, natural)]
        shared = None if any(map(len, narrow)) else ac_at(point, grid, outputs)
        for row in range(len(point.values)):
            if not point.path(row).solved:
                yield RowResult(None, (), Cause.NOT_SOLVED)
                continue
            if shared is not None:
                frequency, values = self._refined(point, row, grid, shared.values[row], outputs)
            else:
                own = crowded(grid, narrow[row])
                first = ac_at(one_row(point, row), own, outputs).values[0]
                frequency, values = self._refined(point, row, own, first, outputs)
            axis = Axis("frequency", HERTZ, frequency, logarithmic=True)
            findings = self.structure.topology.findings()
            findings += stability(natural[row], Severity.ERROR, "this response cannot be measured on it")
            cause = Cause.UNSTABLE if len(natural[row].unstable) else Cause.NUMBER
            if not np.all(np.isfinite(values)):
                cause = Cause.NOT_SOLVED
                findings.append(
                    Finding(Severity.ERROR, "the response could not be computed at every frequency",
                            remedy="Look for extreme values.")
                )  # fmt: skip
            yield RowResult(self._phasors(one_row(point, row), axis, values, outputs), tuple(findings), cause)

    def _phasors(self, point: Point, axis: Axis, values: Complexes, outputs: list[tuple[str, str]]) -> Signals:
        """Signals of phasors [outputs, F] of one row; how they change with the frequency is found when it is asked."""

        @cache
        def steep() -> Signals:
            return self._of_response(axis, values, self._slopes(point, axis.values, outputs))

        return replace(self._of_response(axis, values, None), steep=steep)

    def _of_response(self, axis: Axis, values: Complexes, slopes: Complexes | None) -> Signals:
        """Signals of phasors [outputs, F], and the response, the output by what drives it."""
        signals, drive = self._signals(axis, values), self._drive()
        length = len(axis.values)
        output, steep = np.zeros(length, complex), None if slopes is None else np.zeros(length, complex)
        if self.check.output in self.nets:
            place = self.nets.index(self.check.output)
            output, steep = values[place], None if slopes is None else slopes[place]
        reference, unit = (values[-1], VOLTS) if isinstance(drive, tuple) else (drive, AMPERES)
        response = Trace(output / reference, VOLTS / unit, axis)
        if slopes is not None and steep is not None:
            moving = slopes[-1] if isinstance(drive, tuple) else 0.0
            response = replace(response, slope=(steep - response.values * moving) / reference)
            signals = replace(signals, slopes=dict(zip((*self.nets, *self.metered), slopes, strict=False)))
        return replace(signals, others={RESPONSE: response})

    def _slopes(self, point: Point, frequency: Floats, outputs: list[tuple[str, str]]) -> Complexes:
        """How phasors [outputs, F] of one row change with the frequency, per hertz.

        Of solutions a millionth above and below: a derivative of the solution, whatever the points of the sweep.
        """
        above, below = (ac_at(point, frequency * (1.0 + side), outputs).values[0] for side in (BESIDE, -BESIDE))
        return np.asarray((above - below) / (2.0 * BESIDE * frequency))

    def _roots(self, point: Point, natural: list[Poles]) -> list[Complexes]:
        """Poles, and the zeros of the check's output where it has lightly damped ones, of every row."""
        poles_of = [found.values for found in natural]
        source = self.check.fixture(self.check.source)
        output = self.check.output
        if source is None or output not in self.nets:
            return poles_of
        # Those that are none lie beyond every sweep.
        others = possible_zeros(one_row(point, 0), source.name, (output, GROUND))
        if not len(light(others[0].values)):
            return poles_of
        if len(natural) > 1:
            others = possible_zeros(point, source.name, (output, GROUND))
        return [np.concatenate([found, other.values]) for found, other in zip(poles_of, others, strict=True)]

    def _following_lines(self, grid: Floats) -> Floats:
        """The points of a sweep, closer where lines would turn the phase by more than an eighth between two.

        Nothing tells afterwards that a phase has turned all the way round.
        """
        delay = sum(e.values.get("td", 0.0) for e in self.structure.elements if e.family == "line")
        parts = np.ceil(8.0 * delay * np.diff(grid)).astype(int)
        if not np.any(parts > 1) or np.sum(np.maximum(parts, 1)) > MOST_REFINED:
            return grid
        between = [np.linspace(a, b, max(n, 1), endpoint=False) for a, b, n in zip(grid, grid[1:], parts, strict=False)]
        return np.concatenate([*between, grid[-1:]])

    def _refined(
        self, point: Point, row: int, frequency: Floats, values: Complexes, outputs: list[tuple[str, str]]
    ) -> tuple[Floats, Complexes]:
        """More points wherever the phase of an output turns too far between two: behind a line, for one."""
        while len(frequency) < MOST_REFINED:
            with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
                turn = np.abs(np.angle(values[:, 1:] / values[:, :-1]))
            wide = np.flatnonzero(np.any(turn > TURN, axis=0) & (np.diff(frequency) > 1e-9 * frequency[1:]))
            if not len(wide):
                break
            more = np.sqrt(frequency[wide] * frequency[wide + 1])[: MOST_REFINED - len(frequency)]
            found = ac_at(one_row(point, row), more, outputs).values[0]
            order = np.argsort(np.concatenate([frequency, more]), kind="stable")
            frequency = np.concatenate([frequency, more])[order]
            values = np.concatenate([values, found], axis=1)[:, order]
        return frequency, values

    def _drive(self) -> tuple[str, str] | complex:
        """The voltage inside the check's source as an output, or the current of a source of current."""
        source = self.check.fixture(self.check.source)
        assert source is not None  # the document does not take a sweep without its source
        if isinstance(source, Source) and source.quantity == "current":
            if not (amperes := parse_value(source.ac)):
                raise BoardError(f"source {source.name} has no AC magnitude", remedy="Give it one, such as 1.")
            return cmath.rect(amperes, math.radians(parse_value(source.phase)))
        own = next(element for element in self.structure.elements if element.name == source.name)
        return drive_node(source.name), own.nodes[1]

    def _in_time(self, analysis: Transient, matrix: ParameterMatrix | None, look: Look) -> Iterator[RowResult]:
        start = Start.CONDITIONS if analysis.begin == "cold" else Start.OPERATING_POINT
        longest = None if analysis.longest is None else parse_value(analysis.longest)
        rows = 1 if matrix is None else matrix.rows
        most = max(LEAST_POINTS, MOST_NUMBERS // (rows * (1 + len(self._outputs))))
        result = transient(
            self.structure, self.scale.stop, self._outputs, matrix=matrix, start=start, longest=longest,
            since=parse_value(analysis.since), most_points=most, look=look,
        )  # fmt: skip
        # A cold run says itself whether it comes to rest where the circuit could.
        told = self._restless() if start is Start.OPERATING_POINT else []
        told += [*self.structure.topology.findings(), *approximated(self.structure, matrix)]
        for row, trace in enumerate(result.traces):
            findings = [*told]
            if trace.unsettled:
                findings.append(
                    Finding(Severity.WARNING, "no operating point was found, so the run begins with everything at zero")
                )
            findings += [trace.caution] if trace.caution else []
            cause = Cause.NUMBER
            if start is Start.OPERATING_POINT and _stays(trace.values):
                _, [natural] = self._points(None if matrix is None else matrix.row(row))
                if len(natural.unstable):
                    findings += stability(natural, Severity.ERROR, STAYS)
                    cause = Cause.UNSTABLE
            if trace.failure is not None:
                findings.append(Finding.of(trace.failure))
                cause = Cause.NOT_SOLVED
            axis = Axis("time", SECONDS, trace.time, thinned=trace.thinned)
            if len(trace.time) > 1:
                yield RowResult(self._signals(axis, trace.values), tuple(findings), cause)
            else:
                yield RowResult(None, tuple(findings), Cause.NOT_SOLVED)


def prepare(
    circuit: Circuit, check: Check, models: Models, metered: Collection[str] = (), nets: Collection[str] | None = None,
    compiler: Compiler = compiled,
) -> Experiment:  # fmt: skip
    """Compile a check with meters in front of some pins, and choose its scale; `nets` are those to keep, None for all.

    Raises a VerdadError when the circuit cannot be built, or its operating point is not found where it is needed.
    """
    structure = compiler(circuit, check, models, metered)
    point = operating_point(structure)
    analysis = check.analysis
    if isinstance(analysis, OperatingPoint | FrequencySweep):
        point.require()
    # A circuit that rests where it cannot stay is told of in every check.
    natural = lasting(point)
    scale = Scale(0.0, 0.0)
    match analysis:
        case FrequencySweep():
            scale = frequencies(analysis, natural)
        case Transient():
            scale = duration(analysis, check, natural)
        case DcSweep():
            _, scale = swept(analysis, circuit, check)
    names = Names.of(circuit, check)
    kept = [net for net in names.nets if net != "gnd" and (nets is None or net in nets or net == check.output)]
    return Experiment(circuit, check, structure, names, tuple(kept), tuple(metered), point, natural, scale)


def _unsolved(over: str, unit: str, values: Floats) -> Finding:
    ends = " to ".join(dict.fromkeys(format_value(float(v), unit, 3) for v in (values.min(), values.max())))
    return Finding(
        Severity.WARNING, f"{len(values)} points were not solved, with {over} at {ends}",
        remedy="Take a smaller range, or more points.",
    )  # fmt: skip


def _stays(values: Floats) -> bool:
    """Whether nothing moves in a run [outputs, T] but what rounding does."""
    size = np.max(np.abs(values), axis=1, initial=0.0)
    return bool(np.all(np.ptp(values, axis=1) <= STILL * np.maximum(size, 1.0)))


def stability(natural: Poles, severity: Severity, means: str = "it will not stay here") -> list[Finding]:
    """What must be said of a result whose operating point is not stable, or not known to be, and what that means."""
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
            severity,
            f"unstable: {count} pole{'s' if count > 1 else ''} in the right half-plane; the circuit would {manner}, "
            f"and {means}",
            remedy="Look for swapped inputs, for feedback to the wrong input, and for a capacitive load on an output.",
        )
    ]
