"""Devices' noise in time: currents drawn at equal intervals, straight lines between them.

White noise of density S (A²/Hz) is drawn with variance S / (2 interval), which has density S up to about a third of
1 / interval. Flicker noise K / f^a is the sum of processes with one time constant each, a factor of four apart, from
the interval to the whole run (a superposition of Lorentzians; van der Ziel, "On the noise spectra of semi-conductor
noise and of flicker effect", Physica 16, 1950). Densities follow the voltages and currents from drawing to drawing.
"""

from __future__ import annotations

import math

import numpy as np

from verdad_core.arrays import Floats
from verdad_core.devices.waveforms import GAUSSIAN, draw
from verdad_core.engine.circuit import Circuit, Work, copy, fill
from verdad_core.engine.load import noise_densities
from verdad_core.engine.past import DRAWN, DUE, GRAIN, INTERVAL, NEXT_GRAIN, SEED, X, vector
from verdad_core.jit import kernel, pointer

#: The factor between the time constants of flicker noise.
APART = 4.0


def grain_room(mechanisms: int, interval: float, stop: float) -> Floats:
    """What is kept between drawings: densities [mechanisms, 3], then flicker processes
    [time constants, mechanisms].
    """
    constants = 2 + int(math.log(max(stop / interval, 1.0)) / math.log(APART))
    return np.zeros((3 + constants, mechanisms))


@kernel
def draw_noise(circuit: Circuit, work: Work, past: Floats, kept: Floats) -> None:
    """The currents of the drawing that is due become the last ones; the next ones are drawn."""
    n, interval, seed = circuit.n, past[INTERVAL], past[SEED]
    mechanisms, constants = kept.shape[1], kept.shape[0] - 3
    grain = vector(past, n, NEXT_GRAIN)
    copy(grain, vector(past, n, GRAIN), n)
    fill(grain, n + 1, 0.0)
    densities = pointer(kept)
    noise_densities(circuit, work, vector(past, n, X), 0.0, densities)
    count = np.int64(past[DRAWN])
    for m in range(mechanisms):
        white, flicker, exponent = densities[3 * m], densities[3 * m + 1], densities[3 * m + 2]
        number = (count * mechanisms + m) * (1 + constants)
        current = math.sqrt(0.5 * white / interval) * draw(GAUSSIAN, seed, number)
        if flicker > 0.0:
            for k in range(constants):
                corner = 1.0 / (2.0 * math.pi * interval * APART ** (k + 0.5))
                stay = math.exp(-2.0 * math.pi * corner * interval)
                fresh = draw(GAUSSIAN, seed, number + 1 + k)
                state = kept[3 + k, m]
                state = stay * state + math.sqrt(1.0 - stay * stay) * fresh if count > 0 else fresh
                kept[3 + k, m] = state
                current += math.sqrt(flicker * math.log(APART) * corner ** (1.0 - exponent)) * state
        grain[circuit.noise[2 * m]] += current
        grain[circuit.noise[2 * m + 1]] -= current
    past[DRAWN] += 1.0
    past[DUE] += interval
