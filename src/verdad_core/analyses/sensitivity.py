"""Sensitivity of direct and small-signal results to every parameter, by the adjoint method.

With f(x, p) = 0 and an output cᵀx, one solution of Gᵀ y = c gives d(cᵀx)/dp = -yᵀ ∂f/∂p for all parameters (Director
and Rohrer, "The generalized adjoint network and network sensitivities", IEEE Trans. Circuit Theory 16, 1969). For a
phasor cᵀX with A X = B it is d(cᵀX)/dp = -Yᵀ (∂A/∂p X - ∂B/∂p), Aᵀ Y = c, and what the bias adds as it moves: with
L = Yᵀ A(x) X it is wᵀ ∂f/∂p, Gᵀ w = ∂L/∂x. The derivatives of one device's equations are those of derivatives.py;
they are made only for devices in whose equations the adjoint solution is not zero: what comes after the output, or
stands beside it, is not seen there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from verdad_core.analyses.derivatives import bend, differentiate, drive_change, phasor_change, update_owners
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import AtBias
from verdad_core.analyses.small_signal import output_indices
from verdad_core.arrays import Complexes, Floats, Integers, Packed
from verdad_core.devices.base import CHARGES
from verdad_core.engine.circuit import Circuit, bare, copy, fill, matrix_in, workspace
from verdad_core.engine.lane_plan import lane_plan
from verdad_core.engine.lanes import LANES, WIDE, eliminate_lanes, solve_transposed_lanes
from verdad_core.engine.linear import STORAGE, call_plan, factor, solve_transposed
from verdad_core.engine.load import KERNELS, PLAN, drive
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.engine.response import (
    block_in,
    block_room,
    no_factors,
    order,
    set_frequencies,
    set_right,
    solve_adjoint,
    solve_block,
)
from verdad_core.engine.rows import in_chunks, linearise_row
from verdad_core.engine.sites import Sites, sites_in
from verdad_core.engine.structure import Structure
from verdad_core.errors import CircuitError
from verdad_core.jit import at, entry, kernel, pointer
from verdad_core.words import Layout, opened, words

#: Of a parameter whose effect has not been computed yet.
NOT_YET = -1


@dataclass(frozen=True)
class DcSensitivityResult(AtBias):
    """`values` [S, outputs, len(parameters)]: output per unit of the parameter; NaN without an operating point."""

    parameters: tuple[tuple[str, str], ...]
    values: Floats

    def of(self, element: str, parameter: str, row: int = 0, output: int = 0) -> float:
        """Raises CircuitError for a parameter that has no sensitivity."""
        return float(self.values[row, output, _place(self, (element, parameter))])


@dataclass(frozen=True)
class AcSensitivityResult(AtBias):
    """Phasors per unit of each parameter, the moving bias included.

    Most parameters change nothing: `found` [S, outputs, len(parameters), F] means something where `acts` [S,
    len(parameters)] is 1.
    """

    frequency: Floats
    parameters: tuple[tuple[str, str], ...]
    found: Complexes
    acts: Integers

    @cached_property
    def values(self) -> Complexes:
        """All of them [S, outputs, len(parameters), F], with the zeros."""
        return np.where(self.acts[:, None, :, None] != 0, self.found, 0.0)

    def of(self, element: str, parameter: str, row: int = 0, output: int = 0) -> Complexes:
        """One parameter over the frequency [F]. Raises CircuitError for one that has no sensitivity."""
        place = _place(self, (element, parameter))
        found = self.found[row, output, place]
        return np.asarray(found if self.acts[row, place] else np.zeros_like(found))


def _place(result: DcSensitivityResult | AcSensitivityResult, key: tuple[str, str]) -> int:
    """Where a parameter stands in a result. Raises CircuitError."""
    if key in result.parameters:
        return result.parameters.index(key)
    result.operating_point.structure.sites.index(key)
    raise CircuitError(f"the sensitivity to {key[1]} of '{key[0]}' was not asked for", remedy="Ask for it.")


@kernel
def _forget(n: int, live: Integers) -> None:
    """Mark none of the equations."""
    for i in range(n):
        live[i] = 0


@kernel
def _mark(n: int, y: Floats, stride: int, live: Integers) -> None:
    """Mark in `live` [n] the equations in which an adjoint solution y [n, stride] is anything but zero."""
    for i in range(n):
        for w in range(stride):
            if y[stride * i + w] != 0.0:
                live[i] = 1


@kernel
def _is_seen(sites: Sites, k: int, live: Integers, n: int) -> bool:
    """Whether what parameter k does to its equations is seen at the output at all."""
    seen = False
    for j in range(sites.rows[k], sites.rows[k + 1]):
        seen = seen or (sites.rows_of[j] < n and live[sites.rows_of[j]] != 0)
    return seen


@kernel
def _is_bent(circuit: Circuit, sites: Sites, b: int, live: Integers) -> bool:
    """Whether the output sees the equations that bend b is in."""
    seen = False
    for j in range(sites.bend_entries[b], sites.bend_entries[b + 1]):
        seen = seen or live[circuit.rows[sites.bend_entries_of[j]]] != 0
    return seen


@entry
def _dc_rows(
    arrays: Packed, matrix_: Packed, memory: Floats, start: int, stop: int, points: Floats, states: Floats,
    paths: Integers, plus: Integers, minus: Integers, lists: Packed, wanted: Integers, room: Floats, marks: Integers,
    out: Floats,
) -> None:  # fmt: skip
    """Rows start..stop-1; `room` is for f [rows_of], right [n] and y [outputs, n + 1], and `marks` [n] for `live`."""
    circuit, work = bare(arrays), workspace(arrays, memory)
    matrix, sites = matrix_in(matrix_), sites_in(lists)
    n, nnz = circuit.n, circuit.nnz
    live, f = pointer(marks), pointer(room)
    right = at(f, sites.rows[sites.parameters])
    y = at(right, n)
    for row in range(start, stop):
        if paths[row] < 0:
            continue
        x, state = at(pointer(points), row * (n + 1)), at(pointer(states), row * work.states)
        linearise_row(circuit, work, matrix, row, x, state)
        code = circuit.code[KERNELS * circuit.families + PLAN]
        steps = call_plan(code, n, nnz, circuit.rows, circuit.columns, work.g, work.g, 0)
        if steps[0] < 0:
            for o in range(len(plus)):
                for k in range(out.shape[2]):
                    out[row, o, k] = np.nan
            continue
        a = np.zeros(steps[STORAGE])
        for e in range(nnz):
            a[e] = work.g[e]
        factor(steps, a)
        _forget(n, live)
        for o in range(len(plus)):
            for i in range(n):
                right[i] = (1.0 if i == plus[o] else 0.0) - (1.0 if i == minus[o] else 0.0)
            adjoint = at(y, o * (n + 1))
            solve_transposed(steps, a, right, adjoint)
            adjoint[n] = 0.0
            _mark(n, adjoint, 1, live)
        work.options[CHARGES] = 0.0
        last = -1
        for k in range(sites.parameters):
            if wanted[k] < 0 or not _is_seen(sites, k, live, n):
                continue
            # The next parameter of the same devices derives everything anew.
            if last >= 0 and sites.owners[last] != sites.owners[k]:
                update_owners(circuit, work, sites, last)
            last = k
            differentiate(circuit, work, sites, k, x, False, f, f, f)
            for o in range(len(plus)):
                total = 0.0
                for j in range(sites.rows[k], sites.rows[k + 1]):
                    total -= y[o * (n + 1) + sites.rows_of[j]] * f[j]
                out[row, o, wanted[k]] = total


@kernel
def _are_zero(values: Floats, first: int, last: int) -> bool:
    found = True
    for j in range(first, last):
        found = found and values[j] == 0.0
    return found


@kernel
def _acts(sites: Sites, k: int, f: Floats, g: Floats, c: Floats) -> int:
    """1 where parameter k changes anything, 0 where not: many, such as temperature coefficients at 27 °C, do not."""
    first, last = sites.entries[k], sites.entries[k + 1]
    nothing = _are_zero(g, first, last) and _are_zero(c, first, last)
    nothing = nothing and sites.phasors[k] == 0 and _are_zero(f, sites.rows[k], sites.rows[k + 1])
    return 0 if nothing else 1


@kernel
def _weigh(
    entries_of: Integers, first: int, last: int, g: Floats, c: Floats, z: Floats, turned: Floats, sums: Floats
) -> None:
    """Adds Σ ∂g z + ∂c (jω z) over entries to `sums` [2 LANES]; z and turned, which is jω z, [nnz, 2 LANES]."""
    for j in range(first, last):
        by_g, by_c = g[j], c[j]
        if by_g != 0.0:
            v = at(z, WIDE * entries_of[j])
            for w in range(WIDE):
                sums[w] += by_g * v[w]
        if by_c != 0.0:
            v = at(turned, WIDE * entries_of[j])
            for w in range(WIDE):
                sums[w] += by_c * v[w]


@kernel
def _acting(out: Complexes, acting: Integers, row: int, place: int) -> None:
    """The parameter at this place of the result changes something: zeros so far."""
    if acting[row, place] == 0:
        acting[row, place] = 1
        for o in range(out.shape[1]):
            for w in range(out.shape[3]):
                out[row, o, place, w] = complex(0.0, 0.0)


@kernel
def _no_answer(out: Complexes, acting: Integers, row: int, first: int) -> None:
    for k in range(out.shape[2]):
        _acting(out, acting, row, k)
        for o in range(out.shape[1]):
            for w in range(first, out.shape[3]):
                out[row, o, k, w] = complex(np.nan, np.nan)


@kernel
def _multiply(circuit: Circuit, y: Floats, x: Floats, omega: Floats, z: Floats, turned: Floats) -> None:
    """Y_row X_column of every Jacobian position into z, and jω times that into turned, [nnz, 2 LANES]."""
    for e in range(circuit.nnz):
        p, q = at(y, WIDE * circuit.rows[e]), at(x, WIDE * circuit.columns[e])
        t, u = at(z, WIDE * e), at(turned, WIDE * e)
        for w in range(LANES):
            re = p[w] * q[w] - p[LANES + w] * q[LANES + w]
            im = p[w] * q[LANES + w] + p[LANES + w] * q[w]
            t[w], t[LANES + w] = re, im
            u[w], u[LANES + w] = -omega[w] * im, omega[w] * re


@kernel
def _follow_bias(rows_of: Integers, first: int, last: int, f: Floats, moved: Floats, sums: Floats) -> None:
    """Takes wᵀ ∂f/∂p from `sums` [2 LANES]; moved is w, [n + 1, 2 LANES]."""
    for j in range(first, last):
        by_f = f[j]
        if by_f != 0.0:
            v = at(moved, WIDE * rows_of[j])
            for w in range(WIDE):
                sums[w] -= by_f * v[w]


@kernel
def _drive_sum(n: int, y: Floats, change: Floats, w: int) -> complex:
    """Yᵀ ∂B/∂p of lane w; change [2, n + 1] holds ∂B/∂p."""
    total = complex(0.0, 0.0)
    for i in range(n):
        re, im = change[i], change[n + 1 + i]
        if re != 0.0 or im != 0.0:
            total += complex(y[WIDE * i + w], y[WIDE * i + LANES + w]) * complex(re, im)
    return total


class Room:
    """What `_ac_rows` works on beside the circuit's own: nothing in it outlives a row."""

    own: Floats  # [2, n + 1] the right-hand side
    changes: Floats  # [drives, 2, n + 1] ∂B/∂p
    forward: Floats  # [n + 1, WIDE] X
    z: Floats  # [nnz, WIDE] Y_row X_column
    turned: Floats  # [nnz, WIDE] jω z
    slope: Floats  # [n, WIDE] ∂L/∂x
    moved: Floats  # [n + 1, WIDE] w
    sums: Floats  # [WIDE]
    f: Floats  # [rows_of] ∂f/∂p of every parameter
    g: Floats  # [entries_of]
    c: Floats  # [entries_of]
    bend_g: Floats  # [bend_entries_of] ∂g/∂x
    bend_c: Floats  # [bend_entries_of]
    here: Floats  # [n + 1] the operating point
    base_g: Floats  # [nnz] and what its Jacobians are
    base_c: Floats  # [nnz]
    added: Floats  # [2, nnz + 1] what one device adds to a phasor's equations


ROOM = words(Room, within=True)
room_in = opened(ROOM)


def _room(structure: Structure) -> Floats:
    """The array that a Room lies in."""
    lists, n, nnz = structure.sites.lists, structure.size, len(structure.rows)
    entries, bent = len(lists["entries_of"]), len(lists["bend_entries_of"])
    lengths = {
        "own": 2 * (n + 1), "changes": len(lists["drives"]) * 2 * (n + 1), "forward": (n + 1) * WIDE,
        "z": nnz * WIDE, "turned": nnz * WIDE, "slope": n * WIDE, "moved": (n + 1) * WIDE, "sums": WIDE,
        "f": len(lists["rows_of"]), "g": entries, "c": entries, "bend_g": bent, "bend_c": bent,
        "here": n + 1, "base_g": nnz, "base_c": nnz, "added": 2 * (nnz + 1),
    }  # fmt: skip
    return Layout(ROOM, lengths).array()


@entry
def _ac_rows(
    arrays: Packed, matrix_: Packed, memory: Floats, start: int, stop: int, points: Floats, states: Floats,
    paths: Integers, frequency: Floats, plus: Integers, minus: Integers, lists: Packed, wanted: Integers,
    block_: Floats, room_: Floats, marks: Integers, out: Complexes, acting: Integers,
) -> None:  # fmt: skip
    """Rows start..stop-1; `room_` holds a `Room`, and `marks` has place for live [n], acts [parameters], driven."""
    circuit, work = bare(arrays), workspace(arrays, memory)
    matrix, sites = matrix_in(matrix_), sites_in(lists)
    n, nnz = circuit.n, circuit.nnz
    block, a = block_in(block_), no_factors()
    both = 2 * (n + 1)
    room, live = room_in(room_), pointer(marks)
    acts = at(live, n)
    driven = at(acts, sites.parameters)
    x = room.here
    for row in range(start, stop):
        if paths[row] < 0:
            _no_answer(out, acting, row, 0)
            continue
        state = at(pointer(states), row * work.states)
        copy(at(pointer(points), row * (n + 1)), room.here, n + 1)
        linearise_row(circuit, work, matrix, row, x, state)
        drive(circuit, work, room.own, at(room.own, n + 1))
        copy(work.g, room.base_g, nnz)
        copy(work.c, room.base_c, nnz)
        bend(circuit, work, sites, x, room.bend_g, room.bend_c)
        copy(room.base_g, work.g, nnz)
        copy(room.base_c, work.c, nnz)
        for k in range(sites.parameters):
            acts[k] = NOT_YET
        fill(room.changes, sites.drive_count * both, 0.0)
        for d in range(sites.drive_count):
            re = at(room.changes, d * both)
            drive_change(circuit, work, sites, sites.drives[d], re, at(re, n + 1))
            driven[d] = 0 if wanted[sites.drives[d]] < 0 or _are_zero(re, 0, both) else 1
            if driven[d] == 1:
                _acting(out, acting, row, wanted[sites.drives[d]])
        set_frequencies(circuit, work, block, frequency, len(frequency) // 2)
        steps = order(circuit, work.g, work.c, block, 0, True)
        # How the bias follows is asked only where anything bends.
        rest = steps
        if sites.bend_count > 0:
            code = circuit.code[KERNELS * circuit.families + PLAN]
            rest = call_plan(code, n, nnz, circuit.rows, circuit.columns, work.g, work.g, 0)
            rest = lane_plan(rest, True) if rest[0] >= 0 else rest
        if steps[0] < 0 or rest[0] < 0:
            _no_answer(out, acting, row, 0)
            continue
        still = np.zeros(rest[STORAGE] * WIDE if sites.bend_count > 0 else 0)
        if sites.bend_count > 0:
            fill(block.omega, LANES, 0.0)
            eliminate_lanes(
                rest, still, room.base_g, room.base_c, block.omega, block.extra, nnz, 0,
                block.right, block.change,
            )  # fmt: skip
        for first in range(0, len(frequency), LANES):
            count = min(LANES, len(frequency) - first)
            set_frequencies(circuit, work, block, frequency, first)
            set_right(circuit, block, room.own, at(room.own, n + 1))
            solved, steps, a = solve_block(circuit, work, block, steps, a)
            if not solved:
                _no_answer(out, acting, row, first)
                break
            copy(block.x, room.forward, (n + 1) * WIDE)
            for o in range(len(plus)):
                solve_adjoint(circuit, block, steps, a, plus[o], minus[o])
                y = block.x
                _multiply(circuit, y, room.forward, block.omega, room.z, room.turned)
                fill(room.slope, n * WIDE, 0.0)
                _forget(n, live)
                _mark(n, y, WIDE, live)
                follows = False
                for b in range(sites.bend_count):
                    if not _is_bent(circuit, sites, b, live):
                        continue
                    follows = True
                    _weigh(
                        sites.bend_entries_of, sites.bend_entries[b], sites.bend_entries[b + 1], room.bend_g,
                        room.bend_c, room.z, room.turned, at(room.slope, WIDE * sites.bends[2 * b + 1]),
                    )  # fmt: skip
                if follows:
                    solve_transposed_lanes(rest, still, room.slope, room.moved)
                    _mark(n, room.moved, WIDE, live)
                for k in range(sites.parameters):
                    if wanted[k] < 0 or acts[k] == 0 or not _is_seen(sites, k, live, n):
                        continue
                    if acts[k] == NOT_YET:
                        differentiate(circuit, work, sites, k, x, True, room.f, room.g, room.c)
                        update_owners(circuit, work, sites, k)
                        copy(room.base_g, work.g, nnz)
                        copy(room.base_c, work.c, nnz)
                        acts[k] = _acts(sites, k, room.f, room.g, room.c)
                        if acts[k] == 0:
                            continue
                        _acting(out, acting, row, wanted[k])
                    fill(room.sums, WIDE, 0.0)
                    _weigh(
                        sites.entries_of, sites.entries[k], sites.entries[k + 1], room.g, room.c, room.z,
                        room.turned, room.sums,
                    )  # fmt: skip
                    if sites.phasors[k] != 0:
                        phasor_change(circuit, work, sites, k, block.omega, y, room.forward, room.sums, room.added)
                    if follows:
                        _follow_bias(sites.rows_of, sites.rows[k], sites.rows[k + 1], room.f, room.moved, room.sums)
                    for w in range(count):
                        out[row, o, wanted[k], first + w] = complex(-room.sums[w], -room.sums[LANES + w])
                for d in range(sites.drive_count):
                    # Most parameters of a source are of its waveform, which phasors do not see.
                    for w in range(count if driven[d] == 1 else 0):
                        change = at(room.changes, d * both)
                        out[row, o, wanted[sites.drives[d]], first + w] += _drive_sum(n, y, change, w)


Keys = Sequence[tuple[str, str]]


def _selected(structure: Structure, parameters: Keys | None) -> tuple[tuple[tuple[str, str], ...], Integers]:
    """The keys of a result, and where each of the structure's parameters stands in it (-1: nowhere)."""
    found = structure.sites
    if parameters is None:
        return found.keys, np.arange(len(found.keys), dtype=np.int32)
    keys, wanted = tuple(parameters), np.full(len(found.keys), -1, dtype=np.int32)
    for place, key in enumerate(keys):
        wanted[found.index(key)] = place
    return keys, wanted


def dc_sensitivity(
    structure: Structure,
    outputs: Sequence[tuple[str, str]],
    matrix: ParameterMatrix | None = None,
    parameters: Keys | None = None,
    threads: int | None = None,
) -> DcSensitivityResult:
    """How each output (plus, minus) of the operating point follows `parameters` (default: all), for every row.

    Parameters that have no derivative are left out: choices, such as a polarity, what is not given, and resistances
    of zero that would add an unknown. Raises CircuitError for an output or a parameter that does not exist.
    """
    point = operating_point(structure, matrix, threads)
    plus, minus = output_indices(structure, outputs)
    keys, wanted = _selected(structure, parameters)
    lists, circuit, values = structure.sites.words, structure.circuit, point.matrix.words
    wanted = np.where(structure.sites.dynamic, np.int32(-1), wanted)
    out = np.zeros((len(point.values), len(outputs), len(keys)))
    held = len(structure.sites.lists["rows_of"]) + structure.size + len(outputs) * (structure.size + 1)
    out[point.paths < 0] = np.nan

    def work(start: int, stop: int) -> None:
        _dc_rows(circuit, values, structure.room(), start, stop, point.values, point.states, point.paths, plus,
                 minus, lists, wanted, np.zeros(held), np.zeros(structure.size, np.int32), out)  # fmt: skip

    in_chunks(len(point.values), work, threads)
    return DcSensitivityResult(point, keys, out)


def ac_sensitivity(
    structure: Structure,
    frequency: Floats,
    outputs: Sequence[tuple[str, str]],
    matrix: ParameterMatrix | None = None,
    parameters: Keys | None = None,
    threads: int | None = None,
) -> AcSensitivityResult:
    """How each output's phasor at `frequency` [F], in hertz, follows `parameters`; see `dc_sensitivity`."""
    point = operating_point(structure, matrix, threads)
    plus, minus = output_indices(structure, outputs)
    keys, wanted = _selected(structure, parameters)
    lists, circuit, values = structure.sites.words, structure.circuit, point.matrix.words
    frequency = np.ascontiguousarray(frequency, float)
    rows = len(point.values)
    out = np.empty((rows, len(outputs), len(keys), len(frequency)), dtype=np.complex128)
    acting = np.zeros((rows, len(keys)), np.int32)
    sites = structure.sites

    def marks() -> Integers:
        return np.zeros(structure.size + len(sites.keys) + len(sites.lists["drives"]), np.int32)

    def work(start: int, stop: int) -> None:
        _ac_rows(circuit, values, structure.room(), start, stop, point.values, point.states, point.paths,
                 frequency, plus, minus, lists, wanted, block_room(circuit), _room(structure), marks(),
                 out, acting)  # fmt: skip

    in_chunks(rows, work, threads)
    return AcSensitivityResult(point, frequency, keys, out, acting)
