"""Circuits whose operating point must be found, and what is said when there is none."""

import pytest

from tests.core.circuits import structure
from verdad_core.analyses.operating_point import operating_point
from verdad_core.errors import ConvergenceError

LATCH = "vcc vcc 0 5\nr1 vcc a 1k\nr2 vcc b 1k\nq1 a x 0 m\nq2 b y 0 m\nr3 b x 10k\nr4 a y 10k\n.model m npn\n"
CMOS = ".model n nmos(vto=.7 kp=100u)\n.model p pmos(vto=-.7 kp=50u)\n"
SCHMITT = (
    "vcc vcc 0 10\nr1 vcc c1 4.7k\nr2 vcc out 1k\nq1 c1 b1 e m\nq2 out b2 e m\nre e 0 470\nrb in b1 1k\nra c1 b2 10k\n"
    "rc b2 0 22k\n.model m npn(bf=100)\n"
)


def solved(text: str, node: str) -> float:
    point = operating_point(structure(text))
    point.require()
    return point.value(node)


def test_a_chain_of_twenty_diodes() -> None:
    chain = "\n".join(f"d{k} n{k} n{k + 1} d" for k in range(20))
    current = solved(f"v1 a 0 100\nr1 a n0 1k\n{chain}\nr2 n20 0 1\n.model d d(is=1f)", "n20")
    # 20 drops of about 0.83 V at the current that is left.
    assert current == pytest.approx((100 - 20 * 0.83) / 1001, rel=0.01)


def test_six_transistors_in_a_darlington() -> None:
    stages = "\n".join(f"q{k} c b{k} b{k + 1} m" for k in range(6))
    assert 3 < solved(f"vcc c 0 12\nvb b0 0 6\n{stages}\nre b6 0 10\n.model m npn(bf=200)", "b6") < 6


@pytest.mark.parametrize(("high", "low"), [("a", "b"), ("b", "a")])
def test_a_latch_stands_where_its_nodeset_says(high: str, low: str) -> None:
    text = LATCH + f".nodeset v({high})=5 v({low})=0"
    assert solved(text, high) > 4
    assert solved(text, low) < 0.2


def test_a_cmos_latch() -> None:
    inverters = (
        "vdd d 0 3.3\nm1 a b 0 0 n w=10u l=1u\nm2 a b d d p w=20u l=1u\nm3 b a 0 0 n w=10u l=1u\n"
        "m4 b a d d p w=20u l=1u\n"
    )
    assert solved(inverters + CMOS + ".nodeset v(a)=3.3", "a") == pytest.approx(3.3, abs=1e-6)


@pytest.mark.parametrize(("volts", "expected"), [(0, 3.3), (9, 10.0)])
def test_a_schmitt_trigger(volts: float, expected: float) -> None:
    assert solved(SCHMITT + f"vin in 0 {volts}", "out") == pytest.approx(expected, abs=0.3)


def test_an_op_amp_with_positive_feedback_has_a_point() -> None:
    text = "vp p 0 5\nvn n 0 -5\nvin in 0 2\nx1 fb in p n out opamp\nr1 out fb 10k\nr2 fb 0 1k"
    assert abs(solved(text, "out")) <= 5


def test_loops_of_behavioural_steps() -> None:
    text = "vin i 0 2\nb1 a 0 v=stp(v(i)-1)*5\nb2 b 0 v=if(v(a)>2.5, v(a)-v(b)*0.1, 0)\nr1 a 0 1\nr2 b 0 1"
    assert solved(text, "b") == pytest.approx(5 / 1.1, rel=1e-9)


def test_a_gate_that_nothing_holds_sits_at_zero() -> None:
    assert solved("vdd d 0 5\nm1 d g 0 0 n\nc1 g 0 1p\n" + CMOS, "g") == pytest.approx(0, abs=1e-9)


def test_a_tunnel_characteristic() -> None:
    text = "v1 a 0 0.4\nr1 a b 10\nb1 b 0 i=1m*v(b)*exp(1-v(b)/0.1)/0.1+1p*(exp(v(b)/0.026)-1)"
    assert solved(text, "b") == pytest.approx(0.398, abs=1e-3)


def test_a_failure_says_where_what_and_what_to_do() -> None:
    point = operating_point(structure("v1 a 0 1\nb2 x 0 v=exp(v(a)*v(x)+5)\nr1 a 0 1\nr2 x 0 1"))
    with pytest.raises(ConvergenceError) as caught:
        point.require()
    message = str(caught.value)
    assert "x" in caught.value.place.nodes
    for word in ("b2", "gmin stepping", "source stepping", "pseudo-transient", "Last values", ".nodeset"):
        assert word in message
