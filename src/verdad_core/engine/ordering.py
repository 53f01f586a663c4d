"""Elimination orders for a circuit's real matrices, and which unknowns a singular one leaves open."""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Floats, Integers
from verdad_core.engine.circuit import Circuit, fill
from verdad_core.engine.linear import call_plan
from verdad_core.engine.load import KERNELS, PLAN
from verdad_core.jit import kernel


@kernel
def order_for(circuit: Circuit, values: Floats) -> Integers:
    """An elimination order for these values [nnz], or plan's report of a singular matrix (its first entry below 0)."""
    code = circuit.code[KERNELS * circuit.families + PLAN]
    steps: Integers = call_plan(code, circuit.n, circuit.nnz, circuit.rows, circuit.columns, values, values, 0)
    return steps


@kernel
def mark_open(circuit: Circuit, report: Integers, change: Floats) -> None:
    """Infinity into `change` [n] for every unknown that a singular matrix leaves open, 0 for the others."""
    fill(change, circuit.n, 0.0)
    for k in range(len(report)):
        change[-1 - report[k]] = np.inf
