"""Waves on lines: what is remembered of them, what arrives, and where their corners come out."""

from __future__ import annotations

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.devices.base import HEAD, call_recall, call_remember
from verdad_core.devices.waveforms import SAME
from verdad_core.devices.waves import CORNER as WAVE_CORNER
from verdad_core.devices.waves import WAVE
from verdad_core.engine.circuit import Circuit, Work
from verdad_core.engine.load import KERNELS, RECALL, REMEMBER
from verdad_core.engine.past import AT, NATURAL, NOW, RELATIVE, VOLTS, X, vector
from verdad_core.jit import at, kernel

#: Arrivals on lines that can wait at once.
ARRIVALS = 256


@kernel
def remember(
    circuit: Circuit, work: Work, past: Floats, waves: Floats, row: int, width: int, corner: bool, delays: Floats
) -> None:
    """The waves at the last accepted point, into a row."""
    wave = at(waves, row * width)
    wave[0], wave[WAVE_CORNER] = past[NOW], 1.0 if corner else 0.0
    for k in range(circuit.families):
        code = circuit.code[KERNELS * k + REMEMBER]
        if code != 0:
            call_remember(
                code, at(circuit.heads, HEAD * k), circuit.table, work.derived, vector(past, circuit.n, X),
                at(wave, WAVE), delays,
            )  # fmt: skip


@kernel
def recall(circuit: Circuit, work: Work, past: Floats, waves: Floats, rows: int, width: int) -> None:
    """What arrives on lines at the point that is tried."""
    for k in range(circuit.families):
        code = circuit.code[KERNELS * k + RECALL]
        if code != 0:
            call_recall(code, at(circuit.heads, HEAD * k), circuit.table, work.derived, past[AT], waves, rows, width)


@kernel
def note_arrivals(past: Floats, waves: Floats, rows: int, width: int, arrivals: Floats) -> None:
    """Note when the corner before the last two rows arrives at the far ends of lines, where it can be seen there.

    It can where the wave left its straight line by more than is tolerated within a natural step or the line's delay.
    """
    last, corner, before = at(waves, (rows - 1) * width), at(waves, (rows - 2) * width), at(waves, (rows - 3) * width)
    short, delays = last[0] - corner[0], at(arrivals, ARRIVALS)
    for w in range(width - WAVE):
        slope = (corner[WAVE + w] - before[WAVE + w]) / (corner[0] - before[0]) if rows > 2 else 0.0
        left = abs(last[WAVE + w] - corner[WAVE + w] - slope * short) / short * min(past[NATURAL], delays[w])
        if left <= past[RELATIVE] * abs(last[WAVE + w]) + past[VOLTS]:
            continue
        instant = corner[0] + delays[w]
        place = -1
        for k in range(ARRIVALS):
            if abs(arrivals[k] - instant) <= SAME * instant:
                place = k
                break
            if arrivals[k] == np.inf:
                place = k
        if place >= 0:
            arrivals[place] = instant
