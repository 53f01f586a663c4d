"""Transient: the circuit in time, from its operating point, from given initial conditions, or cold."""

from __future__ import annotations

import math
import threading
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from verdad_core.analyses.in_time import in_time
from verdad_core.analyses.initial import check_conditions, check_held
from verdad_core.analyses.marcher import Accuracy, Counts, Marcher, NoiseInTime
from verdad_core.analyses.operating_point import operating_point
from verdad_core.arrays import Booleans, Floats
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.rows import in_chunks
from verdad_core.engine.structure import Structure
from verdad_core.errors import CircuitError, Finding, Severity, VerdadError

#: Steps that a run may ask for.
MAX_STEPS = 100_000_000

#: A run shows its waveforms with at least this many steps.
LEAST_STEPS = 50


class Start(StrEnum):
    """Where a transient begins.

    From the operating point of t = 0, in which nodes with a given voltage are held at it (cold, where there is none,
    as in a ring of decisions); from given voltages of nodes and capacitors and currents of inductors, everything else
    at zero; or cold, with everything at zero.
    """

    OPERATING_POINT = "operating point"
    CONDITIONS = "initial conditions"
    COLD = "cold"


@dataclass(frozen=True)
class Trace:
    """One row: `time` [T] in s, `values` [outputs, T]; why it ended early, where it did."""

    time: Floats
    values: Floats
    failure: VerdadError | None
    counts: Counts | None
    #: Whether it began cold because no operating point was found.
    unsettled: bool = False
    #: Whether there were more points than were to be kept.
    thinned: bool = False

    @property
    def caution(self) -> Finding | None:
        """What must be said where steps shrank so far that nothing but rounding was seen."""
        if self.counts is None or not self.counts.reliefs:
            return None
        return Finding(
            Severity.WARNING,
            f"at {self.counts.reliefs} instants the waveforms are only known to some millivolts or microamperes: there "
            "the circuit reacts faster than anything on a board does",
            remedy="Add what the board has there: picofarads to ground where only inductors lead to a part.",
        )


@dataclass(frozen=True)
class TransientResult:
    """A trace for every row. A row that ended early does not raise: see `Trace.failure` and `require`."""

    outputs: tuple[tuple[str, str], ...]
    traces: tuple[Trace, ...]

    def trace(self, row: int = 0) -> Trace:
        return self.traces[row]

    def value(self, output: tuple[str, str] | str, row: int = 0) -> Floats:
        """One output's values [T]; a string is a node or a branch current against ground."""
        wanted = (output, "0") if isinstance(output, str) else output
        return np.asarray(self.traces[row].values[self.outputs.index(wanted)])

    def require(self, row: int = 0) -> Trace:
        """The trace of a row that ran to its end. Raises what ended it otherwise."""
        trace = self.traces[row]
        if trace.failure is not None:
            raise trace.failure
        return trace


def transient(
    structure: Structure, stop: float, outputs: Sequence[tuple[str, str]], *, matrix: ParameterMatrix | None = None,
    start: Start = Start.OPERATING_POINT, initial: Mapping[str, float] | None = None, since: float = 0.0,
    longest: float | None = None, accuracy: Accuracy | None = None, times: Floats | None = None,
    most_points: int | None = None, noise: NoiseInTime | None = None,
    look: Callable[[float], None] | None = None, threads: int | None = None,
) -> TransientResult:  # fmt: skip
    """Every row of `matrix` (default: the nominal one) from t = 0 to `stop` (s).

    `outputs` are differences (plus, minus) of unknowns, as in all analyses. `initial` gives voltages of nodes at the
    start. Steps are at most `longest` (default: a fiftieth of the run). Points are the computed ones from `since` on,
    or those at `times`, interpolated. A trace keeps `most_points` at most: thinned so that the extremes of every output
    stay. `noise` adds the noise of all devices. `look` is told the fraction that is done, from several threads; a
    VerdadError it raises ends the rows where they are, and all of them while their beginning is searched. Raises
    CircuitError for what cannot be asked for, and for initial conditions that contradict.
    """
    _check(stop, since, longest, accuracy or Accuracy(), times, noise)
    structure, rows = in_time(structure, matrix or structure.unvaried)
    longest = stop / LEAST_STEPS if longest is None else longest
    beginning = begin_at(structure, rows, start, initial or {}, threads, (lambda: look(0.0)) if look else None)
    roles = structure.roles(beginning.matrix)
    # Compiled here, and not by all threads at once.
    _ = structure.circuit_in_time
    traces: list[Trace | None] = [None] * rows.rows
    progress = _Progress(rows.rows, stop, look)

    def one(row: int, _: int) -> None:
        collected = _Collected(most_points)
        march, failure = None, None
        try:
            march = Marcher(
                structure, beginning.matrix, roles, row, beginning.values[row], beginning.states[row], outputs, longest,
                stop, accuracy or Accuracy(), conditions=bool(beginning.from_charges[row]), since=since, times=times,
                noise=noise,
            )  # fmt: skip
            if since <= 0.0:
                collected.add(march.first())
            for block in march.to(stop, lambda now: progress.at(row, now)):
                collected.add(block)
        except VerdadError as error:
            failure = error
        if march is not None and times is not None:
            points = march.sampled
        else:
            points = collected.points(1 + len(outputs))
        counts = march.counts if march else None
        traces[row] = Trace(points[:, 0], points[:, 1:].T, failure, counts, beginning.lost(row), collected.thinned)

    in_chunks(rows.rows, one, threads, 1)
    return TransientResult(tuple(outputs), tuple(trace for trace in traces if trace is not None))


def _check(
    stop: float, since: float, longest: float | None, accuracy: Accuracy, times: Floats | None,
    noise: NoiseInTime | None,
) -> None:  # fmt: skip
    if not (math.isfinite(stop) and stop > 0):
        raise CircuitError(f"a transient cannot end at {stop:g} s", remedy="Give an end above zero.")
    if not 0 <= since < stop:
        raise CircuitError(
            f"points cannot be kept from {since:g} s on in a run of {stop:g} s",
            remedy="Start keeping them at zero or later, and before the end.",
        )
    if longest is not None and not longest > 0:
        raise CircuitError(f"a longest step of {longest:g} s is not possible", remedy="Give a step above zero.")
    if longest is not None and stop / longest > MAX_STEPS:
        raise CircuitError(
            f"steps of {longest:g} s at most over {stop:g} s are {stop / longest:.2g} steps; at most {MAX_STEPS:.0e} "
            "are computed",
            remedy="Allow longer steps, or end earlier.",
        )
    if not (0 < accuracy.relative <= 0.1 and accuracy.volts > 0 and accuracy.amperes > 0):
        raise CircuitError(
            "tolerances must be above zero, the relative one at most 0.1", remedy="The usual ones are 1e-3 and 1e-6 V."
        )
    if noise is not None and not 0 < noise.interval < stop:
        raise CircuitError(
            f"noise cannot be drawn every {noise.interval:g} s in a run of {stop:g} s",
            remedy="Give an interval shorter than the run.",
        )
    if times is not None and (len(times) == 0 or np.any(np.diff(times) < 0) or times[0] < 0 or times[-1] > stop):
        raise CircuitError("the times that are asked for do not rise within the run", remedy="Sort them.")


@dataclass(frozen=True)
class Beginning:
    """Where rows begin: unknowns [S, n + 1], states [S, states], and whether their charges are those that conditions
    ask for [S], rather than those of the unknowns.
    """

    start: Start
    matrix: ParameterMatrix
    values: Floats
    states: Floats
    from_charges: Booleans

    def lost(self, row: int) -> bool:
        """Whether the row was to begin at an operating point and has none."""
        return self.start is Start.OPERATING_POINT and bool(self.from_charges[row])


def begin_at(
    structure: Structure, matrix: ParameterMatrix, start: Start, initial: Mapping[str, float],
    threads: int | None = None, look: Callable[[], None] | None = None,
) -> Beginning:  # fmt: skip
    """Where a transient of every row begins; what `look` raises ends the search for it.

    Raises CircuitError for conditions that contradict.
    """
    if start is Start.OPERATING_POINT:
        point = operating_point(structure, matrix, threads, time=0.0, hold=initial, look=look)
        check_held(point, initial)
        lost = point.paths < 0
        if np.count_nonzero(lost):
            matrix = _without_conditions(structure, matrix)
            point.values[lost], point.states[lost] = 0.0, 0.0
        return Beginning(start, matrix, point.values, point.states, lost)
    if start is Start.CONDITIONS:
        check_conditions(structure, initial)
    else:
        matrix, initial = _without_conditions(structure, matrix), {}
    values = np.zeros((matrix.rows, structure.size + 1))
    for node, volts in initial.items():
        values[:, structure.index(node)] = volts
    values[:, -1] = 0.0
    return Beginning(start, matrix, values, np.zeros((matrix.rows, structure.states)), np.ones(matrix.rows, np.bool_))


def _without_conditions(structure: Structure, matrix: ParameterMatrix) -> ParameterMatrix:
    """The same with no initial conditions on capacitors and inductors."""
    conditions = structure.condition_columns
    if np.isnan(matrix.nominal[conditions]).all():
        return matrix
    nominal = matrix.nominal.copy()
    nominal[conditions] = np.nan
    return replace(matrix, nominal=nominal)


class _Progress:
    """The fraction of all rows that is done."""

    def __init__(self, rows: int, stop: float, look: Callable[[float], None] | None) -> None:
        self.done = np.zeros(rows)
        self.stop, self.look = stop, look
        self.lock = threading.Lock()

    def at(self, row: int, now: float) -> None:
        if self.look is None:
            return
        with self.lock:
            self.done[row] = now / self.stop
            self.look(float(self.done.sum()) / len(self.done))


class _Collected:
    """Points [T, 1 + outputs] as they come; where they are too many, the extremes of each stretch stay."""

    def __init__(self, most: int | None) -> None:
        self.blocks: list[Floats] = []
        self.count, self.most, self.thinned = 0, most, False

    def add(self, block: Floats) -> None:
        self.blocks.append(block)
        self.count += len(block)
        if self.most is not None and self.count > self.most:
            self.thinned = True
            points = thinned(np.concatenate(self.blocks), self.most // 2)
            self.blocks, self.count = [points], len(points)

    def points(self, width: int) -> Floats:
        return np.concatenate(self.blocks) if self.blocks else np.empty((0, width))


def thinned(points: Floats, most: int) -> Floats:
    """About `most` of the rows of points [T, 1 + outputs] at most, both ends and every output's extremes among them.

    The run is cut into stretches of equal time; of each its first point and every output's least and greatest value
    stay.
    """
    outputs = points.shape[1] - 1
    stretches = max(1, most // (1 + 2 * outputs))
    if len(points) <= max(most, 2):
        return points
    time = points[:, 0]
    edges = np.searchsorted(time, np.linspace(time[0], time[-1], stretches + 1)[:-1])
    keep = {0, len(points) - 1}
    for first, last in zip(edges, [*edges[1:], len(points)], strict=True):
        if last > first:
            part = points[first:last, 1:]
            keep.update([first, *(first + part.argmin(axis=0)).tolist(), *(first + part.argmax(axis=0)).tolist()])
    return points[sorted(keep)]
