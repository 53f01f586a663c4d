"""One row of a transient as Python holds it: the arrays that the march's kernels work on, and how it goes on."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from enum import IntEnum
from typing import Any, NamedTuple

import numpy as np

from verdad_core.analyses.small_signal import output_indices
from verdad_core.arrays import Floats, Integers
from verdad_core.devices.waves import WAVE
from verdad_core.engine import march as marching
from verdad_core.engine import past as keep
from verdad_core.engine.attempt import SINGULAR, SOLVED
from verdad_core.engine.grain import grain_room
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.on_lines import ARRIVALS
from verdad_core.engine.structure import Structure
from verdad_core.errors import ConvergenceError, Place
from verdad_core.units import format_value

#: Points that one call of the kernel may bring; attempts of the first one, and about how long (s) each of the others
#: may take before progress and clocks are looked at again.
POINTS, ATTEMPTS, BETWEEN_LOOKS = 4096, 256, 0.05
MOST_ATTEMPTS = 1_000_000

#: Rows of waves that lines remember before those that nothing asks for any more are dropped.
_WAVE_ROWS = 4096


#: Errors of steps add up, so one step may make this part of what is asked for.
SHARE = 0.1


class Rule(IntEnum):
    """How charges are integrated: by the trapezoidal rule with its error taken away, by the plain one, or by Gear's."""

    EXTRAPOLATED = keep.EXTRAPOLATED
    TRAPEZOIDAL = keep.TRAPEZOIDAL
    GEAR = keep.GEAR


@dataclass(frozen=True)
class Accuracy:
    """The error that is asked for in voltages and currents that charges depend on.

    `relative` refers to the largest size that the unknown has had of late (it fades over some hundred steps); `volts`
    and `amperes` are added to it.
    """

    relative: float = 1e-3
    volts: float = 1e-6
    amperes: float = 1e-9
    rule: Rule = Rule.EXTRAPOLATED


@dataclass(frozen=True)
class NoiseInTime:
    """Devices' noise as currents in time: drawn every `interval` (s), which sets its bandwidth; rows differ in it."""

    interval: float
    seed: int = 1


class Counts(NamedTuple):
    """What a march has done: accepted steps, Newton iterations, steps refused for their error, steps not solved,
    decisions turned, times that trapezoidal ringing was damped, restarts after corners, eliminations replanned, and
    places where errors were taken lightly because shorter steps showed nothing but rounding.
    """

    steps: int
    iterations: int
    refused: int
    failed: int
    turned: int
    ringing: int
    restarts: int
    plans: int
    reliefs: int


class Marcher:
    """A row on its way through time, from t = 0.

    `roles` are those of the matrix; `x0` [n + 1] and `state` are where it starts; with `conditions` charges are those
    that initial conditions ask for. `longest` (s) is the longest step, `until` (s) the scale that the first step is
    taken from. Points are kept from `since` on, or only at `times` [T], where those are given; `wide` ones carry the
    rule's age and the devices' states.
    Raises ConvergenceError where there is no start.
    """

    def __init__(
        self, structure: Structure, matrix: ParameterMatrix, roles: Integers, row: int, x0: Floats, state: Floats,
        outputs: Sequence[tuple[str, str]], longest: float, until: float, accuracy: Accuracy,
        *, conditions: bool = False, since: float = 0.0, times: Floats | None = None, wide: bool = False,
        noise: NoiseInTime | None = None,
    ) -> None:  # fmt: skip
        self.structure = structure
        self.circuit = structure.circuit_in_time
        self.memory = structure.room()
        self.past = keep.past_room(structure.size, len(structure.rows), structure.states)
        self.width = WAVE + structure.waves
        self.waves = np.zeros((_WAVE_ROWS if structure.waves else 2) * self.width)
        self.rows = 1 if structure.waves else 0
        self.arrivals = np.empty(ARRIVALS + structure.waves)
        self.arrivals.fill(np.inf)
        self.plus, self.minus = output_indices(structure, outputs)
        self.times = np.empty(0) if times is None else times
        columns = 1 + len(outputs) + (1 + structure.states if wide else 0)
        self.kept = np.empty((len(self.times) if times is not None else POINTS, columns))
        self.roles = roles
        past = self.past
        past[keep.RELATIVE], past[keep.VOLTS] = SHARE * accuracy.relative, SHARE * accuracy.volts
        past[keep.AMPERES] = SHARE * accuracy.amperes
        past[keep.RULE], past[keep.CALLER_LONGEST], past[keep.FROM] = accuracy.rule, longest, since
        past[keep.STOP], past[keep.NATURAL] = until, min(longest, 0.01 * until)
        self.grain = np.zeros((3, 0))
        if noise is not None:
            past[keep.INTERVAL], past[keep.SEED] = noise.interval, noise.seed + row
            self.grain = grain_room(len(structure.noise), noise.interval, until)
        status, self.plan = marching.begin(
            self.circuit, matrix.words, row, self.memory, past, self.roles, x0, state, conditions, self.waves,
            self.width, self.arrivals, self.plus, self.minus, self.kept,
        )  # fmt: skip
        if status != SOLVED:
            raise self.failure(singular=status == SINGULAR)

    @property
    def now(self) -> float:
        """The time of the last point, in s."""
        return float(self.past[keep.NOW])

    @property
    def x(self) -> Floats:
        """The unknowns there [n + 1]."""
        return self._vector(keep.X)

    @property
    def charges(self) -> Floats:
        """Charges and fluxes in every equation there [n]: with what devices keep, all that the future depends on."""
        return self._vector(keep.Q)[:-1]

    def charge_tolerances(self, relative: float) -> Floats:
        """What a charge may err in every equation [n], for unknowns that may err by this part of their size."""
        n, nnz = self.structure.size, len(self.structure.rows)
        place = keep.NUMBERS + keep.VECTORS * (n + 1) + keep.FIXED_C * (nnz + 1)
        floor = self._vector(keep.FLOOR)[:-1]
        whole = relative * np.abs(self.charges)
        share = (
            np.abs(self.past[place : place + nnz])
            * (relative * self._vector(keep.SIZE)[:-1] + floor)[self.structure.columns]
        )
        np.add.at(whole, self.structure.rows, share)
        return whole

    def snapshot(self) -> tuple[Any, ...]:
        """All that going on depends on, to come back to."""
        arrays = self.memory, self.past, self.waves, self.arrivals, self.grain
        return (*(array.copy() for array in arrays), self.plan, self.rows)

    def restore(self, kept: tuple[Any, ...]) -> None:
        """Back to a snapshot."""
        self.memory, self.past, self.waves, self.arrivals, self.grain = (array.copy() for array in kept[:5])
        self.plan, self.rows = kept[5:]

    def restart(self, natural: float) -> None:
        """Go on as after a corner, from the charges alone, with steps that are about `natural` (s) at first."""
        self.past[keep.SINCE], self.past[keep.NATURAL] = 0.0, natural

    def sharpen(self, factor: float) -> None:
        """Go on with steps whose relative error is smaller by a factor."""
        self.past[keep.RELATIVE] /= factor

    @property
    def counts(self) -> Counts:
        return Counts(*map(int, self.past[keep.STEPS : keep.RELIEFS + 1].tolist()))

    @property
    def sampled(self) -> Floats:
        """The points at the times that were asked for, as far as the march has come [T, 1 + outputs]."""
        return self.kept[: int(self.past[keep.SAMPLE])]

    def _vector(self, which: int) -> Floats:
        wide = self.structure.size + 1
        return self.past[keep.NUMBERS + which * wide : keep.NUMBERS + (which + 1) * wide]

    def first(self) -> Floats:
        """The point at t = 0 [1, 1 + outputs], before going on; note that it has been asked for."""
        if len(self.times):
            count = int(np.searchsorted(self.times, 0.0, side="right"))
            self.past[keep.SAMPLE], self.kept[:count] = count, self.kept[0]
        return self.kept[:1, : 1 + len(self.plus)].copy()

    def to(self, stop: float, look: Callable[[float], None] = lambda _: None) -> Iterator[Floats]:
        """Go on to `stop` (s); points [points, 1 + outputs] come in blocks.

        `look` is called with the time now and then; what it raises ends the march between two steps. Raises
        ConvergenceError where the march cannot go on; the points before have come by then.
        """
        self.past[keep.STOP] = stop
        attempts = ATTEMPTS
        while True:
            look(self.now)
            begin = time.perf_counter()
            why, self.plan, saved, self.rows = marching.march(
                self.circuit, self.memory, self.past, self.roles, self.plan, self.waves, self.rows, self.width,
                self.arrivals, self.kept, self.times, self.plus, self.minus, attempts, self.grain,
            )  # fmt: skip
            took = max(time.perf_counter() - begin, 1e-6)
            attempts = int(min(max(attempts * BETWEEN_LOOKS / took, 1), 4 * attempts, MOST_ATTEMPTS))
            if not len(self.times) and saved:
                yield self.kept[:saved].copy()
            if why == marching.DONE:
                return
            if why in (marching.STUCK, marching.NO_SOLUTION):
                raise self.failure(singular=why == marching.NO_SOLUTION)
            if why == marching.CROWDED:
                self._forget()

    def _forget(self) -> None:
        """Drop the rows of waves that nothing asks for any more; take more room where that is not enough."""
        rows = self.waves.reshape(-1, self.width)
        oldest = self.now - float(np.max(self.arrivals[ARRIVALS:]))
        first = max(int(np.searchsorted(rows[: self.rows, 0], oldest)) - 3, 0)
        kept = rows[first : self.rows]
        self.waves = np.zeros(max(len(rows), 2 * len(kept)) * self.width)
        self.waves[: kept.size] = kept.ravel()
        self.rows = len(kept)

    def failure(self, *, singular: bool) -> ConvergenceError:
        """Why the march cannot go on: when, where, and what it tried last."""
        structure, changes = self.structure, self._vector(keep.CHANGE)[:-1]
        order = np.argsort(-np.nan_to_num(np.abs(changes), nan=np.inf))[:3]
        names = tuple(structure.unknowns[k] for k in order if not abs(changes[k]) <= 1e-9)
        parts = ", ".join(dict.fromkeys(name for node in names for name in structure.parts_at(node)[:4]))
        past = self.past
        steps = ", ".join(format_value(float(past[k]), "s", 3) for k in (keep.BEFORE, keep.LAST, keep.STEP))
        what = "has no single solution" if singular else "finds no next point"
        return ConvergenceError(
            f"at {format_value(self.now, 's', 6)} the transient {what}"
            + (f"; its last steps were {steps}" if past[keep.STEPS] > 0 else "")
            + (f". Parts there: {parts}" if parts else ""),
            place=Place(nodes=names),
            remedy="Look for parts at these nodes that switch with no capacitance around them: a capacitance of what "
            "the real part or its copper has (picofarads), a series resistance, or edges that take some time help.",
        )
