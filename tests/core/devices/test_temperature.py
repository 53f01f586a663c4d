"""A device may be warmer than the ambient, or have a temperature of its own that nothing moves."""

import numpy as np
import pytest

from tests.core.circuits import structure
from verdad_core.analyses.noise import noise
from verdad_core.analyses.operating_point import operating_point
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read
from verdad_core.netlist.writer import write

#: A circuit for each family: what is at node a follows the device's temperature.
CARDS = {
    "resistor": "r1 a 0 1k tc1=4m {t}",
    "diode": "d1 a 0 m {t}\n.model m d(is=1f)",
    "bipolar": "q1 a a 0 m {t}\n.model m npn(is=1f)",
    "jfet": "j1 a 0 0 m {t}\n.model m njf(vto=-3 beta=10m vtotc=-2m)",
    "mosfet": "m1 a a 0 0 m {t}\n.model m nmos(level=1 vto=1 kp=1m)",
    "power mosfet": "m1 a a 0 m {t}\n.model m vnmos(vto=2 kp=1 vtotc=-5m)",
}
AMBIENT = np.array([-20.0, 27.0, 85.0])


def volts(card: str, temperature: str) -> list[float]:
    circuit = structure(f"i1 0 a 1m\n{card.format(t=temperature)}")
    point = operating_point(circuit, ParameterMatrix.varied(circuit, {AMBIENT_KEY: AMBIENT}))
    return [point.value("a", row) for row in range(len(AMBIENT))]


@pytest.mark.parametrize("family", CARDS)
def test_own_temperatures(family: str) -> None:
    """At 85 °C of its own a device does at any ambient what it does at an ambient of 85 °C.

    Rows start from other rows' solutions, so they agree as well as Newton's last step is small.
    """
    follows, fixed, warmer = (volts(CARDS[family], t) for t in ("", "temp=85", "dtemp=58"))
    assert np.ptp(follows) > 1e-3
    assert fixed == pytest.approx([follows[2]] * 3, rel=1e-9)
    assert warmer[1] == pytest.approx(follows[2], rel=1e-9)


def test_noise_of_a_resistor_with_its_own_temperature() -> None:
    """4kTR, T being its own (Johnson 1928)."""
    cold, hot = (noise(structure(f"r1 out 0 1k temp={t}"), np.array([1e3]), [("out", "0")]).total for t in (0, 100))
    assert (hot / cold).item() == pytest.approx(373.15 / 273.15, rel=1e-12)


@pytest.mark.parametrize("card", [*CARDS.values(), "c1 a 0 1n tc1=1m {t}", "l1 a 0 1m tc1=1m {t}"])
def test_own_temperatures_are_written_and_read(card: str) -> None:
    text = f"i1 0 a 1m\n{card.format(t='temp=85')}\n"
    first = flatten(read(text).require()).elements
    again = flatten(read(write(read(text).require())).require()).elements
    assert [e.values for e in first] == [e.values for e in again]
    assert first[-1].values["temp"] == 85.0
