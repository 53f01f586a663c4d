"""Calls every device family's kernels by their addresses. Families with linear equations come first."""

from __future__ import annotations

from verdad_core.arrays import Floats
from verdad_core.devices import LINEAR
from verdad_core.devices.base import COUNT, GMIN, HEAD, call_drive, call_load, call_noise, call_phasor, call_update
from verdad_core.devices.base import NOISE as NOISE_AT
from verdad_core.engine.circuit import Circuit, Work, fill
from verdad_core.jit import at, kernel

# Columns of Circuit.code, in the order of Family.kernels; those from AHEAD on are a transient's.
UPDATE, LOAD, NOISE, DRIVE, PHASOR, AHEAD, WATCH, STRAY, RECALL, REMEMBER, KNEES = range(11)
KERNELS = 11

# Addresses of the engine's own large kernels, after those of the families; ATTEMPT is a transient's.
PLAN, NEWTON, POINT, SOLVE, RIGHT, ADJOINT, LINEARISE, ATTEMPT = range(8)


@kernel
def update_devices(circuit: Circuit, work: Work) -> None:
    """Turn one row of user parameters into what the other kernels need."""
    for k in range(circuit.families):
        head = at(circuit.heads, HEAD * k)
        if head[COUNT] > 0:
            call_update(circuit.code[KERNELS * k + UPDATE], head, circuit.table, work.parameters, work.derived)


@kernel
def load_families(circuit: Circuit, work: Work, x: Floats, first: int, last: int) -> int:
    """Add families first..last-1 at `x` (n + 1 entries, the last 0) to work's f, q, g, c."""
    unsettled = 0
    for k in range(first, last):
        head = at(circuit.heads, HEAD * k)
        if head[COUNT] > 0:
            unsettled += call_load(
                circuit.code[KERNELS * k + LOAD], head, circuit.table, circuit.slots, work.derived, work.options,
                work.state, x, work.f, work.q, work.g, work.c,
            )  # fmt: skip
    return unsettled


@kernel
def clear(circuit: Circuit, work: Work) -> None:
    """No equations."""
    fill(work.f, circuit.n + 1, 0.0)
    fill(work.q, circuit.n + 1, 0.0)
    fill(work.g, circuit.nnz + 1, 0.0)
    fill(work.c, circuit.nnz + 1, 0.0)


@kernel
def load_devices(circuit: Circuit, work: Work, x: Floats, first: int, last: int) -> int:
    """Equations and Jacobians of families first..last-1 at `x`, with the gates that GMIN holds where first is 0.

    Returns how many devices are not at rest.
    """
    clear(circuit, work)
    unsettled = load_families(circuit, work, x, first, last)
    if first == 0:
        for k in range(circuit.holding):
            # The first entries of the pattern are the nodes' diagonals.
            node = circuit.held[k]
            work.g[node] += work.options[GMIN]
            work.f[node] += work.options[GMIN] * x[node]
    return unsettled


@kernel
def load_linear(circuit: Circuit, work: Work, x: Floats) -> None:
    """Equations of the linear families, and of the gates that GMIN holds."""
    load_devices(circuit, work, x, 0, LINEAR)


@kernel
def load_nonlinear(circuit: Circuit, work: Work, x: Floats) -> int:
    """Equations of the other families alone. Returns how many devices are not at rest."""
    return load_devices(circuit, work, x, LINEAR, circuit.families)


@kernel
def load_all(circuit: Circuit, work: Work, x: Floats) -> int:
    """Equations and Jacobians at `x`: work's f, q, g, c. Returns how many devices are not at rest."""
    return load_devices(circuit, work, x, 0, circuit.families)


@kernel
def drive(circuit: Circuit, work: Work, re: Floats, im: Floats) -> None:
    """The right-hand side of the small-signal equations, into `re` and `im` [n + 1]."""
    fill(re, circuit.n + 1, 0.0)
    fill(im, circuit.n + 1, 0.0)
    for k in range(circuit.families):
        head, code = at(circuit.heads, HEAD * k), circuit.code[KERNELS * k + DRIVE]
        if head[COUNT] > 0 and code != 0:
            call_drive(code, head, circuit.table, work.derived, re, im)


@kernel
def noise_densities(circuit: Circuit, work: Work, x: Floats, omega: float, out: Floats) -> None:
    """White and flicker density and the flicker's exponent of every mechanism, into out [mechanisms * 3].

    Only where there are phasors does the white one depend on the frequency.
    """
    for k in range(circuit.families):
        head, code = at(circuit.heads, HEAD * k), circuit.code[KERNELS * k + NOISE]
        if head[COUNT] > 0 and code != 0:
            call_noise(code, head, circuit.table, work.derived, x, omega, at(out, 3 * head[NOISE_AT]))


@kernel
def add_phasors(circuit: Circuit, work: Work, omega: float, re: Floats, im: Floats) -> None:
    """What lines and tabulated responses add to G + jωC at omega, into re, im [nnz + 1], which are cleared first."""
    fill(re, circuit.nnz + 1, 0.0)
    fill(im, circuit.nnz + 1, 0.0)
    for k in range(circuit.families):
        head, code = at(circuit.heads, HEAD * k), circuit.code[KERNELS * k + PHASOR]
        if head[COUNT] > 0 and code != 0:
            call_phasor(code, head, circuit.table, circuit.slots, work.derived, omega, re, im)
