import math

import numpy as np
import pytest

from tests.core.circuits import structure
from verdad_core.analyses.dc_sweep import Swept, dc_sweep, up_and_down
from verdad_core.analyses.operating_point import operating_point


def conductances(model: str, controls: np.ndarray, card: str = "s1 x 0 c 0 m") -> np.ndarray:
    """Of the switch, along its control."""
    circuit = structure(f"vc c 0 0\nvx x 0 1\n{card}\n.model m {model}")
    swept = dc_sweep(circuit, [Swept(("vc", "dc"), controls)], [("i(vx)", "0")])
    return -swept.values[0, 0]


def test_hysteresis_up_and_down() -> None:
    controls = up_and_down(np.array([0.0, 0.4, 1.0, 1.6, 2.0]))
    found = conductances("sw(vt=1 vh=0.5 ron=2 roff=1k)", controls)
    assert found == pytest.approx([1e-3, 1e-3, 1e-3, 0.5, 0.5, 0.5, 0.5, 1e-3, 1e-3])


def test_inside_the_hysteresis_it_starts_as_it_is_told() -> None:
    for word, expected in (("on", 0.5), ("off", 1e-3)):
        found = conductances("sw(vt=0 vh=1 ron=2 roff=1k)", np.array([0.0]), f"s1 x 0 c 0 m {word}")
        assert found == pytest.approx([expected])


def test_the_smooth_form_goes_from_off_to_on() -> None:
    found = conductances("vswitch(von=2 voff=1 ron=1 roff=1meg)", np.array([0.5, 1.0, 1.5, 2.0, 3.0]))
    # In the middle the logarithm of the resistance is half-way.
    assert found == pytest.approx([1e-6, 1e-6, 1e-3, 1, 1], rel=1e-9)
    assert np.all(np.diff(conductances("vswitch(von=0 voff=1)", np.linspace(0, 1, 20))) < 0)


def test_a_current_switches() -> None:
    text = "i1 0 c 2m\nvs c 0 0\nvx x 0 1\nw1 x 0 vs m\n.model m csw(it=1m ih=0.1m ron=10)"
    assert operating_point(structure(text)).value("i(vx)") == pytest.approx(-0.1)


def test_a_relaxation_oscillator_has_no_resting_switch() -> None:
    """A switch that discharges what it senses cannot rest, and the failure says where."""
    circuit = structure("v1 a 0 10\nr1 a b 1k\ns1 b 0 b 0 m\n.model m sw(vt=5 vh=0 ron=1 roff=1meg)")
    point = operating_point(circuit)
    assert not point.path().solved
    assert math.isfinite(point.value("b"))
