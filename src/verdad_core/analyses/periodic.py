"""Periodic steady state: the waveforms that a driven circuit or an oscillator settles to, without waiting for them.

The charges after a period are a function of those before it; the steady state is its fixed point. It is found by
Anderson's acceleration (Anderson, "Iterative procedures for nonlinear integral equations", J. ACM 12, 1965; Walker and
Ni, SIAM J. Numerical Analysis 49, 2011): each period is one run of the transient, and what settles slowly (an output
capacitor, say) is extrapolated from how the last periods differ. What settles within a period must not be mixed into
that, so that a period passes after every extrapolation before the next one counts. This is the shooting method without
derivatives (Aprille and Trick, "Steady-state analysis of nonlinear circuits with periodic inputs", Proc. IEEE 60,
1972). Where an extrapolation leads nowhere, the plain run goes on. Where extrapolations do not come closer, something
rings into the next period and carries the errors of its steps with it: then it is waited, with smaller errors, for as
long as that comes closer.

An oscillator's period is unknown: its map goes from one upward crossing of a level to the next one.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from verdad_core.analyses.in_time import in_time
from verdad_core.analyses.marcher import Accuracy, Marcher
from verdad_core.analyses.transient import Start, begin_at
from verdad_core.arrays import Floats, Integers
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.rows import in_chunks
from verdad_core.engine.structure import Structure
from verdad_core.errors import CircuitError, ConvergenceError, Place
from verdad_core.units import format_value

#: Periods that are remembered for the extrapolation.
DEPTH = 8

#: Steps that a period has at least.
STEPS = 40

#: What a period may change, in units of the tolerance, where it is waited for the steady state.
UNCHANGED = 0.01

#: An extrapolation leads nowhere when voltages or currents become this many times the largest that there were.
RUNAWAY = 100.0

#: Extrapolations, or periods that are waited, in which what is missing has to halve.
PATIENCE = 24

#: By how much the errors of steps are made smaller where it has not, and how often at most.
SHARPER, SHARPENED = 10.0, 2

#: Periods that an oscillator runs before its swing is looked at again.
STRETCH = 8


@dataclass(frozen=True)
class SteadyState:
    """One period, from t = `begin` on.

    `points` [T, n + 1]: the unknowns at `time` [T] (s), both ends included; what the steps in between were is in
    `since` [T] and `states` [T, states] (engine/march.py). `periods` is how many periods were run, `error` how far the
    last period changed a charge, or the last extrapolation would have, in units of the relative tolerance.
    """

    structure: Structure
    matrix: ParameterMatrix
    row: int
    period: float
    begin: float
    time: Floats
    points: Floats
    since: Floats
    states: Floats
    periods: int
    error: float

    @property
    def corners(self) -> Integers:
        """The steps after which rates may have jumped: a source had a corner, a decision turned, or a wave arrived."""
        return np.flatnonzero(self.since[1:] == 0.0).astype(np.int32)

    def value(self, unknown: str, reference: str = "0") -> Floats:
        """Values [T] of a node or a branch current."""
        indices = self.structure.index(unknown), self.structure.index(reference)
        return np.asarray(self.points[:, indices[0]] - self.points[:, indices[1]])

    def mean(self, unknown: str, reference: str = "0") -> float:
        """The average over the period."""
        return float(np.trapezoid(self.value(unknown, reference), self.time) / (self.time[-1] - self.time[0]))


def steady_state(
    structure: Structure, period: float, *, matrix: ParameterMatrix | None = None, start: Start = Start.OPERATING_POINT,
    initial: Mapping[str, float] | None = None, accuracy: Accuracy | None = None, settle: int = 4, most: int = 200,
    oscillates: str | None = None, longest: float | None = None, extrapolate: bool = True,
    look: Callable[[float], None] | None = None, threads: int | None = None,
) -> list[SteadyState]:  # fmt: skip
    """The steady state of every row of `matrix`; rows after the first one start from the nominal one's.

    `period` (s) is that of the sources, or about that of an oscillator, whose node is named by `oscillates`. Steps are
    at most `longest` (s; default: a fortieth of the period). `settle` periods are run before the extrapolation begins;
    without `extrapolate` it is run until a period changes nothing, by a hundredth of the tolerance. Raises
    CircuitError for an impossible period, and NotPeriodicError where a row is not periodic after `most` periods. `look`
    is told now and then how much of the way is done, from several threads; what it raises ends the search.
    """
    if not (np.isfinite(period) and period > 0):
        raise CircuitError(f"a period of {period:g} s is not possible", remedy="Give one above zero.")
    structure, rows = in_time(structure, matrix or structure.unvaried)
    nominal = structure.unvaried
    accuracy = accuracy or Accuracy()
    told = look or (lambda _: None)
    beginning = begin_at(structure, nominal, start, initial or {}, threads, lambda: told(0.0))
    found: list[SteadyState | None] = [None] * rows.rows

    def solve(which: ParameterMatrix, row: int, x: Floats, kept: Floats, conditions: bool, settle: int) -> SteadyState:
        shooting = _Shooting(
            structure,
            which,
            row,
            x,
            kept,
            conditions,
            period,
            longest or period / STEPS,
            accuracy,
            oscillates,
            told,
        )
        return shooting.solve(settle, most, extrapolate)

    first = solve(
        beginning.matrix, 0, beginning.values[0], beginning.states[0], bool(beginning.from_charges[0]), settle
    )
    same = not rows.values.size
    if same:
        found[0] = replace(first, matrix=rows)

    def one(row: int, _: int) -> None:
        if found[row] is None:
            found[row] = solve(rows, row, first.points[-1], first.states[-1], False, 1)

    in_chunks(rows.rows, one, threads, 1)
    return [state for state in found if state is not None]


class NotPeriodicError(ConvergenceError):
    """No steady state was found; `reached` is the last period that was run, None where there was none."""

    def __init__(self, why: ConvergenceError, reached: SteadyState | None) -> None:
        super().__init__(why.message, place=why.place, remedy=why.remedy)
        self.reached = reached


class _Patience:
    """It ends when an error has not halved for too long, and begins anew with the next one."""

    def __init__(self) -> None:
        self.aim, self.left = np.inf, PATIENCE

    def ends(self, error: float) -> bool:
        self.left -= 1
        if error <= 0.5 * self.aim:
            self.aim, self.left = error, PATIENCE
        if self.left > 0:
            return False
        self.aim, self.left = np.inf, PATIENCE
        return True


class _Shooting:
    def __init__(
        self, structure: Structure, matrix: ParameterMatrix, row: int, x0: Floats, state: Floats, conditions: bool,
        period: float, longest: float, accuracy: Accuracy, oscillates: str | None, look: Callable[[float], None],
    ) -> None:  # fmt: skip
        self.structure, self.matrix, self.row = structure, matrix, row
        #: How much of the way is done: of the first periods, then of what was missing after them, by its logarithm.
        self._told, self.done, self._farthest = look, 0.0, 0.0
        self.period, self.accuracy = period, accuracy
        self.node = None if oscillates is None else structure.index(oscillates)
        outputs = [(unknown, "0") for unknown in structure.unknowns]
        self.march = Marcher(
            structure, matrix, structure.roles(matrix), row, x0, state, outputs, longest, period, accuracy,
            conditions=conditions, wide=True,
        )  # fmt: skip
        self.level = 0.0
        self.periods = self.sharpened = 0
        #: The last period that was run whole.
        self.reached: tuple[float, Floats] | None = None

    def look(self) -> None:
        self._told(self.done)

    def _gone(self, settle: int, error: float) -> None:
        """Note how far it is."""
        if not np.isfinite(error):
            self.done = 0.5 * min(self.periods / max(settle, 1), 1.0)
            return
        self._farthest = max(self._farthest, error, 10.0)
        self.done = max(self.done, 1.0 - 0.5 * float(np.log(max(error, 1.0)) / np.log(self._farthest)))

    def solve(self, settle: int, most: int, extrapolate: bool) -> SteadyState:
        try:
            return self._solve(settle, most, extrapolate)
        except ConvergenceError as error:
            reached = None if self.reached is None else self._found(*self.reached, np.inf)
            raise NotPeriodicError(error, reached) from error

    def _solve(self, settle: int, most: int, extrapolate: bool) -> SteadyState:
        if self.node is not None:
            self._to_a_crossing(self.node, most)
        missing = np.zeros(self.structure.size)
        plain: tuple[Any, ...] | None = None
        befores: list[Floats] = []
        afters: list[Floats] = []
        error, relative = np.inf, self.accuracy.relative
        waits, extrapolated, largest, patience = not extrapolate, False, np.zeros(2), _Patience()
        while self.periods < most:
            before, begin = self.march.charges.copy(), self.march.now
            try:
                block = self._period()
                sizes = self._sizes(block)
                if extrapolated and np.any(sizes > RUNAWAY * largest):
                    raise ConvergenceError("an extrapolation leads nowhere")
            except ConvergenceError:
                if plain is None:
                    raise
                self.march.restore(plain)
                plain, befores, afters, extrapolated = None, [], [], False
                continue
            self.reached = begin, block
            self._gone(settle, error)
            largest = np.maximum(largest, sizes)
            after = self.march.charges.copy()
            if self.periods <= settle or extrapolated:
                # What settles at once has to follow what was extrapolated before a period says how the rest goes on.
                extrapolated = False
                continue
            befores, afters = [*befores, before][-DEPTH:], [*afters, after][-DEPTH:]
            tolerances = np.maximum(self.march.charge_tolerances(relative), 1e-30)
            better = _accelerated(befores, afters, tolerances) if extrapolate else after
            # What the extrapolation adds is still missing of slow charges, and what a period changes of any.
            change = np.abs(after - before) / tolerances
            missing = np.maximum(np.abs(better - before) / tolerances, change)
            error = float(missing.max(initial=0.0))
            if error <= (1.0 if extrapolate else UNCHANGED) and len(befores) > 1:
                return self._found(begin, block, error)
            if extrapolate and patience.ends(float(change.max(initial=0.0)) if waits else error):
                waits, plain, befores, afters = not waits, None, [], []
                if waits:
                    self._sharpen()
            if not waits and len(befores) > 1:
                plain, extrapolated = self.march.snapshot(), True
                self.march.charges[:] = better
            self.march.restart(self.period / STEPS)
        raise ConvergenceError(
            f"the circuit is not periodic after {most} periods of {format_value(self.period, 's')}: from one to the "
            f"next it still changes by {error:.3g} tolerances",
            place=Place(nodes=tuple(self.structure.unknowns[k] for k in np.argsort(-missing)[:2])),
            remedy="Check the period; an oscillation at another frequency, or a source with another period, has none. "
            "What still rings when the next period begins has to be damped, or less accuracy to be asked for.",
        )

    def _sharpen(self) -> None:
        if self.sharpened < SHARPENED:
            self.march.sharpen(SHARPER)
            self.sharpened += 1

    def _period(self) -> Floats:
        """Run one period; its points, beginning with where it starts."""
        self.periods += 1
        begin = self.march.now
        if self.node is None:
            self.march.restart(self.period / STEPS)
            blocks = list(self.march.to(self.march.now + self.period, lambda _: self.look()))
        else:
            blocks = self._crossing(self.node)
        # The unknowns at the beginning are those of the short first step: charges alone were carried over.
        first = blocks[0][:1].copy()
        first[0, 0] = begin
        return np.concatenate([first, *blocks])

    def _sizes(self, block: Floats) -> Floats:
        """The largest voltage and the largest other unknown of a period [2]."""
        peaks, volts = np.abs(block[:, 1 : 1 + self.structure.size]).max(axis=0), self.structure.is_voltage
        return np.array([peaks[volts].max(initial=0.0), peaks[~volts].max(initial=0.0)])

    def _to_a_crossing(self, node: int, most: int) -> None:
        """Let an oscillator start: until the swing of its node grows no more, then to an upward crossing."""
        size = 0.0
        for _ in range(0, most, STRETCH):
            begin = self.march.now
            points = np.concatenate(list(self.march.to(begin + STRETCH * self.period, lambda _: self.look())))
            values = points[:, 1 + node]
            swing = float(np.ptp(values))
            self.level = float(values.min() + 0.5 * swing)
            if swing > 1e3 * self.accuracy.volts and size > 0 and abs(swing - size) < 0.02 * size:
                self.period = _repetition(points[:, 0], values) or self.period
                self._crossing(node)
                return
            size = swing
        raise ConvergenceError(
            f"{self.structure.unknowns[node]} does not oscillate: its swing is {size:.3g}",
            place=Place(nodes=(self.structure.unknowns[node],)),
            remedy="Give it a start with initial conditions, and about the right period.",
        )

    def _crossing(self, node: int) -> list[Floats]:
        """Go on to the next upward crossing of the level by the node, most of a period away."""
        kept = self.march.snapshot()
        begin, column, stretch = self.march.now, 1 + node, 1.5
        while stretch < 20.0:
            points = np.concatenate(list(self.march.to(begin + stretch * self.period, lambda _: self.look())))
            t, v = points[:, 0], points[:, column] - self.level
            there = np.flatnonzero((v[:-1] < 0) & (v[1:] >= 0) & (t[1:] > begin + 0.6 * self.period))
            self.march.restore(kept)
            if len(there):
                k = int(there[0])
                near = slice(max(k - 1, 0), k + 3)
                instant = _crossing_time(t[near], v[near], t[k], t[k + 1])
                self.period = instant - begin
                return list(self.march.to(instant, lambda _: self.look()))
            stretch *= 2.0
        raise ConvergenceError("the oscillation has stopped", remedy="Look at the transient.")

    def _found(self, begin: float, block: Floats, error: float) -> SteadyState:
        n = self.structure.size
        points = np.concatenate([block[:, 1 : 1 + n], np.zeros((len(block), 1))], axis=1)
        return SteadyState(
            self.structure, self.matrix, self.row, self.period, begin, block[:, 0], points, block[:, 1 + n],
            block[:, 2 + n :], self.periods, error,
        )  # fmt: skip


def _repetition(time: Floats, values: Floats) -> float | None:
    """After how long a waveform looks like itself again, from its autocorrelation."""
    count = 4096
    sampled = np.interp(np.linspace(time[0], time[-1], count), time, values)
    power = np.abs(np.fft.rfft(sampled - sampled.mean(), 2 * count)) ** 2
    alike = np.fft.irfft(power)[: count // 2] / np.arange(count, count // 2, -1)
    apart = int(np.argmax(alike < 0.0))
    peaks = [
        k for k in range(apart + 1, len(alike) - 1)
        if alike[k - 1] <= alike[k] > alike[k + 1] and alike[k] > 0.8 * alike[apart:].max()
    ]  # fmt: skip
    return float(peaks[0] * (time[-1] - time[0]) / (count - 1)) if apart and peaks else None


def _crossing_time(t: Floats, v: Floats, low: float, high: float) -> float:
    """Where the cubic (or what there is) through a few points is zero between two instants."""
    coefficients = np.polyfit(t - low, v, len(t) - 1)
    a, b = 0.0, high - low
    for _ in range(60):
        middle = 0.5 * (a + b)
        a, b = (middle, b) if np.polyval(coefficients, middle) < 0 else (a, middle)
    return low + 0.5 * (a + b)


def _accelerated(befores: list[Floats], afters: list[Floats], tolerances: Floats) -> Floats:
    """The combination of past periods whose charges would change least, one period on."""
    if len(befores) < 2:
        return afters[-1]
    residuals = (np.array(afters) - np.array(befores)) / tolerances
    differences = np.diff(residuals, axis=0).T
    weights, *_ = np.linalg.lstsq(differences, residuals[-1], rcond=1e-8)
    return np.asarray(afters[-1] - np.diff(np.array(afters), axis=0).T @ weights)
