"""Elimination orders for a circuit's real matrices, and which unknowns a singular one leaves open."""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import GMIN, STARTING
from verdad_core.engine.circuit import Circuit, Work, fill, reset
from verdad_core.engine.linear import call_plan
from verdad_core.engine.load import KERNELS, PLAN, load_all
from verdad_core.jit import kernel

#: The conductance at every node that a search begins with where plain Newton fails, and that orders are chosen with.
FIRST_SHUNT = 1e-2


@kernel
def order_for(circuit: Circuit, values: Floats) -> Integers:
    """An elimination order for these values [nnz], or plan's report of a singular matrix (its first entry below 0)."""
    code = circuit.code[KERNELS * circuit.families + PLAN]
    steps: Integers = call_plan(code, circuit.n, circuit.nnz, circuit.rows, circuit.columns, values, values, 0)
    return steps


@kernel
def first_plan(circuit: Circuit, work: Work, x: Floats) -> Integers:
    """An elimination order for values as they are at the start of Newton, or plan's report of a singular matrix."""
    reset(work.options)
    fill(x, circuit.n + 1, 0.0)
    work.options[GMIN], work.options[STARTING] = FIRST_SHUNT, 1.0
    load_all(circuit, work, x)
    for k in range(circuit.nodes):
        work.g[k] += FIRST_SHUNT
    return order_for(circuit, work.g)


@kernel
def mark_open(circuit: Circuit, report: Integers, change: Floats) -> None:
    """Infinity into `change` [n] for every unknown that a singular matrix leaves open, 0 for the others."""
    fill(change, circuit.n, 0.0)
    for k in range(len(report)):
        change[-1 - report[k]] = np.inf
