"""The transient against scipy.integrate on equations written by hand, at tight tolerances."""

import math
from collections.abc import Callable
from itertools import pairwise

import numpy as np
import pytest
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from tests.core.analyses.in_time import trace
from verdad_core.analyses.transient import Start
from verdad_core.arrays import Floats

#: kT/q at 27 °C (CODATA 2018).
VT = 1.380649e-23 * 300.15 / 1.602176634e-19


def reference(rates: Callable[[float, Floats], list[float]], start: list[float], stop: float, corners: list[float],
              times: Floats) -> Floats:  # fmt: skip
    """Radau's solution at `times` [states, T], started anew at every corner."""
    found, state = [], np.array(start)
    edges = [0.0, *corners, stop]
    for low, high in pairwise(edges):
        here = times[(times >= low) & (times < high)] if high < stop else times[times >= low]
        asked = np.union1d(here, [high])
        run = solve_ivp(rates, (low, high), state, "Radau", asked, rtol=1e-9, atol=1e-12)
        found.append(run.y[:, np.searchsorted(asked, here)])
        state = run.y[:, -1]
    return np.concatenate(found, axis=1)


def diode(v: float, saturation: float = 1e-14, emission: float = 1.0) -> float:
    return saturation * math.expm1(min(v / (emission * VT), 80.0)) + 1e-12 * v


def test_a_diode_clamp() -> None:
    def rates(t: float, y: Floats) -> list[float]:
        return [((5 * math.sin(2e4 * math.pi * t) - y[0]) / 1e3 - diode(y[0])) / 1e-9]

    times = np.linspace(0, 200e-6, 500)
    exact = reference(rates, [0.0], 200e-6, [], times)
    found = trace(
        "v1 in 0 sin(0 5 10k)\nr1 in a 1k\nd1 a 0 d\nc1 a 0 1n\n.model d d(is=1e-14)", 200e-6, ["a"], times=times
    )
    # Within 1e-3 of the 5 V swing.
    assert found.values[0] == pytest.approx(exact[0], abs=5e-3)


def test_a_rectifier_with_its_ripple() -> None:
    def current(t: float, out: float) -> float:
        volts = 10 * math.sin(2 * math.pi * 50 * t)
        return float(brentq(lambda i: i - diode(volts - out - 0.5 * i, 1e-9, 1.5), -1e-3, 40.0, xtol=1e-12))

    def rates(t: float, y: Floats) -> list[float]:
        return [(current(t, y[0]) - y[0] / 100) / 470e-6]

    times = np.linspace(0, 60e-3, 300)
    exact = reference(rates, [0.0], 60e-3, [], times)
    text = "v1 in 0 sin(0 10 50)\nrs in a 0.5\nd1 a out d\nc1 out 0 470u\nr1 out 0 100\n.model d d(is=1e-9 n=1.5)"
    found = trace(text, 60e-3, ["out"], times=times)
    assert found.values[0] == pytest.approx(exact[0], abs=1e-2)


def test_an_op_amp_that_slews() -> None:
    """The built-in op-amp as follower: its equations are the tanh stage, the second pole and the output's tanh."""
    gain, gbw, pole2, slew, cc = 1e5, 1e6, 5e6, 1e6, 1e-9
    gm, tail = 2 * math.pi * gbw * cc, slew * cc

    def rates(t: float, y: Floats) -> list[float]:
        g, p, out = y
        step = 4.0 if t > 1e-6 else 0.0
        limited = min(max(p, -14.9), 14.9)
        into = 20e-3 * math.tanh((limited - out) / (100 * 20e-3))
        return [
            (tail * math.tanh(gm * (step - out) / tail) - g * gm / gain) / cc,
            2 * math.pi * pole2 * (g - p),
            (into - out / 2e3 - (out - step) / 1e12) / 1e-9,
        ]

    times = np.linspace(0, 12e-6, 400)
    exact = reference(rates, [0.0, 0.0, 0.0], 12e-6, [1e-6], times)
    text = (
        "vp vp 0 15\nvn vn 0 -15\nv1 in 0 pulse(0 4 1u 1p 1p 1)\nx1 in out vp vn out opamp cin=0\n"
        "r1 out 0 2k\nc1 out 0 1n"
    )
    found = trace(text, 12e-6, ["out"], 1e-4, times=times)
    # rmid and the clamps' leakage are not in the equations by hand: 1e-3 of the step.
    assert found.values[0] == pytest.approx(exact[2], abs=8e-3)
    slope = np.gradient(found.values[0], times)
    # Slewing is that of the compensation capacitor, tail / cc (Boyle et al. 1974), times the divider of 100 and 2k.
    assert slope.max() == pytest.approx(slew * 2000 / 2100, rel=0.02)


def test_a_relaxation_oscillator() -> None:
    """Period of an RC between two thresholds, 2 RC ln((1 + b) / (1 - b)) (any text on the astable multivibrator)."""
    text = (
        "v1 p 0 5\nv2 n 0 -5\ns1 p out up 0 s on\ns2 n out up 0 t\n"
        "bup up 0 v=v(ref)-v(c)\nra out ref 10k\nrb ref 0 10k\nr1 out c 10k\nc1 c 0 10n ic=0\ncl ref 0 1f\n"
        ".model s sw(vt=0 vh=0 ron=1 roff=1g)\n.model t sw(vt=0 vh=0 ron=1g roff=1)"
    )
    found = trace(text, 2e-3, ["c"], 1e-4, start=Start.CONDITIONS)
    v, t = found.values[0], found.time
    rising = np.flatnonzero((v[:-1] < 0) & (v[1:] >= 0))
    crossings = t[rising] - v[rising] * np.diff(t)[rising] / np.diff(v)[rising]
    assert np.diff(crossings) == pytest.approx(2 * 1e-4 * math.log(3), rel=1e-3)


def clipped(value: float, most: float) -> float:
    return min(max(value, -most), most)


def test_a_clamp_of_straight_lines_lets_go_at_once() -> None:
    """Within a millivolt its slope is another one, a hundred thousand times smaller: Newton's last step, though it is
    far below the tolerance, may lead across that corner.
    """

    def rates(t: float, y: Floats) -> list[float]:
        into = clipped(1e-3 * (20 * math.sin(2 * math.pi * 50 * t) - y[0]), 160e-6)
        return [(into - (y[0] - clipped(y[0], 12))) / 1e-9]

    found = trace(
        "vi i 0 sin(0 2 50)\ng1 0 a value={limit(1m*(10*v(i)-v(a)),-160u,160u)}\nc1 a 0 1n\n"
        "g2 a 0 value={v(a)-limit(v(a),-12,12)}",
        20e-3, ["a"],
    )  # fmt: skip
    # Radau sees no corners: without a longest step it would pass over them.
    exact = solve_ivp(rates, (0, 20e-3), [0.0], "Radau", found.time, rtol=1e-8, atol=1e-8, max_step=5e-6).y[0]
    # Within 1e-3 of the 12 V.
    assert found.values[0] == pytest.approx(exact, abs=12e-3)


@pytest.mark.parametrize("relative", [1e-3, 1e-5])
@pytest.mark.parametrize("frequency", [176.6, 206.8, 230.9, 303.4, 363.8])
def test_a_slew_between_two_long_steps_is_not_passed_over(frequency: float, relative: float) -> None:
    """An amplifier goes from rail to rail in less than a longest step, and both ends of that look like rest."""
    tail, gm, b, knee = 627e-6, 3.14e-3, 1 / 178, 100e-6

    def rates(t: float, y: Floats) -> list[float]:
        across = 1.5 * math.sin(2 * math.pi * frequency * t) - b * y[0]
        return [(tail * math.tanh(gm * across / tail) - tail / knee * (y[0] - clipped(y[0], 11.9 - knee))) / 1e-9]

    found = trace(
        f"vi i 0 sin(0 1.5 {frequency})\ng1 0 a value={{{tail}*tanh({gm / tail}*(v(i)-{b}*v(a)))}}\nc1 a 0 1n\n"
        f"g2 a 0 value={{{tail / knee}*(uramp(v(a)-{11.9 - knee})-uramp({knee - 11.9}-v(a)))}}",
        10e-3, ["a"], relative,
    )  # fmt: skip
    exact = solve_ivp(rates, (0, 10e-3), [0.0], "LSODA", found.time, rtol=1e-8, atol=1e-8, max_step=1e-5).y[0]
    assert np.max(np.abs(np.diff(found.values[0]))) < 6
    # On slopes of 0.6 V a microsecond: 5e-5 of the period.
    assert found.values[0] == pytest.approx(exact, abs=0.12)


@pytest.mark.parametrize(("amplifier", "knee", "within"), [("opamp", 20e-3, 5e-4), ("sharp", 100e-6, 1e-3)])
def test_an_op_amp_that_oscillates_between_its_rails_keeps_its_period(
    amplifier: str, knee: float, within: float
) -> None:
    """An op-amp as astable multivibrator, the built-in one and one with a sharper clamp. That conducts steeply and lets
    go at once, between two long steps; each half period depends on when it does. The plain trapezoidal rule swings
    around the clamp's voltage by a part of the tolerance, over its corner and back.
    """
    gain, gbw, pole2, slew, cc = 1e5, 10e6, 5e6, 10e6, 1e-9
    gm, tail = 2 * math.pi * gbw * cc, slew * cc
    r1, r2, r3, c1, c2 = 85e3, 10e3, 79e3, 22e-9, 100e-12

    def rates(t: float, y: Floats) -> list[float]:
        g, p, out, m = y
        into = 20e-3 * math.tanh((p - out) / (100 * 20e-3))
        clamped = tail / knee * (g - clipped(g, 11.9 - knee))
        return [
            (tail * math.tanh(gm * (out * r2 / (r1 + r2) - m) / tail) - g * gm / gain - clamped) / cc,
            2 * math.pi * pole2 * (g - p),
            (into - out / (r1 + r2) - (out - m) / r3) / c2,
            (out - m) / (r3 * c1),
        ]

    def rises(t: float, y: Floats) -> float:
        return float(y[2])

    rises.direction = 1.0  # type: ignore[attr-defined]
    exact = solve_ivp(rates, (0, 5e-3), [0.0, 0.0, 0.0, 1.0], "Radau", events=rises, rtol=1e-7, atol=1e-9)
    assert exact.t_events is not None
    period = float(np.diff(exact.t_events[0])[-1])
    # The textbook's, without what slewing and the clamp add to each half.
    b = r2 / (r1 + r2)
    assert period == pytest.approx(2 * r3 * c1 * math.log((1 + b) / (1 - b)), rel=0.02)
    found = trace(
        f"vp vp 0 12\nvn vn 0 -12\nx1 p m vp vn out {amplifier} gbw={gbw} slew={slew} cin=0\nr1 out p {r1}\n"
        f"r2 p 0 {r2}\nr3 out m {r3}\nc1 m 0 {c1} ic=1\nc2 out 0 {c2}\n"
        ".subckt sharp inp inn vcc vee out gbw=1 slew=1 cin=0\n.param gm={2*pi*gbw*1n} tail={slew*1n}\n"
        "gin 0 g value={tail*tanh(gm*v(inp,inn)/tail)}\nrg g 0 {1e5/gm}\ncg g 0 1n\n"
        f"gk g 0 value={{(tail/{knee})*(uramp(v(g)-11.9+{knee})-uramp(-11.9+{knee}-v(g)))}}\n"
        "g2 0 q g 0 1m\nr2 q 0 1k\nc2 q 0 {1/(2*pi*1k*5meg)}\ngo 0 out value={20m*tanh(v(q,out)/2)}\n.ends",
        10e-3, ["out"], start=Start.CONDITIONS,
    )  # fmt: skip
    assert found.counts is not None
    assert found.counts.steps < 3000
    v, t = found.values[0], found.time
    rising = np.flatnonzero((v[:-1] < 0) & (v[1:] >= 0))
    crossings = t[rising] - v[rising] * np.diff(t)[rising] / np.diff(v)[rising]
    assert len(crossings) > 10
    assert np.diff(crossings) == pytest.approx(period, rel=within)


def test_a_step_down_converter() -> None:
    """States: current of the inductor and voltage of the capacitor; the switch is ideal but for its resistances."""
    period, on = 4e-6, 1.5e-6

    def rates(t: float, y: Floats) -> list[float]:
        high, low = (0.05, 1e6) if (t % period) < on else (1e6, 0.05)
        current, volts = y
        # i = (12 - x) / high - x / low
        x = (12 / high - current) / (1 / high + 1 / low)
        out = (volts + 0.01 * current) / (1 + 0.01 / 3)
        return [(x - out) / 10e-6, (current - out / 3) / 47e-6]

    stop = 60 * period
    corners = sorted([k * period for k in range(1, 60)] + [k * period + on for k in range(60)])
    times = np.linspace(0, stop, 1200, endpoint=False)[1:] + 1.7e-8
    exact = reference(rates, [0.0, 0.0], stop, corners, times)
    text = (
        f"vin in 0 12\nvg g 0 pulse(0 1 0 0 0 {on} {period})\ns1 in x g 0 s\ns2 x 0 g 0 t\nl1 x out 10u\n"
        "c1 out e 47u\nre e 0 10m\nr1 out 0 3\n.model s sw(vt=0.5 ron=50m roff=1meg)\n"
        ".model t sw(vt=0.5 ron=1meg roff=50m)"
    )
    found = trace(text, stop, ["i(l1)"], times=times, start=Start.COLD)
    # 1e-3 of the largest current.
    assert found.values[0] == pytest.approx(exact[0], abs=2e-3 * np.max(exact[0]))
