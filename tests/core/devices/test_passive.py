"""Resistors, capacitors, inductors and couplings against closed forms."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import poles
from verdad_core.engine.matrix import ParameterMatrix

FREQUENCY = np.geomspace(1e3, 1e7, 25)
S = 2j * np.pi * FREQUENCY


def impedance(text: str) -> np.ndarray:
    return ac(structure(f"i1 0 a dc 0 ac 1\n{text}"), FREQUENCY, [("a", "0")]).values[0, 0]


def test_series_and_parallel_resonance() -> None:
    r, l, c = 10.0, 1e-4, 1e-8  # noqa: E741
    assert impedance("r1 a b 10\nl1 b d 100u\nc1 d 0 10n\nr9 a 0 1t\nr8 d 0 1t") == pytest.approx(
        r + S * l + 1 / (S * c), rel=1e-6
    )
    assert impedance("r1 a 0 10k\nl1 a 0 100u\nc1 a 0 10n") == pytest.approx(1 / (1e-4 + 1 / (S * l) + S * c), rel=1e-9)


@settings(max_examples=30)
@given(st.floats(-0.99, 0.99), st.floats(1e-6, 1e-3), st.floats(1e-6, 1e-3), st.floats(0.1, 1e4))
def test_coupled_windings(k: float, one: float, two: float, load: float) -> None:
    """A load seen through a transformer: Z = s L1 - s² M² / (s L2 + R)."""
    mutual = k * np.sqrt(one * two)
    found = impedance(f"l1 a 0 {one!r}\nl2 b 0 {two!r}\nk1 l1 l2 {k!r}\nr1 b 0 {load!r}")
    assert found == pytest.approx(S * one - S**2 * mutual**2 / (S * two + load), rel=1e-8)


def test_three_windings_in_one_statement() -> None:
    one = impedance("l1 a 0 1u\nl2 b 0 4u\nl3 c 0 9u\nk1 l1 l2 l3 0.5\nr2 b 0 5\nr3 c 0 7")
    three = impedance("l1 a 0 1u\nl2 b 0 4u\nl3 c 0 9u\nk1 l1 l2 0.5\nk2 l1 l3 0.5\nk3 l2 l3 0.5\nr2 b 0 5\nr3 c 0 7")
    assert one == pytest.approx(three, rel=1e-12)
    inductance = np.array([[1, 1, 1.5], [1, 4, 3], [1.5, 3, 9]]) * 1e-6
    for s, z in zip(S, one, strict=True):
        branch = s * inductance + np.diag([0, 5, 7])
        assert z == pytest.approx(1 / np.linalg.inv(branch)[0, 0], rel=1e-9)


def test_two_coupled_resonators_split() -> None:
    """Angular frequencies ω0 / sqrt(1 ± k)."""
    text = "l1 a 0 1u\nc1 a 0 1n\nl2 b 0 1u\nc2 b 0 1n\nk1 l1 l2 0.2\nr1 a 0 1meg\nr2 b 0 1meg"
    [found] = poles(operating_point(structure(text)))
    expected = np.sqrt(1e15) / np.sqrt([1.2, 0.8])
    assert sorted(set(np.round(np.abs(found.values.imag), -3))) == pytest.approx(expected, rel=1e-4)


def test_temperature_and_bias_dependence() -> None:
    text = "v1 a 0 dc 3 ac 1\nr1 a 0 1k tc1=1m tc2=2u tce=0.1\nc1 a 0 1n vc1=0.1 vc2=0.01\nc2 a 0 2n tc1=5m dtemp=10"
    circuit = structure(text)
    matrix = ParameterMatrix.varied(circuit, {("", "temperature"): np.array([27.0, 77.0])})
    found = -ac(circuit, np.array([1e6]), [("i(v1)", "0")], matrix).values[:, 0, 0]
    for y, rise in zip(found, (0, 50), strict=True):
        assert y.real == pytest.approx(1e-3 / ((1 + 1e-3 * rise + 2e-6 * rise**2) * 1.01 ** (0.1 * rise)), rel=1e-12)
        capacitance = 1e-9 * (1 + 0.3 + 0.09) + 2e-9 * (1 + 5e-3 * (rise + 10))
        assert y.imag == pytest.approx(2 * np.pi * 1e6 * capacitance, rel=1e-12)


def test_an_inductor_that_saturates() -> None:
    text = "i1 0 a dc 2 ac 1\nl1 a 0 1u ic1=0 ic2=-0.1"
    found = ac(structure(text), np.array([1e6]), [("a", "0")]).values[0, 0, 0]
    assert found == pytest.approx(2j * np.pi * 1e6 * 1e-6 * (1 - 0.4), rel=1e-12)
