"""Rows of a parameter matrix on all cores: kernels release the interpreter's lock, so threads are enough."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import GMIN, SOURCE_SCALE, STARTING
from verdad_core.engine.linear import plan
from verdad_core.engine.load import load, update
from verdad_core.engine.newton import FIRST_SHUNT, JUNCTION_GMIN, complex_values
from verdad_core.jit import kernel

#: Rows that one call of a kernel takes: small enough to share evenly, large enough to hide the call.
CHUNK = 64


def in_chunks(rows: int, work: Callable[[int, int], None], threads: int | None = None) -> None:
    """Call work(start, stop) for consecutive chunks of `rows` under a thread pool; errors are passed on."""
    chunks = [(start, min(start + CHUNK, rows)) for start in range(0, rows, CHUNK)]
    if len(chunks) == 1:
        work(*chunks[0])
        return
    with ThreadPoolExecutor(threads or os.cpu_count()) as pool:
        for future in [pool.submit(work, *chunk) for chunk in chunks]:
            future.result()


@kernel
def first_plan(
    heads: Integers, table: Integers, slots: Integers, rows: Integers, columns: Integers, nodes: int,
    derived: Floats, options: Floats, state: Floats, x: Floats,
) -> Integers:  # fmt: skip
    """An elimination order for values as they are at the start of Newton, or plan's report of a singular matrix."""
    n, nnz = len(x) - 1, len(rows)
    f, q, g, c = np.empty(n + 1), np.empty(n + 1), np.empty(nnz + 1), np.empty(nnz + 1)
    options[SOURCE_SCALE], options[GMIN], options[STARTING] = 1.0, FIRST_SHUNT, 1.0
    load(heads, table, slots, derived, options, state, x, f, q, g, c)
    for k in range(nodes):
        g[k] += FIRST_SHUNT
    return plan(n, rows, columns, complex_values(g, nnz))


@kernel
def fill_row(nominal: Floats, columns: Integers, values: Floats, row: int, parameters: Floats) -> None:
    """Row `row` of a parameter matrix, written out in full into `parameters`."""
    for k in range(len(nominal)):
        parameters[k] = nominal[k]
    for k in range(len(columns)):
        parameters[columns[k]] = values[row, k]


@kernel
def linearise_row(
    heads: Integers, table: Integers, slots: Integers, nominal: Floats, columns: Integers, values: Floats, row: int,
    x: Floats, parameters: Floats, derived: Floats, options: Floats, state: Floats,
    f: Floats, q: Floats, g: Floats, c: Floats,
) -> None:  # fmt: skip
    """Conductances g and capacitances c [nnz + 1] of a row at its operating point x [n + 1]."""
    options[SOURCE_SCALE], options[GMIN], options[STARTING] = 1.0, JUNCTION_GMIN, 0.0
    fill_row(nominal, columns, values, row, parameters)
    update(heads, table, parameters, derived)
    # Limiting compares with the last voltage; loading until nothing is limited leaves the tangent at the point.
    for _ in range(50):
        if load(heads, table, slots, derived, options, state, x, f, q, g, c) == 0:
            break
