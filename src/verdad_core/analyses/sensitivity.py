"""Sensitivity of direct and small-signal results to every parameter, by the adjoint method.

With f(x, p) = 0 and an output cᵀx, one solution of Gᵀ y = c gives d(cᵀx)/dp = -yᵀ ∂f/∂p for all parameters (Director
and Rohrer, "The generalized adjoint network and network sensitivities", IEEE Trans. Circuit Theory 16, 1969). For a
phasor cᵀX with A X = B it is d(cᵀX)/dp = -Yᵀ (∂A/∂p X - ∂B/∂p), Aᵀ Y = c, and what the bias adds as it moves: with
L = Yᵀ A(x) X it is wᵀ ∂f/∂p, Gᵀ w = ∂L/∂x. The derivatives of one device's equations to its own parameters and
voltages are central differences of that device alone, which agree with the exact ones to about nine digits. They are
made only for devices in whose equations the adjoint solution is not zero: what comes after the output, or stands beside
it, is not seen there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import AtBias
from verdad_core.analyses.small_signal import output_indices
from verdad_core.arrays import Complexes, Floats, Integers, Packed
from verdad_core.devices.base import CHARGES, HEAD, call_drive, call_load, call_phasor, call_update
from verdad_core.engine.circuit import Circuit, Work, bare, copy, fill, matrix_in, workspace
from verdad_core.engine.lane_plan import lane_plan
from verdad_core.engine.lanes import LANES, WIDE, eliminate_lanes, solve_transposed_lanes
from verdad_core.engine.linear import STORAGE, call_plan, factor, solve_transposed
from verdad_core.engine.load import DRIVE, KERNELS, LOAD, PHASOR, PLAN, UPDATE, drive
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

#: Of a parameter whose effect has not been computed yet.
NOT_YET = -1

#: Steps of the central differences: relative to a parameter, and for a voltage or current.
STEP, STEP_OF_UNKNOWN = 3e-6, 2e-6


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
def _reload(circuit: Circuit, work: Work, sites: Sites, first: int, last: int, x: Floats) -> None:
    """The equations of devices device_of[first:last] alone, added to work's f, g and c."""
    for k in range(first, last):
        device = sites.device_of[k]
        head, code = at(sites.heads, HEAD * device), KERNELS * sites.families[device]
        call_load(
            circuit.code[code + LOAD], head, circuit.table, circuit.slots, work.derived, work.options, work.state,
            x, work.f, work.q, work.g, work.c,
        )  # fmt: skip


@kernel
def _update(circuit: Circuit, work: Work, sites: Sites, k: int) -> None:
    """What the devices of parameter k derive from the parameters as they are."""
    for j in range(sites.devices[k], sites.devices[k + 1]):
        device = sites.device_of[j]
        head, code = at(sites.heads, HEAD * device), KERNELS * sites.families[device]
        call_update(circuit.code[code + UPDATE], head, circuit.table, work.parameters, work.derived)


@kernel
def _differentiate(
    circuit: Circuit, work: Work, sites: Sites, k: int, x: Floats, jacobians: bool, f: Floats, g: Floats, c: Floats
) -> None:
    """∂f/∂p [rows_of] of parameter k at the solution x, and with `jacobians` ∂g/∂p and ∂c/∂p [entries_of].

    What the devices derive stays that of the last evaluation, and work's f, g and c too.
    """
    column = sites.columns[k]
    value = work.parameters[column]
    step = STEP * abs(value) if value != 0.0 else sites.steps[k]
    below = value if sites.one_sided[k] != 0 else value - step
    scale = 1.0 / (value + step - below)
    for side in range(2):
        work.parameters[column] = below if side == 0 else value + step
        for j in range(sites.rows[k], sites.rows[k + 1]):
            work.f[sites.rows_of[j]] = 0.0
        if jacobians:
            for j in range(sites.entries[k], sites.entries[k + 1]):
                work.g[sites.entries_of[j]], work.c[sites.entries_of[j]] = 0.0, 0.0
        _update(circuit, work, sites, k)
        _reload(circuit, work, sites, sites.devices[k], sites.devices[k + 1], x)
        for j in range(sites.rows[k], sites.rows[k + 1]):
            new = work.f[sites.rows_of[j]]
            f[j] = new if side == 0 else scale * (new - f[j])
        if jacobians:
            for j in range(sites.entries[k], sites.entries[k + 1]):
                e = sites.entries_of[j]
                g[j] = work.g[e] if side == 0 else scale * (work.g[e] - g[j])
                c[j] = work.c[e] if side == 0 else scale * (work.c[e] - c[j])
    work.parameters[column] = value


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


@kernel
def _bend(circuit: Circuit, work: Work, sites: Sites, x: Floats, g: Floats, c: Floats) -> None:
    """∂g/∂x and ∂c/∂x [bend_entries_of] of every device to each of its unknowns."""
    for b in range(sites.bend_count):
        device, unknown = sites.bends[2 * b], sites.bends[2 * b + 1]
        head, code = at(sites.heads, HEAD * device), KERNELS * sites.families[device]
        value = x[unknown]
        step = STEP_OF_UNKNOWN * max(abs(value), 1.0)
        for side in range(2):
            x[unknown] = value - step if side == 0 else value + step
            sign = (-0.5 if side == 0 else 0.5) / step
            for j in range(sites.bend_entries[b], sites.bend_entries[b + 1]):
                work.g[sites.bend_entries_of[j]], work.c[sites.bend_entries_of[j]] = 0.0, 0.0
            call_load(
                circuit.code[code + LOAD], head, circuit.table, circuit.slots, work.derived, work.options, work.state,
                x, work.f, work.q, work.g, work.c,
            )  # fmt: skip
            for j in range(sites.bend_entries[b], sites.bend_entries[b + 1]):
                e = sites.bend_entries_of[j]
                g[j] = (g[j] if side == 1 else 0.0) + sign * work.g[e]
                c[j] = (c[j] if side == 1 else 0.0) + sign * work.c[e]
        x[unknown] = value


@entry
def _dc_rows(
    arrays: Packed, matrix_: Packed, memory: Floats, start: int, stop: int, points: Floats, states: Floats,
    paths: Integers, plus: Integers, minus: Integers, lists: Packed, wanted: Integers, out: Floats,
) -> None:  # fmt: skip
    circuit, work = bare(arrays), workspace(arrays, memory)
    matrix, sites = matrix_in(matrix_), sites_in(lists)
    n, nnz = circuit.n, circuit.nnz
    right, y, live_ = np.zeros(n), np.zeros(len(plus) * (n + 1)), np.zeros(n, np.int32)
    live = pointer(live_)
    f, g, c, jacobians = np.zeros(sites.rows[sites.parameters]), np.zeros(1), np.zeros(1), False
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
        factor(pointer(steps), pointer(a))
        _forget(n, live)
        for o in range(len(plus)):
            for i in range(n):
                right[i] = (1.0 if i == plus[o] else 0.0) - (1.0 if i == minus[o] else 0.0)
            adjoint = at(pointer(y), o * (n + 1))
            solve_transposed(pointer(steps), pointer(a), pointer(right), adjoint)
            adjoint[n] = 0.0
            _mark(n, adjoint, 1, live)
        work.options[CHARGES] = 0.0
        last = -1
        for k in range(sites.parameters):
            if wanted[k] < 0 or not _is_seen(sites, k, live, n):
                continue
            # The next parameter of the same devices derives everything anew.
            if last >= 0 and sites.owners[last] != sites.owners[k]:
                _update(circuit, work, sites, last)
            last = k
            _differentiate(circuit, work, sites, k, x, jacobians, pointer(f), pointer(g), pointer(c))
            for o in range(len(plus)):
                total = 0.0
                for j in range(sites.rows[k], sites.rows[k + 1]):
                    total -= y[o * (n + 1) + sites.rows_of[j]] * f[j]
                out[row, o, wanted[k]] = total


@kernel
def _drive_change(circuit: Circuit, work: Work, sites: Sites, k: int, re: Floats, im: Floats) -> None:
    """∂B/∂p of parameter k, added to re and im [n + 1]."""
    column = sites.columns[k]
    device = sites.device_of[sites.devices[k]]
    code = KERNELS * sites.families[device]
    head = at(sites.heads, HEAD * device)
    value = work.parameters[column]
    step = STEP * abs(value) if value != 0.0 else sites.steps[k]
    n = circuit.n + 1
    for side in range(2):
        # The first pass leaves the negative of what the second one adds to.
        for i in range(n):
            re[i], im[i] = -re[i], -im[i]
        work.parameters[column] = value - step if side == 0 else value + step
        call_update(circuit.code[code + UPDATE], head, circuit.table, work.parameters, work.derived)
        call_drive(circuit.code[code + DRIVE], head, circuit.table, work.derived, re, im)
    for i in range(n):
        re[i], im[i] = 0.5 * re[i] / step, 0.5 * im[i] / step
    work.parameters[column] = value
    call_update(circuit.code[code + UPDATE], head, circuit.table, work.parameters, work.derived)


@kernel
def _phasor_change(
    circuit: Circuit, work: Work, sites: Sites, k: int, omega: Floats, y: Floats, x: Floats, sums: Floats
) -> None:
    """Adds Yᵀ ∂P/∂p X of parameter k to `sums` [2 LANES], y and x [n + 1, 2 LANES]."""
    column, nnz = sites.columns[k], circuit.nnz
    value = work.parameters[column]
    step = STEP * abs(value) if value != 0.0 else sites.steps[k]
    re, im = np.zeros(nnz + 1), np.zeros(nnz + 1)
    for d in range(sites.devices[k], sites.devices[k + 1]):
        device = sites.device_of[d]
        code = KERNELS * sites.families[device]
        head = at(sites.heads, HEAD * device)
        if circuit.code[code + PHASOR] == 0:
            continue
        for side in range(2):
            work.parameters[column] = value - step if side == 0 else value + step
            sign = (-0.5 if side == 0 else 0.5) / step
            call_update(circuit.code[code + UPDATE], head, circuit.table, work.parameters, work.derived)
            for w in range(LANES):
                fill(pointer(re), nnz + 1, 0.0)
                fill(pointer(im), nnz + 1, 0.0)
                call_phasor(
                    circuit.code[code + PHASOR], head, circuit.table, circuit.slots, work.derived, omega[w],
                    pointer(re), pointer(im),
                )  # fmt: skip
                for j in range(sites.entries[k], sites.entries[k + 1]):
                    e = sites.entries_of[j]
                    if re[e] != 0.0 or im[e] != 0.0:
                        yr, xc = at(y, WIDE * circuit.rows[e]), at(x, WIDE * circuit.columns[e])
                        product = complex(yr[w], yr[LANES + w]) * complex(xc[w], xc[LANES + w])
                        change = product * complex(re[e], im[e]) * sign
                        sums[w] += change.real
                        sums[LANES + w] += change.imag
        work.parameters[column] = value
        call_update(circuit.code[code + UPDATE], head, circuit.table, work.parameters, work.derived)


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


@entry
def _ac_rows(
    arrays: Packed, matrix_: Packed, memory: Floats, start: int, stop: int, points: Floats, states: Floats,
    paths: Integers, frequency: Floats, plus: Integers, minus: Integers, lists: Packed, wanted: Integers,
    block_: Floats, out: Complexes, acting: Integers,
) -> None:  # fmt: skip
    circuit, work = bare(arrays), workspace(arrays, memory)
    matrix, sites = matrix_in(matrix_), sites_in(lists)
    n, nnz = circuit.n, circuit.nnz
    entries, bent = sites.entries[sites.parameters], sites.bend_entries[sites.bend_count]
    block, a = block_in(block_), no_factors()
    both = 2 * (n + 1)
    own, changes = np.zeros(both), np.zeros(sites.drive_count * both)
    driven = np.zeros(sites.drive_count, np.int32)
    forward, z, turned = np.zeros((n + 1) * WIDE), np.zeros(nnz * WIDE), np.zeros(nnz * WIDE)
    slope, moved, sums = np.zeros(n * WIDE), np.zeros((n + 1) * WIDE), np.zeros(WIDE)
    f, g, c = np.zeros(sites.rows[sites.parameters]), np.zeros(entries), np.zeros(entries)
    jacobians = True
    bend_g, bend_c = np.zeros(bent), np.zeros(bent)
    acts, live_ = np.zeros(sites.parameters, np.int32), np.zeros(n, np.int32)
    live = pointer(live_)
    here, base_g, base_c = np.zeros(n + 1), np.zeros(nnz), np.zeros(nnz)
    for row in range(start, stop):
        if paths[row] < 0:
            _no_answer(out, acting, row, 0)
            continue
        state = at(pointer(states), row * work.states)
        copy(at(pointer(points), row * (n + 1)), pointer(here), n + 1)
        x = pointer(here)
        linearise_row(circuit, work, matrix, row, x, state)
        drive(circuit, work, pointer(own), at(pointer(own), n + 1))
        copy(work.g, pointer(base_g), nnz)
        copy(work.c, pointer(base_c), nnz)
        _bend(circuit, work, sites, x, pointer(bend_g), pointer(bend_c))
        copy(pointer(base_g), work.g, nnz)
        copy(pointer(base_c), work.c, nnz)
        for k in range(sites.parameters):
            acts[k] = NOT_YET
        fill(pointer(changes), sites.drive_count * both, 0.0)
        for d in range(sites.drive_count):
            re = at(pointer(changes), d * both)
            _drive_change(circuit, work, sites, sites.drives[d], re, at(re, n + 1))
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
                pointer(rest), pointer(still), pointer(base_g), pointer(base_c), block.omega, block.extra, nnz, 0,
                block.right, block.change,
            )  # fmt: skip
        for first in range(0, len(frequency), LANES):
            count = min(LANES, len(frequency) - first)
            set_frequencies(circuit, work, block, frequency, first)
            set_right(circuit, block, pointer(own), at(pointer(own), n + 1))
            solved, steps, a = solve_block(circuit, work, block, steps, a)
            if not solved:
                _no_answer(out, acting, row, first)
                break
            copy(block.x, pointer(forward), (n + 1) * WIDE)
            for o in range(len(plus)):
                solve_adjoint(circuit, block, steps, a, plus[o], minus[o])
                y = block.x
                _multiply(circuit, y, pointer(forward), block.omega, pointer(z), pointer(turned))
                fill(pointer(slope), n * WIDE, 0.0)
                _forget(n, live)
                _mark(n, y, WIDE, live)
                follows = False
                for b in range(sites.bend_count):
                    if not _is_bent(circuit, sites, b, live):
                        continue
                    follows = True
                    _weigh(
                        sites.bend_entries_of, sites.bend_entries[b], sites.bend_entries[b + 1], pointer(bend_g),
                        pointer(bend_c), pointer(z), pointer(turned), at(pointer(slope), WIDE * sites.bends[2 * b + 1]),
                    )  # fmt: skip
                if follows:
                    solve_transposed_lanes(pointer(rest), pointer(still), pointer(slope), pointer(moved))
                    _mark(n, pointer(moved), WIDE, live)
                for k in range(sites.parameters):
                    if wanted[k] < 0 or acts[k] == 0 or not _is_seen(sites, k, live, n):
                        continue
                    if acts[k] == NOT_YET:
                        _differentiate(circuit, work, sites, k, x, jacobians, pointer(f), pointer(g), pointer(c))
                        _update(circuit, work, sites, k)
                        copy(pointer(base_g), work.g, nnz)
                        copy(pointer(base_c), work.c, nnz)
                        acts[k] = _acts(sites, k, f, g, c)
                        if acts[k] == 0:
                            continue
                        _acting(out, acting, row, wanted[k])
                    fill(pointer(sums), WIDE, 0.0)
                    _weigh(
                        sites.entries_of, sites.entries[k], sites.entries[k + 1], pointer(g), pointer(c), pointer(z),
                        pointer(turned), pointer(sums),
                    )  # fmt: skip
                    if sites.phasors[k] != 0:
                        _phasor_change(circuit, work, sites, k, block.omega, y, pointer(forward), sums)
                    if follows:
                        _follow_bias(
                            sites.rows_of, sites.rows[k], sites.rows[k + 1], pointer(f), pointer(moved), pointer(sums)
                        )
                    for w in range(count):
                        out[row, o, wanted[k], first + w] = complex(-sums[w], -sums[LANES + w])
                for d in range(sites.drive_count):
                    # Most parameters of a source are of its waveform, which phasors do not see.
                    for w in range(count if driven[d] == 1 else 0):
                        change = at(pointer(changes), d * both)
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
    out[point.paths < 0] = np.nan

    def work(start: int, stop: int) -> None:
        _dc_rows(circuit, values, structure.room(), start, stop, point.values, point.states, point.paths, plus,
                 minus, lists, wanted, out)  # fmt: skip

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

    def work(start: int, stop: int) -> None:
        _ac_rows(circuit, values, structure.room(), start, stop, point.values, point.states, point.paths,
                 frequency, plus, minus, lists, wanted, block_room(circuit), out, acting)  # fmt: skip

    in_chunks(rows, work, threads)
    return AcSensitivityResult(point, frequency, keys, out, acting)
