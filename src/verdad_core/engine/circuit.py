"""What kernels are handed: the circuit and the working arrays of one row, as bare pointers (jit.py)."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numba.core import types

from verdad_core.arrays import Floats, Integers
from verdad_core.devices.base import CHARGES, CONDITIONS, GMIN, MARCHING, OPTIONS, SOURCE_SCALE, STARTING, TIME
from verdad_core.jit import ADDRESSES, FLOATS, INTEGERS, at, kernel, pointer

#: Conductance over every junction, and of a gate that nothing else holds.
JUNCTION_GMIN = 1e-12

# Columns of `sizes`.
(FAMILIES, UNKNOWNS, NODES, NNZ, PARAMETERS, DERIVED, STATES, HELD, NODESETS, MECHANISMS, WAVES) = range(11)
SIZES = 11


class Arrays(NamedTuple):
    """A circuit as Python keeps it; see Structure for the meaning."""

    code: Any  # [families * kernels] addresses of the families' kernels, then of the engine's own; 64 bit
    sizes: Integers
    heads: Integers  # [families, HEAD]
    table: Integers
    slots: Integers
    rows: Integers  # [nnz]
    columns: Integers  # [nnz]
    held: Integers  # nodes that only GMIN holds
    nodesets: Integers  # nodes whose voltage is suggested
    suggested: Floats  # the suggestions
    noise: Integers  # [mechanisms, 2]


class Circuit(NamedTuple):
    """The same for kernels: pointers, and the sizes by name."""

    code: Any
    heads: Integers
    table: Integers
    slots: Integers
    rows: Integers
    columns: Integers
    held: Integers
    nodesets: Integers
    suggested: Floats
    families: int
    n: int
    nodes: int
    nnz: int
    holding: int
    suggestions: int


class Work(NamedTuple):
    """The arrays of one row: parameters, what devices derive from them, the equations at a point, and scratch."""

    parameters: Floats
    derived: Floats
    options: Floats
    state: Floats
    f: Floats  # [n + 1]
    q: Floats  # [n + 1]
    g: Floats  # [nnz + 1]
    c: Floats  # [nnz + 1]
    shunt: Floats  # [nodes] conductances that hold every node ..
    anchor: Floats  # [nodes] .. to these voltages
    linear: Floats  # [nnz] the linear families' g
    fixed: Floats  # [n] the right-hand side that goes with it
    right: Floats  # [n]
    scratch: Floats  # [n]
    new: Floats  # [n]
    good_x: Floats  # [n + 1]
    good_state: Floats  # [states]
    failed_x: Floats  # [n + 1]
    failed_change: Floats  # [n]
    hold: Floats  # [nodes] volts that a node is held at until the transient begins, NaN for none
    states: int


class Matrix(NamedTuple):
    """A parameter matrix as kernels are handed it."""

    nominal: Floats
    columns: Integers
    values: Floats


_ROW, _INDICES = types.Array(types.float64, 1, "C"), types.Array(types.int32, 1, "C")
MATRIX = types.NamedTuple([_ROW, _INDICES, types.Array(types.float64, 2, "C")], Matrix)
CIRCUIT = types.NamedTuple(
    [ADDRESSES, *[INTEGERS] * 7, FLOATS, *[types.int64] * 6], Circuit
)  # fmt: skip
WORK = types.NamedTuple([*[FLOATS] * 20, types.int64], Work)


def room(sizes: Integers) -> Floats:
    """The array that a Work lies in."""
    n, nnz, states = int(sizes[UNKNOWNS]) + 1, int(sizes[NNZ]) + 1, int(sizes[STATES])
    floats = sizes[PARAMETERS] + sizes[DERIVED] + OPTIONS + 2 * states + 13 * n + 3 * nnz
    return np.zeros(int(floats))


@kernel
def size(sizes: Integers, column: int) -> int:
    """One of the sizes, in 64 bit."""
    return np.int64(sizes[column])  # type: ignore[return-value]


@kernel
def bare(arrays: Arrays) -> Circuit:
    """Pointers to the arrays of a circuit, which the caller keeps alive."""
    sizes = arrays.sizes
    return Circuit(
        pointer(arrays.code), pointer(arrays.heads), pointer(arrays.table), pointer(arrays.slots),
        pointer(arrays.rows), pointer(arrays.columns), pointer(arrays.held), pointer(arrays.nodesets),
        pointer(arrays.suggested), size(sizes, FAMILIES), size(sizes, UNKNOWNS), size(sizes, NODES),
        size(sizes, NNZ), size(sizes, HELD), size(sizes, NODESETS),
    )  # fmt: skip


@kernel
def workspace(arrays: Arrays, memory: Floats) -> Work:
    """A Work inside `memory` (see `room`), with the options of a plain operating point."""
    sizes = arrays.sizes
    n, nnz = size(sizes, UNKNOWNS) + 1, size(sizes, NNZ) + 1
    states = size(sizes, STATES)
    derived = at(pointer(memory), size(sizes, PARAMETERS))
    options = at(derived, size(sizes, DERIVED))
    state = at(options, OPTIONS)
    g = at(state, 2 * states)
    first = at(g, 3 * nnz)
    options[TIME], options[MARCHING], options[CONDITIONS] = -1.0, 0.0, 0.0
    reset(options)
    hold = at(first, 11 * n)
    fill(hold, n, np.nan)
    return Work(
        pointer(memory), derived, options, state, first, at(first, n), g, at(g, nnz), at(first, 2 * n),
        at(first, 3 * n), at(g, 2 * nnz), at(first, 4 * n), at(first, 5 * n), at(first, 6 * n), at(first, 7 * n),
        at(first, 8 * n), at(state, states), at(first, 9 * n), at(first, 10 * n), hold, states,
    )  # fmt: skip


@kernel
def reset(options: Floats) -> None:
    """The options of a plain operating point; the time stays what it is."""
    options[SOURCE_SCALE], options[GMIN], options[STARTING], options[CHARGES] = 1.0, JUNCTION_GMIN, 0.0, 0.0


@kernel
def fill(target: Floats, count: int, value: float) -> None:
    """The first `count` entries of target become value."""
    for k in range(count):
        target[k] = value


@kernel
def copy(source: Floats, target: Floats, count: int) -> None:
    """The first `count` entries of source -> target."""
    for k in range(count):
        target[k] = source[k]
