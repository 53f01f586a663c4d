"""Small-signal response around a periodic steady state, as a network analyser measures it at a switching circuit.

A small sine of frequency f at a source makes every unknown x(t) + Re[dx(t) exp(j 2π f t)], where dx has the period of
the steady state: it has components at f + k / period (aliasing; Zadeh, "Frequency analysis of variable networks", Proc.
IRE 38, 1950). The equations linearised along the period are integrated once for each charge at its beginning and once
for each frequency, and closed by dx(period) = dx(0) (Telichevesky, Kundert, White, "Efficient AC and noise analysis of
two-tone RF circuits", DAC 1996). Where a decision turns, the small signal also moves the instant: charges then jump by
the difference of their rates times the shift (Aizerman and Gantmacher 1958).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from verdad_core.analyses.periodic import SteadyState
from verdad_core.analyses.periodic_waves import Arrival, Line, arrivals, lines_of, origins
from verdad_core.analyses.small_signal import output_indices
from verdad_core.arrays import Complexes, Floats, Integers, Packed
from verdad_core.devices.base import CHARGES, MARCHING, TIME
from verdad_core.engine.circuit import bare, copy, matrix_in, reset, workspace
from verdad_core.engine.decisions import watch
from verdad_core.engine.load import load_all, update_devices
from verdad_core.engine.rows import MOST_LOADS, fill_row
from verdad_core.errors import CircuitError
from verdad_core.jit import at, entry, pointer

#: Steps that a turn of the small signal needs at least.
LEAST_A_TURN = 12

#: Frequencies that are computed at once.
_AT_ONCE = 64


@dataclass(frozen=True)
class PeriodicResponse:
    """`values` [outputs, sidebands, F]: what is at f + k / period for a unit at f, f in `frequency` [F] (Hz).

    `multipliers` are the eigenvalues of what a period does to small charges (Floquet): the steady state is stable where
    all lie within the unit circle; an oscillator has one at 1.
    """

    frequency: Floats
    sidebands: tuple[int, ...]
    values: Complexes
    multipliers: Complexes

    @property
    def stable(self) -> bool:
        return bool(np.all(np.abs(self.multipliers) < 1.0))


@entry
def _along(
    arrays: Packed, matrix_: Packed, row: int, memory: Floats, time: Floats, points: Floats, states: Floats,
    f: Floats, g: Floats, c: Floats, far: Floats,
) -> None:  # fmt: skip
    """F [T, n + 1], g and c [T, nnz + 1], and how far decisions are from turning [T, states], along a period."""
    circuit, work, matrix = bare(arrays), workspace(arrays, memory), matrix_in(matrix_)
    fill_row(matrix, row, work.parameters)
    update_devices(circuit, work)
    n, nnz, kept = circuit.n, circuit.nnz, work.states
    for k in range(len(time)):
        x = at(pointer(points), k * (n + 1))
        reset(work.options)
        work.options[CHARGES], work.options[MARCHING], work.options[TIME] = 1.0, 1.0, time[k]
        copy(at(pointer(states), k * kept), work.state, kept)
        for _ in range(MOST_LOADS):
            if load_all(circuit, work, x) == 0:
                break
        copy(work.f, at(pointer(f), k * (n + 1)), n + 1)
        copy(work.g, at(pointer(g), k * (nnz + 1)), nnz + 1)
        copy(work.c, at(pointer(c), k * (nnz + 1)), nnz + 1)
        watch(circuit, work, x, at(pointer(far), k * kept), False)


class _Linearised:
    """A steady state's equations along its period, dense."""

    def __init__(self, steady: SteadyState) -> None:
        structure, circuit = steady.structure, steady.structure.circuit_in_time
        points, states = np.ascontiguousarray(steady.points), np.ascontiguousarray(steady.states)
        count, n, nnz = len(points), structure.size, len(structure.rows)
        time = np.ascontiguousarray(steady.time)
        f, self.far = np.zeros((count, n + 1)), np.zeros((count, max(structure.states, 1)))
        g, c = np.zeros((count, nnz + 1)), np.zeros((count, nnz + 1))
        _along(
            circuit, steady.matrix.words, steady.row, structure.room(), time, points, states, f, g, c, self.far
        )  # fmt: skip
        self.rates = -f[:, :n]
        self.g, self.c = np.zeros((count, n, n)), np.zeros((count, n, n))
        self.g[:, structure.rows, structure.columns] = g[:, :nnz]
        self.c[:, structure.rows, structure.columns] = c[:, :nnz]


def _slopes(steady: SteadyState, step: int, decision: int) -> Floats:
    """How a decision's distance at the end of a step follows the unknowns [n]."""
    n = steady.structure.size
    x = steady.points[step]
    moves = 1e-5 * np.maximum(np.abs(x[:n]), 1e-3)
    points = np.repeat(x[None, :], 2 * n, axis=0)
    points[np.arange(n), np.arange(n)] += moves
    points[n + np.arange(n), np.arange(n)] -= moves
    moved = replace(
        steady, points=points, time=np.full(2 * n, steady.time[step]),
        states=np.repeat(steady.states[step][None, :], 2 * n, axis=0),
    )  # fmt: skip
    far = _Linearised(moved).far[:, decision]
    return np.asarray((far[:n] - far[n:]) / (2.0 * moves))


def periodic_response(
    steady: SteadyState, source: str, outputs: Sequence[tuple[str, str]], frequency: Floats,
    sidebands: Sequence[int] = (0,),
) -> PeriodicResponse:  # fmt: skip
    """What a unit of `source` (V or A) at each `frequency` (Hz) does to `outputs`, at each of the `sidebands`.

    Raises CircuitError for an unknown source or output, for frequencies that the steps of the steady state do not
    resolve, and for lines that delay by more than a period.
    """
    step, highest = float(np.max(np.diff(steady.time))), float(np.max(frequency))
    if step * highest > 1.0 / LEAST_A_TURN:
        raise CircuitError(
            f"the steady state has steps of {step:g} s, which are too long for {highest:g} Hz",
            remedy=f"Compute it with longest={0.5 / (LEAST_A_TURN * highest):.1g} s or less.",
        )
    structure = steady.structure
    plus, minus = output_indices(structure, outputs)
    drive = structure.unit_drive(source)[: structure.size]
    lines = lines_of(steady)
    along = _Linearised(steady)
    shifts = _shifts(steady, along, lines)
    frequency = np.asarray(frequency, float)
    parts, multipliers = [], np.empty(0, complex)
    for start in range(0, len(frequency), _AT_ONCE):
        some = frequency[start : start + _AT_ONCE]
        values, multipliers = _respond(steady, along, lines, shifts, drive, plus, minus, some, tuple(sidebands))
        parts.append(values)
    return PeriodicResponse(frequency, tuple(sidebands), np.concatenate(parts, axis=2), multipliers)


def multipliers(steady: SteadyState) -> Complexes:
    """What a period does to small charges at its beginning: its eigenvalues (Floquet). Raises as `periodic_response`.

    The steady state comes back by itself where all lie within the unit circle; an oscillator has one at 1.
    """
    lines, along = lines_of(steady), _Linearised(steady)
    none = np.empty(0, np.int32)
    drive = np.zeros(steady.structure.size)
    return _respond(steady, along, lines, _shifts(steady, along, lines), drive, none, none, np.empty(0), (0,))[1]


def periodic_loop_gain(steady: SteadyState, probe: str, frequency: Floats) -> tuple[Complexes, PeriodicResponse]:
    """The loop gain [F] at a voltage source of 0 V in the loop, and the responses it comes from.

    The source's first node is what drives the loop, its second one where the loop goes on: -v(first) / v(second), as
    a network analyser measures it with an injection transformer (Middlebrook 1975). Sound where the impedance towards
    the first node is low and towards the second one high.
    """
    element = next((e for e in steady.structure.elements if e.name == probe), None)
    if element is None or element.family != "voltage source":
        raise CircuitError(f"'{probe}' is not a voltage source", remedy="Put one of 0 V into the loop and name it.")
    response = periodic_response(steady, probe, [(element.nodes[0], "0"), (element.nodes[1], "0")], frequency)
    return -response.values[0, 0] / response.values[1, 0], response


@dataclass(frozen=True)
class _Shifts:
    """What moves instants: decisions and what arrives of them.

    `turned`: by step at which a decision turned, how its instant follows the unknowns [n]. `from_`: by step at which
    such a corner arrives, the step it comes from. `jumps`: by step of both, how charges follow a shift of it [n].
    """

    turned: dict[int, Floats]
    from_: dict[int, int]
    jumps: dict[int, Floats]


def _shifts(steady: SteadyState, along: _Linearised, lines: list[Line]) -> _Shifts:
    turned = {}
    corners = steady.corners[steady.corners > 0]
    for k in corners:
        far = along.far[k]
        if not np.any(far < 0.0):
            continue
        decision = int(np.argmin(far))
        speed = _speed(steady, along.far[:, decision], k)
        if np.isfinite(speed) and speed < 0.0:
            turned[int(k)] = -_slopes(steady, k, decision) / speed
    from_ = origins(lines, steady.time, corners, set(turned), steady.period)
    # What is sent into a line jumps within its first short step, and takes as long to arrive.
    after = {k: k + 1 for k in turned}
    for k, m in from_.items():
        rise = steady.time[after[m]] - steady.time[m]
        after[k] = min(int(np.searchsorted(steady.time, steady.time[k] + 0.999 * rise)), len(steady.time) - 1)
    # In the equations of lines there is no charge that could jump; their waves arrive at the same instants.
    charged = np.any(along.c != 0.0, axis=(0, 2))
    jumps = {}
    for k, then in after.items():
        rates = along.rates[k] - _rates_after(steady, along, k, then)
        jumps[k] = np.where(charged, rates, 0.0)
    return _Shifts(turned, from_, jumps)


def _speed(steady: SteadyState, far: Floats, k: int) -> float:
    """How fast a decision's distance changes at the end of step k: along a parabola, after a corner along a line."""
    h = np.diff(steady.time[max(k - 2, 0) : k + 1])
    with np.errstate(invalid="ignore"):
        # Where nothing can turn yet, the distance is infinite.
        slopes = np.diff(far[max(k - 2, 0) : k + 1]) / h
    if len(h) < 2 or np.any(np.isin((k - 1, k - 2), steady.corners)) or not np.isfinite(slopes[0]):
        return float(slopes[-1])
    return float(slopes[1] + (slopes[1] - slopes[0]) * h[1] / (h[0] + h[1]))


def _rates_after(steady: SteadyState, along: _Linearised, k: int, then: int) -> Floats:
    """Rates right after the corner at step k, from those at `then` and, where all is smooth, as long again after it."""
    time = steady.time
    later = int(np.searchsorted(time, 2.0 * time[then] - time[k]))
    if later >= len(time) or np.any((steady.corners >= then) & (steady.corners < later)):
        return np.asarray(along.rates[then])
    back = (time[then] - time[k]) / (time[later] - time[then])
    return np.asarray(along.rates[then] + back * (along.rates[then] - along.rates[later]))


@dataclass(frozen=True)
class _Begin:
    """What a period begins with: charges, waves under way by (line, step of the period before), shifts under way."""

    charges: Integers
    waves: dict[tuple[int, int], int]
    shifts: dict[int, int]

    @property
    def size(self) -> int:
        return len(self.charges) + len(self.waves) + len(self.shifts)


def _begin(along: _Linearised, shifts: _Shifts, arriving: list[list[Arrival]]) -> _Begin:
    charges = np.flatnonzero(np.any(along.c[0] != 0.0, axis=1)).astype(np.int32)
    sent = dict.fromkeys((w, m) for w, line in enumerate(arriving) for arrival in line for m, _ in arrival.before)
    waves = {key: len(charges) + place for place, key in enumerate(sent)}
    late = dict.fromkeys(m for k, m in shifts.from_.items() if m >= k)
    return _Begin(charges, waves, {m: len(charges) + len(waves) + place for place, m in enumerate(late)})


def _respond(
    steady: SteadyState, along: _Linearised, lines: list[Line], shifts: _Shifts, drive: Floats, plus: Integers,
    minus: Integers, frequency: Floats, sidebands: tuple[int, ...],
) -> tuple[Complexes, Complexes]:  # fmt: skip
    n = len(drive)
    t = steady.time - steady.time[0]
    arriving = [arrivals(line, t, steady.corners, steady.period) for line in lines]
    begin = _begin(along, shifts, arriving)
    wide = begin.size + len(frequency)
    omega = 2.0 * np.pi * frequency
    # Columns: a unit of each that a period begins with, then each frequency from nothing.
    units = np.eye(begin.size, wide, dtype=complex)
    q, d = np.zeros((n, wide), complex), np.zeros((n, wide), complex)
    q[begin.charges] = units[: len(begin.charges)]
    seen = np.zeros((len(t), len(plus), wide), complex)
    sent = np.zeros((len(lines), len(t), wide), complex)
    moved: dict[int, Complexes] = {}
    for k in range(1, len(t)):
        h = t[k] - t[k - 1]
        euler = steady.since[k] == 0.0
        a0 = (1.0 if euler else 2.0) / h
        right: Complexes = a0 * q + (0.0 if euler else d)
        right[:, begin.size :] += np.outer(drive, np.exp(1j * omega * t[k]))
        matrix = along.g[k] + a0 * along.c[k]
        for w, line in enumerate(lines):
            arrival = arriving[w][k - 1]
            for m, share in arrival.before:
                right[line.into] += share * units[begin.waves[w, m]]
            for m, share in arrival.own:
                if m == k:
                    matrix[line.into] -= share * line.enters
                else:
                    right[line.into] += share * sent[w, m]
        x = np.linalg.solve(matrix, right)
        after = along.c[k] @ x
        d = a0 * (after - q) - (0.0 if euler else d)
        q = after
        padded = np.concatenate([x, np.zeros((1, wide))])
        seen[k] = padded[plus] - padded[minus]
        for w, line in enumerate(lines):
            sent[w, k] = line.enters @ x
        if k in shifts.turned:
            moved[k] = shifts.turned[k] @ x
        elif k in shifts.from_:
            m = shifts.from_[k]
            moved[k] = moved[m] if m < k else units[begin.shifts[m]]
        if k in shifts.jumps:
            q = q + np.outer(shifts.jumps[k], moved[k])
    seen[0] = seen[1]
    end = np.concatenate([q[begin.charges], *(sent[w, m][None] for w, m in begin.waves)])
    end = np.concatenate([end, *(moved[m][None] for m in begin.shifts)])
    transition, forced = end[:, : begin.size], end[:, begin.size :]
    values = np.empty((len(plus), len(sidebands), len(frequency)), complex)
    for j, w in enumerate(omega):
        closing = np.exp(1j * w * steady.period) * np.eye(begin.size) - transition
        start = np.linalg.solve(closing, forced[:, j])
        whole = seen[:, :, begin.size + j] + seen[:, :, : begin.size] @ start
        for s, sideband in enumerate(sidebands):
            turning = np.exp(-1j * (w + 2.0 * np.pi * sideband / steady.period) * t)
            values[:, s, j] = np.trapezoid(whole * turning[:, None], t, axis=0) / steady.period
    return values, np.asarray(np.linalg.eigvals(transition), complex)
