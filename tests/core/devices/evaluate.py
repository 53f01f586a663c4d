"""The load kernels at one point, called from Python."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats, Packed
from verdad_core.devices.base import CHARGES, NOMINAL_CELSIUS
from verdad_core.engine.circuit import bare, copy, workspace
from verdad_core.engine.load import load_all, update_devices
from verdad_core.engine.structure import Structure
from verdad_core.jit import entry, pointer


@entry
def _load(
    arrays: Packed, memory: Floats, parameters: Floats, x: Floats, f: Floats, q: Floats, g: Floats, c: Floats
) -> int:
    circuit, work = bare(arrays), workspace(arrays, memory)
    work.options[CHARGES] = 1.0
    copy(pointer(parameters), work.parameters, len(parameters))
    update_devices(circuit, work)
    unsettled = 1
    for _ in range(400):
        unsettled = load_all(circuit, work, pointer(x))
        if unsettled == 0:
            break
    copy(work.f, pointer(f), len(f))
    copy(work.q, pointer(q), len(q))
    copy(work.g, pointer(g), len(g))
    copy(work.c, pointer(c), len(c))
    return unsettled


@dataclass(frozen=True)
class Loaded:
    """f, q [n] and their Jacobians g, c [n, n] at one point."""

    f: Floats
    q: Floats
    g: Floats
    c: Floats


def evaluate(structure: Structure, x: Floats, celsius: float = NOMINAL_CELSIUS) -> Loaded:
    """The equations at the unknowns `x` [n]."""
    n, nnz = structure.size, len(structure.rows)
    f, q, g, c = np.zeros(n + 1), np.zeros(n + 1), np.zeros(nnz + 1), np.zeros(nnz + 1)
    parameters = structure.nominal.copy()
    parameters[0] = celsius
    unsettled = _load(structure.circuit, structure.room(), parameters, np.append(x, 0.0), f, q, g, c)
    assert unsettled == 0
    dense_g, dense_c = np.zeros((n, n)), np.zeros((n, n))
    np.add.at(dense_g, (structure.rows, structure.columns), g[:-1])
    np.add.at(dense_c, (structure.rows, structure.columns), c[:-1])
    return Loaded(f[:-1], q[:-1], dense_g, dense_c)
