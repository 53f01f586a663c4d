"""The load kernels at one point, called from Python."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import GMIN, NOMINAL_CELSIUS, OPTIONS, SOURCE_SCALE, STARTING
from verdad_core.engine.load import load, update
from verdad_core.engine.structure import Structure
from verdad_core.jit import entry


@entry
def _load(
    heads: Integers, table: Integers, slots: Integers, parameters: Floats, derived: Floats, options: Floats,
    state: Floats, x: Floats, f: Floats, q: Floats, g: Floats, c: Floats,
) -> int:  # fmt: skip
    update(heads, table, parameters, derived)
    limited = 1
    for _ in range(400):
        limited = load(heads, table, slots, derived, options, state, x, f, q, g, c)
        if limited == 0:
            break
    return limited


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
    options = np.zeros(OPTIONS)
    options[[SOURCE_SCALE, GMIN, STARTING]] = 1.0, 1e-12, 0.0
    parameters = structure.nominal.copy()
    parameters[0] = celsius
    limited = _load(structure.heads, structure.table, structure.slots, parameters, np.zeros(structure.derived),
                    options, np.zeros(structure.states), np.append(x, 0.0), f, q, g, c)  # fmt: skip
    assert limited == 0
    dense_g, dense_c = np.zeros((n, n)), np.zeros((n, n))
    np.add.at(dense_g, (structure.rows, structure.columns), g[:-1])
    np.add.at(dense_c, (structure.rows, structure.columns), c[:-1])
    return Loaded(f[:-1], q[:-1], dense_g, dense_c)
