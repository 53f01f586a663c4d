"""Cases in time: the transient against scipy.integrate at equal accuracy, growth with size, rows, steady state."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Literal

import numpy as np
from scipy.integrate import solve_ivp

from bench.case import Case, circuit_of, in_turn
from verdad_core.analyses.ac import ac
from verdad_core.analyses.marcher import Accuracy
from verdad_core.analyses.periodic import steady_state
from verdad_core.analyses.transient import Start, transient
from verdad_core.arrays import Floats
from verdad_core.engine.matrix import ParameterMatrix

Method = Literal["LSODA", "BDF"]

PERIOD, ON, EDGE, STOP = 1e-3 / 300, 1.2e-6, 20e-9, 1e-3

#: A step-down converter at 300 kHz with a diode, and the same with a capacitance at the switch.
CONVERTER = (
    f"vin in 0 12\nvg g 0 pulse(0 5 0 {EDGE} {EDGE} {ON} {PERIOD})\ns1 in x g 0 sw\nd1 0 x d\nl1 x out 10u\n"
    "c1 out e 47u\nre e 0 10m\nr1 out 0 3\n.model sw vswitch(ron=50m roff=1meg von=4 voff=1)\n.model d d(is=1e-9 n=1.1)"
)
FULL = CONVERTER + "\ncx x 0 100p"
#: What both sides of a comparison have to reach, relative to the largest value.
WITHIN = 2e-3

VT = 1.1 * 1.380649e-23 * 300.15 / 1.602176634e-19


def _gate(t: float) -> float:
    t = t % PERIOD
    if t < EDGE:
        return 5 * t / EDGE
    return 5.0 if t < EDGE + ON else max(0.0, 5 * (2 * EDGE + ON - t) / EDGE)


def _switch(t: float) -> float:
    u = min(max((_gate(t) - 1) / 3, 0.0), 1.0)
    off, on = math.log(1e6), math.log(50e-3)
    return math.exp(-(off + (on - off) * u * u * (3 - 2 * u)))


def _diode(v: float) -> float:
    return 1e-9 * math.expm1(min(v / VT, 200.0)) + 1e-12 * v


def _reduced(t: float, y: Floats) -> list[float]:
    """Two states; the switch node from g (12 - x) + i(-x) = i(L), which rises steadily in -x: Newton from above."""
    current, volts = y
    g = _switch(t)
    x = 12 - current / g
    if x < -0.3:
        v = VT * math.log(max(current, 0.0) / 1e-9 + 1.0) + 0.01
        for _ in range(30):
            slope = (1e-9 / VT) * math.exp(min(v / VT, 200.0)) + 1e-12 + g
            step = (g * (12 + v) + _diode(v) - current) / slope
            v -= step
            if abs(step) < 1e-9:
                break
        x = -v
    out = (volts + 0.01 * current) / (1 + 0.01 / 3)
    return [(x - out) / 10e-6, (current - out / 3) / 47e-6]


def _whole(t: float, y: Floats) -> list[float]:
    """Three states: the switch node has 100 pF."""
    x, current, volts = y
    out = (volts + 0.01 * current) / (1 + 0.01 / 3)
    into = _switch(t) * (12 - x) + _diode(-x) - current
    return [into / 100e-12, (x - out) / 10e-6, (current - out / 3) / 47e-6]


def _opamp(t: float, y: Floats) -> list[float]:
    """The built-in op-amp as follower at a step of 4 V, in its own equations."""
    g, p, out = y
    step = 4.0 if t > 1e-6 else 0.0
    into = 20e-3 * math.tanh((min(max(p, -14.9), 14.9) - out) / 2.0)
    gm = 2 * math.pi * 1e-3
    return [
        (1e-3 * math.tanh(gm * (step - out) / 1e-3) - g * gm / 1e5) / 1e-9,
        2 * math.pi * 5e6 * (g - p),
        (into - out / 2e3) / 1e-9,
    ]


OPAMP = (
    "vp vp 0 15\nvn vn 0 -15\nv1 in 0 pulse(0 4 1u 1p 1p 1)\nx1 in out vp vn out opamp cin=0\nr1 out 0 2k\nc1 out 0 1n"
)


def _equally_accurate(
    name: str, text: str, output: str, rates: Callable[[float, Floats], list[float]], method: Method,
    start: list[float], index: int, stop: float, longest: float, cold: bool,
) -> Case:  # fmt: skip
    """Both at the loosest tolerances with which each is within 0.2 % of the largest value, at every step it takes.

    The absolute ones, in V and A, are a thousandth of the relative one on both sides.
    """
    tight = solve_ivp(rates, (0, stop), start, "Radau", dense_output=True, rtol=1e-8, atol=1e-10, max_step=longest)
    exact = tight.sol
    assert exact is not None
    largest = np.max(np.abs(exact(np.linspace(0, stop, 2001))[index]))
    circuit = circuit_of(text)
    begin = Start.COLD if cold else Start.OPERATING_POINT

    def own(relative: float) -> tuple[Floats, Floats]:
        accuracy = Accuracy(relative, 1e-3 * relative, 1e-3 * relative)
        found = transient(circuit, stop, [(output, "0")], longest=longest, accuracy=accuracy, start=begin).require()
        return found.time, found.values[0]

    def scipy(relative: float) -> tuple[Floats, Floats]:
        # SciPy's methods see no corners: without a longest step they pass over whole pulses.
        found = solve_ivp(rates, (0, stop), start, method, rtol=relative, atol=1e-3 * relative, max_step=longest)
        return found.t, found.y[index]

    def loosest(solve: Callable[[float], tuple[Floats, Floats]]) -> tuple[float, float]:
        for relative in np.geomspace(0.1, 1e-7, 61).tolist():
            t, values = solve(relative)
            error = float(np.max(np.abs(values - exact(t)[index]))) / largest if t[-1] == stop else np.inf
            if error < WITHIN:
                return relative, error
        raise RuntimeError(f"{name}: no tolerance is accurate enough")

    (mine, error), (theirs, other) = loosest(own), loosest(scipy)
    return Case(
        f"{name}, relative tolerance {mine:.1g}, error {error:.1e}",
        f"{method} at {theirs:.1g}, error {other:.1e}",
        lambda: own(mine),
        lambda: scipy(theirs),
    )


def cases() -> Iterator[Case]:
    """The cases one by one, as preparing them takes time too."""
    yield _equally_accurate(
        "first millisecond of a switching converter", CONVERTER, "i(l1)", _reduced, "LSODA", [0.0, 0.0], 0, STOP,
        PERIOD / 10, True,
    )  # fmt: skip
    yield _equally_accurate(
        "first 50 µs of the converter with all nodes", FULL, "i(l1)", _whole, "BDF", [0.0, 0.0, 0.0], 1, 50e-6,
        PERIOD / 10, True,
    )  # fmt: skip
    yield _equally_accurate(
        "step of an op-amp macro model", OPAMP, "out", _opamp, "BDF", [0.0, 0.0, 0.0], 2, 12e-6, 0.3e-6, False
    )
    circuit = circuit_of(CONVERTER)
    rows = 1000
    matrix = ParameterMatrix.varied(
        circuit, {("r1", "resistance"): np.random.default_rng(1).uniform(2.5, 3.5, rows)}
    )  # fmt: skip
    times = np.linspace(0, STOP, 500)
    yield Case(
        f"{rows} rows of the converter's first millisecond, both cores",
        "one row times their number by the cores",
        lambda: transient(circuit, STOP, [("out", "0")], matrix=matrix, times=times, start=Start.COLD),
        lambda: transient(circuit, STOP, [("out", "0")], times=times, start=Start.COLD),
        rows / 2,
    )
    slow = circuit_of(CONVERTER.replace("47u", "220u"))
    yield Case(
        "periodic steady state of the converter, output capacitor of 200 periods",
        "the transient run until it is periodic",
        lambda: steady_state(slow, PERIOD),
        lambda: steady_state(slow, PERIOD, extrapolate=False, most=5000),
    )


#: Nodes of the small and the large ladder; steps and frequencies of a short and a long run.
SMALL, LARGE = 100, 10_000
STEPS, POINTS = (100, 400), (32, 512)


def growth() -> None:
    """How costs grow from a ladder of 100 nodes to one of 10,000."""
    took = in_turn(*_ladder_runs(SMALL), *_ladder_runs(LARGE))
    (step, point, _), (large_step, large_point, before) = _costs(took[:4], SMALL), _costs(took[4:], LARGE)
    for what, small, large in (("transient step", step, large_step), ("AC point", point, large_point)):
        grown = large / small / (LARGE / SMALL)
        print(f"ladder of 10,000 nodes, {what}\n    {large * 1e6:.0f} µs; {grown:.2f} times 100 of those of 100 nodes")
    print(f"    before the first step (operating point, two orderings): {before:.2f} s")


def _ladder_runs(sections: int) -> list[Callable[[], object]]:
    """A short and a long transient, and as many AC points.

    They are repeated so often that both sizes take about as long: differences are not lost in the clock's noise.
    """
    cards = [f"r{k} n{k} n{k + 1} 1\nc{k} n{k + 1} 0 1n" for k in range(sections)]
    circuit = circuit_of("v1 n0 0 ac 1 pulse(0 1 0 1n 1n 1 2)\n" + "\n".join(cards))
    output, frequency, times = [(f"n{sections}", "0")], np.linspace(1e3, 1e6, POINTS[1]), range(LARGE // sections)

    def steps(count: int) -> Callable[[], object]:
        return lambda: [transient(circuit, count * 1e-9, output, longest=1e-9) for _ in times]

    def points(count: int) -> Callable[[], object]:
        return lambda: [ac(circuit, frequency[:count], output) for _ in times]

    return [steps(count) for count in STEPS] + [points(count) for count in POINTS]


def _costs(took: list[float], sections: int) -> tuple[float, float, float]:
    """Seconds of a transient step, of an AC point, and of what comes before the first step."""
    few, many, one, more = (seconds / (LARGE // sections) for seconds in took)
    step = (many - few) / (STEPS[1] - STEPS[0])
    return step, (more - one) / (POINTS[1] - POINTS[0]), few - STEPS[0] * step
