"""Transmission lines against closed forms and scikit-rf."""

import numpy as np
import pytest
import skrf
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.scattering import Port, scattering

FREQUENCY = np.geomspace(1e5, 3e9, 40)


def input_impedance(line: str, load: float, frequency: np.ndarray = FREQUENCY) -> np.ndarray:
    circuit = structure(f"i1 0 a dc 0 ac 1\n{line}\nrl b 0 {load}\nr9 a 0 1g")
    return ac(circuit, frequency, [("a", "0")]).values[0, 0]


@pytest.mark.parametrize("load", [1e-3, 50, 75, 1e6])
def test_a_lossless_line_turns_its_load(load: float) -> None:
    z0, delay = 50.0, 3e-9
    t = 1j * np.tan(2 * np.pi * FREQUENCY * delay)
    expected = z0 * (load + z0 * t) / (z0 + load * t)
    expected = 1 / (1 / expected + 1e-9)
    assert input_impedance("t1 a 0 b 0 z0=50 td=3n", load) == pytest.approx(expected, rel=1e-7)


def test_delay_from_frequency_and_length() -> None:
    assert input_impedance("t1 a 0 b 0 z0=50 f=100meg nl=0.3", 20) == pytest.approx(
        input_impedance("t1 a 0 b 0 z0=50 td=3n", 20), rel=1e-12
    )


@settings(max_examples=25)
@given(
    st.floats(0, 50), st.floats(1e-8, 1e-6), st.floats(0, 0.01), st.floats(1e-12, 1e-9), st.floats(0.01, 30),
    st.floats(1, 1e4),
)  # fmt: skip
def test_a_lossy_line(r: float, l: float, g: float, c: float, length: float, load: float) -> None:  # noqa: E741
    """The telegrapher's solution (Pozar, "Microwave Engineering", section 2.1)."""
    w = 2j * np.pi * FREQUENCY
    z, y = r + w * l, g + w * c
    gamma, zc = np.sqrt(z * y) * length, np.sqrt(z / y)
    expected = zc * (load + zc * np.tanh(gamma)) / (zc + load * np.tanh(gamma))
    expected = 1 / (1 / expected + 1e-9)
    model = f"o1 a 0 b 0 m\n.model m ltra(r={r!r} l={l!r} g={g!r} c={c!r} len={length!r})"
    # Near a resonance of a long line the closed form itself loses digits: phase 1e4 rad in double precision.
    assert input_impedance(model, load) == pytest.approx(expected, rel=1e-6)


def test_at_zero_frequency_a_lossy_line_is_its_resistances() -> None:
    model = "v1 a 0 1\no1 a 0 b 0 m\nrl b 0 100\n.model m ltra(r=5 l=250n g=1m c=100p len=4)"
    theta, zc = np.sqrt(5e-3) * 4, np.sqrt(5e3)
    expected = 100 / (100 * np.cosh(theta) + zc * np.sinh(theta))
    assert operating_point(structure(model)).value("b") == pytest.approx(expected, rel=1e-9)


def test_a_distributed_rc() -> None:
    """Open RC line: the transfer is 1 / cosh sqrt(jωRC)."""
    circuit = structure("v1 a 0 dc 0 ac 1\nu1 a b 0 m l=2\nr9 b 0 1t\n.model m urc(rperl=1k cperl=1n)")
    f = np.geomspace(1e2, 1e6, 20)
    expected = 1 / np.cosh(np.sqrt(2j * np.pi * f * 4e-6))
    assert ac(circuit, f, [("b", "0")]).values[0, 0] == pytest.approx(expected, rel=1e-8)


def test_scattering_of_a_line_is_that_of_scikit_rf() -> None:
    frequency = skrf.Frequency.from_f(FREQUENCY, unit="Hz")
    media = skrf.media.DefinedGammaZ0(frequency, z0=75, gamma=2j * np.pi * FREQUENCY / 2e8)
    reference = media.line(0.6, "m", z0=75)
    reference.renormalize(50)
    circuit = structure("t1 a 0 b 0 z0=75 td=3n\nr1 a 0 1e12")
    found = scattering(circuit, [Port("a"), Port("b")], FREQUENCY).values[0]
    # scikit-rf keeps its matrices invertible with small offsets of about 1e-9.
    assert found == pytest.approx(reference.s, abs=1e-8)
