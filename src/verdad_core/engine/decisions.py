"""Decisions that stay as they are within a step: how far they are from turning, and letting them turn."""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.devices.base import HEAD, MARCHING, call_watch
from verdad_core.engine.circuit import Circuit, Work, copy, fill
from verdad_core.engine.load import KERNELS, WATCH
from verdad_core.engine.past import FAR, NEW_FAR, PEAK, RESTLESS, TOP, TURNED, X, distances, vector
from verdad_core.jit import at, kernel

#: A decision that never came farther than this part of its largest distance turns to and fro.
CHATTER = 1e-3


@kernel
def watch(circuit: Circuit, work: Work, x: Floats, far: Floats, turn: bool) -> bool:
    """How far decisions at x are from turning, into `far`; with `turn` those that are beyond turn. Is any beyond?"""
    if work.states == 0:
        return False
    fill(far, work.states, np.inf)
    work.options[MARCHING] = 1.0
    for k in range(circuit.families):
        head, code = at(circuit.heads, HEAD * k), circuit.code[KERNELS * k + WATCH]
        if code != 0:
            call_watch(code, head, circuit.table, work.derived, work.options, work.state, x, turn, far)
    beyond = False
    for k in range(work.states):
        beyond = beyond or far[k] < 0.0
    return beyond


@kernel
def turn(circuit: Circuit, work: Work, past: Floats, x: Floats) -> None:
    """Let all decisions turn that are beyond, and keep them so."""
    far = distances(past, circuit.n, circuit.nnz, work.states, NEW_FAR)
    peak = distances(past, circuit.n, circuit.nnz, work.states, PEAK)
    watch(circuit, work, x, far, True)
    for k in range(work.states):
        if far[k] < 0.0:
            past[TURNED] += 1.0
            peak[k] = 0.0
    copy(work.state, work.good_state, work.states)


@kernel
def first_turn(circuit: Circuit, work: Work, past: Floats) -> tuple[float, float]:
    """At which part of the step the first decision turned, along straight lines, and where it was far enough beyond.

    That is at once where it had been far before. A decision that turns to and fro without ever going far (one whose
    effect drives it back at once) has to be some way beyond, or nothing would go on.
    """
    n, nnz, states = circuit.n, circuit.nnz, work.states
    far, new = distances(past, n, nnz, states, FAR), distances(past, n, nnz, states, NEW_FAR)
    peak, top = distances(past, n, nnz, states, PEAK), distances(past, n, nnz, states, TOP)
    first, beyond = 1.0, 1.0
    for k in range(states):
        # One that has been beyond since the last point found no rest there, and waits for the end of this step.
        waits = past[RESTLESS] != 0.0 and far[k] < -CHATTER * top[k]
        if new[k] < 0.0 and not waits:
            way = max(far[k], 0.0) - new[k]
            slack = CHATTER * top[k] if peak[k] < CHATTER * top[k] else 0.0
            first = min(first, max(far[k], 0.0) / way)
            beyond = min(beyond, (max(far[k], 0.0) + slack) / way)
    return first, beyond


@kernel
def note_distances(circuit: Circuit, work: Work, past: Floats, known: bool) -> None:
    """How far decisions are from turning at the last accepted point (in NEW_FAR where `known`), and have been."""
    n, nnz, states = circuit.n, circuit.nnz, work.states
    far = distances(past, n, nnz, states, FAR)
    peak, top = distances(past, n, nnz, states, PEAK), distances(past, n, nnz, states, TOP)
    if known:
        copy(distances(past, n, nnz, states, NEW_FAR), far, states)
    else:
        watch(circuit, work, vector(past, n, X), far, False)
    for k in range(states):
        if far[k] < np.inf:
            peak[k] = max(peak[k], far[k])
            top[k] = max(top[k], abs(far[k]))
