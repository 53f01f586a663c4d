"""What kernels are handed: the circuit, the working arrays of one row, and a parameter matrix (words.py)."""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Addresses, Floats, Integers, Packed
from verdad_core.devices.base import CHARGES, CONDITIONS, GMIN, MARCHING, OPTIONS, SOURCE_SCALE, STARTING, TIME
from verdad_core.jit import kernel
from verdad_core.words import Layout, opened, words

#: Conductance over every junction, and of a gate that nothing else holds.
JUNCTION_GMIN = 1e-12


class Circuit:
    """A circuit as kernels see it; see Structure for the meaning."""

    code: Addresses  # [families * kernels] the families' kernels, then the engine's own
    heads: Integers  # [families, HEAD]
    table: Integers
    slots: Integers
    rows: Integers  # [nnz]
    columns: Integers  # [nnz]
    by_row: Integers  # [nnz] the positions row after row ..
    starts: Integers  # [n + 1] .. and where each row begins in them
    volts: Integers  # [n] whether an unknown is a voltage
    floors: Floats  # [n] what an unknown at rest may be off at least, in V or A
    held: Integers  # [holding] nodes that only GMIN holds
    nodesets: Integers  # [suggestions] nodes whose voltage is suggested
    suggested: Floats  # [suggestions]
    noise: Integers  # [mechanisms, 2]
    families: int
    n: int
    nodes: int
    nnz: int
    parameters: int
    derived: int
    states: int
    holding: int
    suggestions: int
    waves: int
    mechanisms: int
    phasors: int  # whether any device's small-signal behaviour is more than G + jωC


class Work:
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


class Matrix:
    """A parameter matrix as kernels see it; see ParameterMatrix."""

    nominal: Floats  # [parameters]
    columns: Integers  # [varied]
    values: Floats  # [rows, varied]
    parameters: int
    varied: int


CIRCUIT, WORK, MATRIX = words(Circuit), words(Work, within=True), words(Matrix)
bare, matrix_in, _work_in = opened(CIRCUIT), opened(MATRIX), opened(WORK)


def layout_of(n: int, nnz: int, parameters: int, derived: int, states: int) -> Layout:
    """How an array holds a Work: its words, and then what they point to."""
    wide = {"parameters": parameters, "derived": derived, "options": OPTIONS, "state": states, "good_state": states}
    wide |= dict.fromkeys(("g", "c", "linear"), nnz + 1)
    return Layout(WORK, {field: wide.get(field, n + 1) for field in WORK.fields if field != "states"}, states=states)


@kernel
def workspace(arrays: Packed, memory: Floats) -> Work:
    """The Work inside `memory` (see `Structure.room`), with the options of a plain operating point."""
    work: Work = _work_in(memory)
    work.options[TIME], work.options[MARCHING], work.options[CONDITIONS] = -1.0, 0.0, 0.0
    reset(work.options)
    fill(work.hold, bare(arrays).nodes, np.nan)
    return work


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
