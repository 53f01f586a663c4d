"""Diode clamps of any sharpness in time, against scipy.integrate at a tolerance of 1e-10."""

from __future__ import annotations

import math
from functools import cache

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from tests.core.analyses.in_time import trace, worst
from verdad_core.arrays import Floats

#: kT/q at 27 °C (CODATA 2018).
VT = 1.380649e-23 * 300.15 / 1.602176634e-19

SATURATION, FREQUENCY, OHMS = 1e-12, 1e4, 1e3

#: Parts of the swing that the error may be, in units of the relative tolerance: errors of some steps add up.
PARTS = 4.0


@cache
def error(emission: float, swing: float, level: float, farads: float, relative: float) -> float:
    """The largest error of a period of a sine that two clamps cut."""
    text = (
        f"v1 in 0 sin(0 {swing} {FREQUENCY})\nr1 in a {OHMS}\nc1 a 0 {farads}\nvp p 0 {level}\nvm m 0 {-level}\n"
        f"d1 a p d\nd2 m a d\n.model d d(is={SATURATION} n={emission})"
    )
    found = trace(text, 1.0 / FREQUENCY, ["a"], relative)
    knee = emission * VT

    def clamped(v: float) -> tuple[float, float]:
        up, down = (SATURATION * math.exp(min(side * v - level, 80.0 * knee) / knee) for side in (1.0, -1.0))
        return up - down + 2e-12 * v, (up + down) / knee + 2e-12

    def rates(t: float, y: Floats) -> list[float]:
        return [((swing * math.sin(2.0 * math.pi * FREQUENCY * t) - y[0]) / OHMS - clamped(y[0])[0]) / farads]

    def slopes(_: float, y: Floats) -> list[list[float]]:
        return [[-(1.0 / OHMS + clamped(y[0])[1]) / farads]]

    exact = solve_ivp(rates, (0.0, found.time[-1]), [0.0], "Radau", found.time, jac=slopes, rtol=1e-10, atol=1e-12)
    return worst(found, exact.y[0])


@given(
    st.sampled_from((0.001, 0.003, 0.01, 0.1, 1.0)), st.sampled_from((2.0, 17.0, 100.0)), st.floats(0.2, 0.8),
    st.sampled_from((1e-9, 3e-9, 1e-8)), st.sampled_from((4e-3, 1e-3, 2e-4)),
)  # fmt: skip
@settings(max_examples=8, deadline=None)
def test_the_error_of_a_clamp_is_what_is_asked_for_and_halving_it_helps(
    emission: float, swing: float, part: float, farads: float, relative: float
) -> None:
    level = round(part * swing, 3)
    asked = PARTS * relative * swing
    first, second = (error(emission, swing, level, farads, tolerance) for tolerance in (relative, relative / 2.0))
    assert first <= asked
    assert second <= max(first, asked / 2.0)


def test_a_sharp_clamp_is_no_worse_than_a_blunt_one() -> None:
    """What a straight-line clamp (N = 0.001) on 17 V was left wrong by: half a volt."""
    errors = [error(emission, 17.0, 12.0, 1e-8, 1e-3) for emission in np.geomspace(0.001, 1.0, 4)]
    assert max(errors) < PARTS * 1e-3 * 17.0
