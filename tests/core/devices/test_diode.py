"""The diode against closed forms and independently written equations."""

import numpy as np
import pytest
from scipy.constants import Boltzmann, e, zero_Celsius
from scipy.special import lambertw

from tests.core.circuits import structure
from tests.core.devices.evaluate import evaluate
from verdad_core.analyses.operating_point import operating_point
from verdad_core.engine.matrix import ParameterMatrix

VT = Boltzmann * (27 + zero_Celsius) / e


@pytest.mark.parametrize("volts", [0.3, 0.7, 1.0, 5.0, 100.0])
@pytest.mark.parametrize("emission", [1.0, 1.8])
def test_operating_point_is_the_lambert_w_solution(volts: float, emission: float) -> None:
    """A source, a resistor and a diode: Corless, Gonnet, Hare, Jeffrey, Knuth, "On the Lambert W function" (1996)."""
    saturation, resistance = 1e-14, 1e3
    circuit = structure(f"v1 in 0 {volts}\nr1 in a 1k\nd1 a 0 m\n.model m d(is={saturation} n={emission})")
    nvt = emission * VT
    argument = saturation * resistance / nvt * np.exp((volts + saturation * resistance) / nvt) if volts < 15 else None
    if argument is None:
        # W(z) for z too large for a double: w + ln w = ln z, by fixed point.
        logarithm = np.log(saturation * resistance / nvt) + (volts + saturation * resistance) / nvt
        w = logarithm
        for _ in range(200):
            w = logarithm - np.log(w)
    else:
        w = lambertw(argument).real
    expected = volts + saturation * resistance - nvt * w
    # GMIN of 1e-12 S beside the junction moves the voltage by at most GMIN * R relative to it: 1e-9.
    assert operating_point(circuit).value("a") == pytest.approx(expected, rel=2e-9)


def test_series_resistance_adds_its_drop() -> None:
    circuit = structure("i1 0 a 10m\nd1 a 0 m\n.model m d(is=1e-14 rs=5)")
    assert operating_point(circuit).value("a") == pytest.approx(VT * np.log(10e-3 / 1e-14 + 1) + 0.05, rel=1e-9)


def test_breakdown_reaches_ibv_at_bv() -> None:
    circuit = structure("i1 a 0 1m\nd1 a 0 m\n.model m d(is=1e-14 bv=5.1 ibv=1m)")
    # At -BV the breakdown term alone carries IBV; saturation current and GMIN add about 5e-12 A: 1e-9 of Vt.
    assert operating_point(circuit).value("a") == pytest.approx(-5.1, rel=1e-9)


def test_forward_voltage_falls_with_temperature() -> None:
    """Antognetti and Massobrio 1988: IS(T) = IS (T/Tnom)^(XTI/N) exp((T/Tnom - 1) EG / (N Vt))."""
    circuit = structure("i1 0 a 1m\nd1 a 0 m\n.model m d(is=1e-14)")
    celsius = np.array([-40.0, 27.0, 125.0])
    matrix = ParameterMatrix.varied(circuit, {("", "temperature"): celsius})
    kelvin, nominal = celsius + zero_Celsius, 27 + zero_Celsius
    vt = Boltzmann * kelvin / e
    saturation = 1e-14 * (kelvin / nominal) ** 3 * np.exp((kelvin / nominal - 1) * 1.11 / vt)
    found = operating_point(circuit, matrix).values[:, circuit.index("a")]
    np.testing.assert_allclose(found, vt * np.log(1e-3 / saturation + 1), rtol=1e-9)


@pytest.mark.parametrize("bias", [-3.0, 0.1, 0.3])
def test_depletion_capacitance(bias: float) -> None:
    circuit = structure("v1 a 0 0\nd1 a 0 m\n.model m d(is=1e-20 cjo=10p vj=0.8 m=0.4)")
    c = evaluate(circuit, np.array([bias, 0.0])).c[0, 0]
    assert c == pytest.approx(10e-12 / (1 - bias / 0.8) ** 0.4, rel=1e-9)
