"""Circuits as boards have them, with values drawn over decades: the usual tolerance gives what a tight one gives."""

import math
from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.circuits import structure
from verdad_core.analyses.marcher import Accuracy
from verdad_core.analyses.transient import transient

MODELS = (
    ".model ds d(is=2n n=1.9 rs=0.6 cjo=2p tt=5n)\n.model dp d(is=10n n=1.05 rs=30m cjo=100p)\n"
    ".model dz d(is=1p n=1.2 rs=2 bv=5.1 ibv=1m cjo=80p)\n"
    ".model qn npn(is=10f bf=200 vaf=80 cje=10p cjc=4p tf=0.4n tr=50n rb=20 re=0.2)\n"
    ".model qp pnp(is=10f bf=150 vaf=60 cje=10p cjc=5p tf=0.6n tr=80n rb=20 re=0.2)\n"
    ".model mn vnmos(vto=2 kp=20 cgs=800p cgdmax=400p cgdmin=40p cjo=300p rg=1 rd=10m)\n"
    ".model mp vpmos(vto=-2 kp=10 cgs=900p cgdmax=500p cgdmin=60p cjo=400p rg=2 rd=30m)\n"
    ".model sr sw(vt=6 vh=2 ron=0.1 roff=1g)\n"
)
SUPPLIES = "vp vp 0 12\nvn vn 0 -12\n"

#: A number from low to high, drawn by its logarithm.
Draw = Callable[[float, float], float]

#: A netlist, how long it runs (s), and what is looked at.
Board = tuple[str, float, list[str]]


def low_pass(u: Draw) -> Board:
    r, c = u(1e3, 1e5), u(1e-10, 1e-7)
    return (
        f"vi i 0 pulse(-{u(0.01, 3)} {u(0.01, 5)} {r * c} 10n 10n {20 * r * c} {40 * r * c})\nr1 i a {r}\n"
        f"r2 a b {r * u(0.3, 3)}\nc1 a o {c * u(0.5, 5)}\nc2 b 0 {c}\nx1 b o vp vn o opamp gbw=10meg slew=5meg",
        60 * r * c, ["o"],
    )  # fmt: skip


def push_pull(u: Draw) -> Board:
    return (
        f"vi i 0 sin(0 {u(0.1, 8)} {u(100, 2e4)})\nx1 i o vp vn d opamp gbw=5meg slew=5meg\nd1 b1 d ds\nd2 d b2 ds\n"
        f"r1 vp b1 4.7k\nr2 b2 vn 4.7k\nq1 vp b1 e1 qn\nq2 vn b2 e2 qp\nr3 e1 o 1\nr4 o e2 1\nrl o 0 {u(8, 1e3)}",
        2e-3, ["o", "d"],
    )  # fmt: skip


def relay(u: Draw) -> Board:
    return (
        f"vi i 0 pulse(0 5 1m 10n 10n {u(1e-3, 2e-2)} 50m)\nrb i b 1k\nq1 c b 0 qn\nrl vp m {u(50, 500)}\n"
        f"l1 m c {u(1e-2, 0.5)}\nd1 c vp ds\ns1 vp lo m c sr\nrlo lo 0 100\ncl lo 0 1u",
        60e-3, ["c", "lo"],
    )  # fmt: skip


def load_switch(u: Draw) -> Board:
    return (
        f"m1 out g vp mp\nr1 vp g {u(1e3, 1e5)}\nc1 vp g {u(1e-10, 1e-7)}\nr2 g d 1k\nm2 d e 0 mn\n"
        f"ve e 0 pulse(0 5 1m 1u 1u 5m 20m)\ncl out 0 {u(1e-7, 1e-4)}\nrl out 0 {u(10, 1e3)}\ndz g vp dz",
        10e-3, ["out", "g"],
    )  # fmt: skip


def charge_pump(u: Draw) -> Board:
    period = u(1e-6, 1e-4)
    return (
        f"vi c 0 pulse(0 5 0 10n 10n {period / 2} {period})\nrs c cc 20\nc1 cc x {u(1e-8, 1e-6)}\nv5 v 0 5\n"
        f"d1 v x ds\nd2 x out ds\nc2 out 0 1u\nrl out 0 {u(1e3, 1e5)}",
        40 * period, ["out"],
    )  # fmt: skip


def logarithm(u: Draw) -> Board:
    return (
        f"vi i 0 pulse(1m {u(0.1, 10)} 10u {u(1e-6, 1e-4)} 1u 1m 2m)\nr1 i m 10k\nx1 0 m vp vn o opamp\n"
        f"q1 m 0 e qn\nre o e 1k\ncc m o {u(1e-11, 1e-9)}",
        3e-3, ["o"],
    )  # fmt: skip


def rectified(u: Draw) -> Board:
    return (
        f"vi i 0 sin(0 {u(0.01, 5)} {u(500, 5e4)})\nr1 i m 10k\nx1 0 m vp vn o opamp gbw=10meg slew=10meg\n"
        "d1 m o ds\nd2 o y ds\nr2 y m 10k\nr3 y n 10k\nr4 i n 20k\nx2 0 n vp vn z opamp gbw=10meg slew=10meg\n"
        f"r5 z n 20k\ncf z n {u(1e-11, 1e-9)}",
        1e-3, ["z", "o"],
    )  # fmt: skip


def sampled(u: Draw) -> Board:
    return (
        f"v5 v 0 5\nvi i 0 sin(2.5 {u(0.1, 2)} {u(1e3, 1e5)})\nx1 i fb v 0 o opamp gbw=20meg slew=20meg rout=30\n"
        f"rfb o fb 1\nrs o a {u(10, 300)}\ncs a 0 {u(1e-10, 1e-8)}\n"
        f"xa a 0 converter_input period={u(5e-7, 5e-6)} acquire=200n",
        10e-6, ["a"],
    )  # fmt: skip


def saturated(u: Draw) -> Board:
    return (
        f"vi i 0 sin(0 {u(0.1, 5)} {u(50, 5e3)})\nx1 i m vp vn o opamp gbw={u(1e5, 1e7)} slew={u(1e5, 1e7)}\n"
        f"r1 o m {u(1e4, 1e6)}\nr2 m 0 1k\nrl o 0 1k",
        1e-2, ["o"],
    )  # fmt: skip


def test_a_slew_between_two_long_steps_is_not_passed_over() -> None:
    """An op-amp goes from rail to rail within a step, and both ends of it look like rest."""
    drawn = iter([math.e, 245.0, 1.63e5, 4.42e5, 1.63e5])
    text, stop, [output] = saturated(lambda low, high: next(drawn))
    circuit = structure(SUPPLIES + text)
    usual = transient(circuit, stop, [(output, "0")]).require()
    tight = transient(circuit, stop, [(output, "0")], times=usual.time, accuracy=Accuracy(1e-5)).require()
    # Within a hundredth of the swing, at points on slopes of 0.4 V a microsecond.
    assert usual.values[0] == pytest.approx(tight.values[0], abs=0.2)


@pytest.mark.parametrize(
    "board",
    [low_pass, push_pull, relay, load_switch, charge_pump, logarithm, rectified, sampled, saturated],
)
@settings(max_examples=8)
@given(data=st.data())
def test_the_usual_tolerance_gives_what_a_tight_one_gives(board: Callable[[Draw], Board], data: st.DataObject) -> None:
    """Within 0.3 % of the largest value, in the mean square over time: errors of steps add up to some 0.1 %."""

    def draw(low: float, high: float) -> float:
        return float(np.exp(data.draw(st.floats(np.log(low), np.log(high)))))

    text, stop, outputs = board(draw)
    circuit, pairs = structure(SUPPLIES + text + "\n" + MODELS), [(output, "0") for output in outputs]
    usual = transient(circuit, stop, pairs).require()
    tight = transient(circuit, stop, pairs, times=usual.time, accuracy=Accuracy(1e-5)).require()
    for output, values, exact in zip(outputs, usual.values, tight.values, strict=True):
        error = np.sqrt(np.trapezoid((values - exact) ** 2, usual.time) / stop)
        assert error <= 3e-3 * np.max(np.abs(exact)), f"{output}: {error:g}\n{text}"
