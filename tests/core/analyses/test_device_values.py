"""Values of one device against what theory says of them."""

import math

import pytest
from scipy import constants

from tests.core.circuits import structure
from verdad_core.analyses.device_values import device_values
from verdad_core.analyses.operating_point import operating_point
from verdad_core.errors import CircuitError

VT = constants.k * 300.15 / constants.e


def test_a_bipolar_transistor() -> None:
    text = "vc c 0 5\nvb b 0 0.65\nq1 c b 0 m\n.model m npn(is=1f bf=100 vaf=50 tf=1n)"
    named = device_values(operating_point(structure(text)), "q1").named
    # With the collector held, the Early effect works against the base.
    assert named["gm"] == pytest.approx(named["i(collector)"] / VT - named["output conductance"], rel=1e-5)
    assert named["output conductance"] == pytest.approx(named["i(collector)"] / (50 + 5 - 0.65), rel=1e-3)
    assert named["input conductance"] == pytest.approx(named["i(base)"] / VT, rel=1e-3)
    assert named["i(collector)"] + named["i(base)"] + named["i(emitter)"] == pytest.approx(0, abs=1e-15)
    assert named["power"] == pytest.approx(5 * named["i(collector)"] + 0.65 * named["i(base)"])
    # Diffusion only: fT = 1 / (2π TF).
    assert named["transition frequency"] == pytest.approx(1 / (2 * math.pi * 1e-9), rel=0.02)


def test_pins_on_one_node_keep_their_own_currents() -> None:
    text = "i1 0 a 1m\nq1 a a 0 m\n.model m npn(is=1f bf=49)"
    named = device_values(operating_point(structure(text)), "q1").named
    assert named["i(base)"] == pytest.approx(1e-3 / 50, rel=1e-6)
    assert named["i(collector)"] == pytest.approx(1e-3 * 49 / 50, rel=1e-6)


def test_inner_resistances_are_part_of_the_device() -> None:
    text = "vd d 0 {v}\nd1 d 0 m\n.model m d(is=1f rs=10 cjo=2p tt=1n)"
    point = operating_point(structure(text.format(v=0.8)))
    values = device_values(point, "d1")
    i = values.currents[0]
    assert values.conductances[0, 0] == pytest.approx(1 / (10 + VT / i), rel=1e-6)


def test_two_terminal_parts_and_switches() -> None:
    text = "v1 a 0 2\nr1 a b 1k\nr2 b 0 1k\nc1 b 0 3n\ns1 a 0 b 0 m\n.model m sw(vt=0.5 ron=100)"
    point = operating_point(structure(text))
    assert device_values(point, "r1").named == pytest.approx(
        {"i(plus)": 1e-3, "i(minus)": -1e-3, "v(plus,minus)": 1.0, "power": 1e-3, "conductance": 1e-3, "capacitance": 0}
    )
    assert device_values(point, "c1").named["capacitance"] == pytest.approx(3e-9)
    assert device_values(point, "s1").named["power"] == pytest.approx(0.04)
    assert device_values(point, "v1").named["power"] == pytest.approx(-0.042)


def test_what_has_no_values_is_named() -> None:
    with pytest.raises(CircuitError, match="no device 'r9'"):
        device_values(operating_point(structure("v1 a 0 1\nr1 a 0 1")), "r9")
