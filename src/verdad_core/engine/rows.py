"""Rows of a parameter matrix on all cores: kernels release the interpreter's lock, so threads are enough."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor, wait

from numba.core import types

from verdad_core.arrays import Floats
from verdad_core.devices.base import CHARGES
from verdad_core.engine.circuit import CIRCUIT, MATRIX, WORK, Circuit, Matrix, Work, copy, reset
from verdad_core.engine.load import KERNELS, LINEARISE, load_all, update_devices
from verdad_core.jit import FLOATS, at, caller, kernel, reached

#: Rows that one call of a kernel takes: small enough to share evenly, large enough to hide the call.
CHUNK = 64

#: Seconds between two looks of what may end a solve.
BETWEEN_LOOKS = 0.05

#: Loads after which a device that still says it is not at rest is taken as it is.
MOST_LOADS = 50


def in_chunks(
    rows: int, work: Callable[[int, int], None], threads: int | None = None, chunk: int = CHUNK,
    look: Callable[[], None] | None = None, halt: Callable[[], None] = lambda: None,
) -> None:  # fmt: skip
    """Call work(start, stop) for consecutive chunks of `rows` under a thread pool; errors are passed on.

    `look` is called now and then until all is done; when it raises, `halt` is to make the chunks that run return soon.
    """
    chunks = [(start, min(start + chunk, rows)) for start in range(0, rows, chunk)]
    if len(chunks) == 1 and look is None:
        work(*chunks[0])
        return
    with ThreadPoolExecutor(threads or os.cpu_count()) as pool:
        futures = [pool.submit(work, *chunk) for chunk in chunks]
        try:
            while look is not None and wait(futures, BETWEEN_LOOKS).not_done:
                look()
        except BaseException:
            running = [future for future in futures if not future.cancel()]
            while wait(running, BETWEEN_LOOKS).not_done:
                halt()
            raise
        for future in futures:
            future.result()


@kernel
def fill_row(matrix: Matrix, row: int, parameters: Floats) -> None:
    """Row `row` of a parameter matrix, written out in full into `parameters`."""
    copy(matrix.nominal, parameters, matrix.parameters)
    values = at(matrix.values, row * matrix.varied)
    for k in range(matrix.varied):
        parameters[matrix.columns[k]] = values[k]


_LINEARISE = types.void(CIRCUIT, WORK, MATRIX, types.int64, FLOATS, FLOATS)
_call_linearise = caller(_LINEARISE)


@kernel
def linearise_row(circuit: Circuit, work: Work, matrix: Matrix, row: int, x: Floats, state: Floats) -> None:
    """See `linearise`."""
    _call_linearise(circuit.code[KERNELS * circuit.families + LINEARISE], circuit, work, matrix, row, x, state)


@reached(_LINEARISE)
def linearise(circuit: Circuit, work: Work, matrix: Matrix, row: int, x: Floats, state: Floats) -> None:
    """Conductances g and capacitances c [nnz + 1] of a row at its operating point x [n + 1], into `work`."""
    reset(work.options)
    work.options[CHARGES] = 1.0
    fill_row(matrix, row, work.parameters)
    update_devices(circuit, work)
    copy(state, work.state, work.states)
    for _ in range(MOST_LOADS):
        if load_all(circuit, work, x) == 0:
            break
