"""Frequencies for a response whose poles and zeros are known: crowded where it is narrow.

A resonance of quality Q is 1/Q of its frequency wide, so an even grid passes it by: its peak is missed, and what is
integrated over it too.
"""

from __future__ import annotations

import math

import numpy as np

from verdad_core.arrays import Complexes, Floats

#: A pole pair is lightly damped where its damping is below this (Q above 0.71: its response has a peak).
LIGHT = 1.0 / math.sqrt(2.0)

#: Points on each side of a resonance, from this part of its half width on, to where it has become wide.
A_SIDE, FIRST = 60, 0.03

#: Of very many resonances only so many are crowded around.
MOST = 200


def light(roots: Complexes) -> Complexes:
    """Those of poles or zeros (rad/s) that make a response narrow, one of each pair."""
    return np.asarray(roots[(roots.imag > 0.0) & (np.abs(roots.real) < LIGHT * np.abs(roots))][:MOST])


def crowded(frequency: Floats, roots: Complexes) -> Floats:
    """`frequency` [F], in rising order, with more points within its ends around lightly damped `roots` (rad/s)."""
    narrow = light(roots)
    if not len(narrow) or len(frequency) < 2:
        return frequency
    parts = [frequency]
    for root in narrow:
        size, damping = abs(root), abs(root.real) / abs(root)
        # Where the response of a pole pair peaks: w0 sqrt(1 - 2 d²).
        peak = size * math.sqrt(max(1.0 - 2.0 * damping * damping, 0.0)) / (2.0 * math.pi)
        middle, half = size / (2.0 * math.pi), max(damping, 1e-9) * size / (2.0 * math.pi)
        away = half * np.geomspace(FIRST, max(0.5 * middle / half, 2.0 * FIRST), A_SIDE)
        parts += [np.array([middle, peak]), peak - away, peak + away]
    points = np.unique(np.concatenate(parts))
    inside = points[(points >= frequency[0]) & (points <= frequency[-1])]
    # What is the same but for rounding is one point, and the grid's own stay.
    own = np.isin(inside, frequency)
    apart = np.concatenate([[True], np.diff(inside) > 1e-12 * inside[1:]])
    return np.asarray(inside[own | apart])
