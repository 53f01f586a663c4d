"""How the equations of one device change with its own parameters and voltages: central differences of it alone.

They agree with the exact derivatives to about nine digits.
"""

from __future__ import annotations

from verdad_core.arrays import Floats
from verdad_core.devices.base import HEAD, call_drive, call_load, call_phasor, call_update
from verdad_core.engine.circuit import Circuit, Work, fill
from verdad_core.engine.lanes import LANES, WIDE
from verdad_core.engine.load import DRIVE, KERNELS, LOAD, PHASOR, UPDATE
from verdad_core.engine.sites import Sites
from verdad_core.jit import at, kernel

#: Steps of the central differences: relative to a parameter, and for a voltage or current.
STEP, STEP_OF_UNKNOWN = 3e-6, 2e-6


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
def update_owners(circuit: Circuit, work: Work, sites: Sites, k: int) -> None:
    """What the devices of parameter k derive from the parameters as they are."""
    for j in range(sites.devices[k], sites.devices[k + 1]):
        device = sites.device_of[j]
        head, code = at(sites.heads, HEAD * device), KERNELS * sites.families[device]
        call_update(circuit.code[code + UPDATE], head, circuit.table, work.parameters, work.derived)


@kernel
def differentiate(
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
        update_owners(circuit, work, sites, k)
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
def bend(circuit: Circuit, work: Work, sites: Sites, x: Floats, g: Floats, c: Floats) -> None:
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


@kernel
def drive_change(circuit: Circuit, work: Work, sites: Sites, k: int, re: Floats, im: Floats) -> None:
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
def phasor_change(
    circuit: Circuit, work: Work, sites: Sites, k: int, omega: Floats, y: Floats, x: Floats, sums: Floats,
    room: Floats,
) -> None:  # fmt: skip
    """Adds Yᵀ ∂P/∂p X of parameter k to `sums` [2 LANES], y and x [n + 1, 2 LANES]; room [2, nnz + 1]."""
    column, nnz = sites.columns[k], circuit.nnz
    value = work.parameters[column]
    step = STEP * abs(value) if value != 0.0 else sites.steps[k]
    re, im = room, at(room, nnz + 1)
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
                fill(re, nnz + 1, 0.0)
                fill(im, nnz + 1, 0.0)
                call_phasor(
                    circuit.code[code + PHASOR], head, circuit.table, circuit.slots, work.derived, omega[w],
                    re, im,
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
