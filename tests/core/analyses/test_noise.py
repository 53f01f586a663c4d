"""Noise against Johnson, Schottky and Nyquist, with the constants of scipy.constants (CODATA)."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from scipy import constants
from scipy import integrate as scipy_integrate

from tests.core.circuits import PASSIVE_PARTS, passive, structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.noise import integrate, noise
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import CircuitError

KT4 = 4 * constants.k * 300.15
FREQUENCY = np.geomspace(1, 1e8, 81)
OUT = [("out", "0")]


def test_johnson_noise_of_a_divider() -> None:
    result = noise(structure("v1 in 0 1\nr1 in out 1k\nr2 out 0 3k"), FREQUENCY, OUT, "v1")
    assert result.total[0, 0] == pytest.approx(KT4 * 750, rel=1e-9)
    assert result.input_referred[0, 0] == pytest.approx(KT4 * 750 / 0.75**2, rel=1e-9)
    shares = dict(zip(result.contributors, result.contributions[0, 0, :, 0], strict=True))
    assert shares["r1", ""] == pytest.approx(KT4 * 1e3 * 0.75**2, rel=1e-9)
    assert shares["r2", ""] == pytest.approx(KT4 * 3e3 * 0.25**2, rel=1e-9)


def test_a_capacitor_holds_kt_over_c() -> None:
    wide = np.geomspace(1e-2, 1e12, 600)
    for resistance in ("10", "1k", "1meg"):
        result = noise(structure(f"r1 out 0 {resistance}\nc1 out 0 1n"), wide, OUT)
        # What lies outside the band is below 1e-4 of it; the power law between points adds about as much.
        assert result.rms()[0, 0] == pytest.approx(math.sqrt(constants.k * 300.15 / 1e-9), rel=3e-4)


def test_shot_noise_of_a_diode() -> None:
    circuit = structure("i1 0 out 1m\nd1 out 0 m\nr1 out 0 1g\n.model m d(is=1f n=1.5)")
    result = noise(circuit, np.array([1e3]), OUT)
    conductance = 1e-3 / (1.5 * constants.k * 300.15 / constants.e)
    assert result.total[0, 0, 0] == pytest.approx(2 * constants.e * 1e-3 / conductance**2, rel=1e-5)


def test_bipolar_mechanisms() -> None:
    """Collector shot 2qIc and base shot 2qIb + KF Ib^AF / f, into known resistances."""
    text = "vcc c1 0 5\nrc c1 out 1k\nvb b 0 0.65\nq1 out b 0 m\n.model m npn(is=1f bf=100 kf=1e-15 af=1.2)"
    result = noise(structure(text), np.array([10.0]), OUT, by="mechanism")
    shares = dict(zip(result.contributors, result.contributions[0, 0, :, 0], strict=True))
    collector = 1e-15 * math.expm1(0.65 / (constants.k * 300.15 / constants.e))
    assert shares["q1", "collector shot"] == pytest.approx(2 * constants.e * collector * 1e6, rel=1e-6)
    # The base is held by a source, so its noise stays there.
    assert shares["q1", "base shot and flicker"] == 0
    circuit = structure(text.replace("vb b 0 0.65", "ib 0 b {i}\n.param i=" + repr(collector / 100)))
    result = noise(circuit, np.array([10.0]), OUT, by="mechanism")
    shares = dict(zip(result.contributors, result.contributions[0, 0, :, 0], strict=True))
    density = 2 * constants.e * collector / 100 + 1e-15 * (collector / 100) ** 1.2 / 10
    assert shares["q1", "base shot and flicker"] == pytest.approx(density * (100 * 1e3) ** 2, rel=1e-4)


def test_fet_channel_noise() -> None:
    """8kT gm / 3 in saturation (SPICE 2G6 manual)."""
    text = "vd d1 0 10\nr1 d1 out 1\nvg g 0 -1\nj1 out g 0 m\n.model m njf(vto=-3 beta=1m)"
    result = noise(structure(text), np.array([1e3]), OUT, by="mechanism")
    shares = dict(zip(result.contributors, result.contributions[0, 0, :, 0], strict=True))
    assert shares["j1", "channel"] == pytest.approx(2 / 3 * KT4 * 2e-3 * 2, rel=1e-9)


def test_noise_density_of_a_source_and_excess_noise_of_a_resistor() -> None:
    result = noise(structure("v1 out 0 0 density=10n corner=100\nr1 out 0 1k"), np.array([1.0, 1e4]), OUT)
    assert np.sqrt(result.total[0, 0]) == pytest.approx(1e-8 * np.sqrt([101, 1.01]), rel=1e-12)
    biased = noise(structure("i1 0 out 1m\nr1 out 0 10k excess=1u tc1=0"), FREQUENCY, OUT)
    current_noise = biased.total[0, 0] - KT4 * 1e4
    # IEC 60195: 1 µV in a decade for every volt, here at 10 V.
    assert integrate(FREQUENCY, current_noise, 10, 100) == pytest.approx((10e-6) ** 2, rel=1e-6)


@settings(max_examples=40)
@given(PASSIVE_PARTS)
def test_nyquists_theorem_for_any_passive_network(parts: list[tuple[str, int, int, float]]) -> None:
    """S_v = 4kT Re Z (Nyquist 1928)."""
    text, f = passive(parts, 1e3, 1e-3, 1e-9), np.geomspace(1e2, 1e7, 12)
    found = noise(structure(text), f, [("n0", "0")]).total[0, 0]
    impedance = ac(structure(f"{text}\nii 0 n0 dc 0 ac 1"), f, [("n0", "0")]).values[0, 0]
    assert found == pytest.approx(KT4 * impedance.real, rel=1e-6)


LINES = {
    "lossy": "o1 n0 0 far 0 m\n.model m ltra(r=0.5 l=250n g=2m c=100p len=3)",
    "two in a row": "o1 n0 0 mid 0 m\no2 mid 0 far 0 m\nr2 mid 0 70\n.model m ltra(r=3 l=400n c=60p len=2)",
    "resistance and capacitance": "u1 n0 far 0 m l=1m\n.model m urc(rperl=1meg cperl=1u)",
    "between floating ports": "o1 n0 a far b m\nra a 0 5\nrb b 0 9\n.model m ltra(r=0.5 l=250n g=2m c=100p len=3)",
}


@pytest.mark.parametrize("line", LINES)
@pytest.mark.parametrize("far", ["r1 far 0 33", "r1 far 0 1g", "r1 far 0 1u"], ids=["loaded", "open", "shorted"])
@pytest.mark.parametrize("celsius", [27.0, 125.0])
def test_nyquists_theorem_for_lossy_lines(line: str, far: str, celsius: float) -> None:
    """S_v = 4kT Re Z (Nyquist 1928) at the near end, whatever is at the far one, and of both ends against each other.

    From below a thousandth of a wavelength to many of them.
    """
    text, f = f"{LINES[line]}\n{far}\nr0 n0 0 1meg", np.geomspace(10, 3e9, 40)
    outputs = [("n0", "0"), ("far", "0"), ("n0", "far")]
    circuit = structure(text)
    hot = ParameterMatrix.varied(circuit, {AMBIENT_KEY: np.array([celsius])})
    found = noise(circuit, f, outputs, matrix=hot).total[0]
    for k, (plus, minus) in enumerate(outputs):
        driven = ac(structure(f"{text}\nii {minus} {plus} dc 0 ac 1"), f, [(plus, minus)]).values[0, 0]
        # Of long lines' phases, which are many turns, the last digits are lost.
        expected = 4 * constants.k * (celsius + 273.15) * driven.real
        assert found[k] == pytest.approx(expected, rel=1e-7, abs=1e-9 * expected.max())


def test_lossless_lines_add_nothing_and_losses_are_told_apart() -> None:
    f = np.array([1e6, 1e8])
    still = noise(structure("t1 n0 0 far 0 z0=50 td=3n\nr1 far 0 50"), f, [("n0", "0")], by="part")
    shares = dict(zip(still.contributors, still.contributions[0, 0], strict=True))
    assert not shares["t1", ""].any()
    assert shares["r1", ""] == pytest.approx(KT4 * 50, rel=1e-9)
    lossy = noise(structure(LINES["lossy"] + "\nr1 far 0 50"), f, [("n0", "0")], by="mechanism")
    assert ("o1", "losses, even mode") in lossy.contributors
    assert lossy.contributions[0, 0].sum(axis=0) == pytest.approx(lossy.total[0, 0], rel=1e-12)


def test_several_outputs_and_rows_in_one_pass() -> None:
    circuit = structure("v1 in 0 1\nr1 in out 1k\nr2 out 0 3k\nr3 out far 1k\nc3 far 0 1n")
    matrix = ParameterMatrix.varied(circuit, {("r2", "resistance"): np.array([1e3, 3e3])})
    both = noise(circuit, FREQUENCY, [("out", "0"), ("far", "out")], "v1", matrix, by=None)
    for row, text in enumerate(("r2 out 0 1k", "r2 out 0 3k")):
        single = structure("v1 in 0 1\nr1 in out 1k\n" + text + "\nr3 out far 1k\nc3 far 0 1n")
        for output, pair in enumerate([("out", "0"), ("far", "out")]):
            assert both.total[row, output] == pytest.approx(noise(single, FREQUENCY, [pair]).total[0, 0], rel=1e-9)
    assert both.contributions.shape == (2, 2, 0, len(FREQUENCY))


@pytest.mark.parametrize("power", [0.0, -1.0, -2.0, 1.5])
def test_integration_of_power_laws_is_exact(power: float) -> None:
    f = np.geomspace(1, 1e6, 7)
    exact, _ = scipy_integrate.quad(lambda u: math.exp(u * (power + 1)), math.log(3), math.log(5e5), epsrel=1e-12)
    assert integrate(f, 7 * f**power, 3, 5e5) == pytest.approx(7 * exact, rel=1e-10)


def test_what_does_not_exist_is_named() -> None:
    with pytest.raises(CircuitError, match="not an independent source"):
        noise(structure("r1 out 0 1k"), FREQUENCY, OUT, "r1")


def test_a_row_without_an_operating_point_has_no_noise() -> None:
    """V² + v = -p has no root for a p above 1/4; with p = -2, v = 1 and 1 / (1 + 2 v) of the resistor's 4kT is left."""
    circuit = structure("v1 p 0 dc -2 ac 1\nb1 x 0 i={v(x)**2+v(p)}\nr1 x 0 1\nc1 x 0 1p")
    matrix = ParameterMatrix.varied(circuit, {("v1", "dc"): np.array([1.0, -2.0, 1.0])})
    result = noise(circuit, np.geomspace(1, 1e3, 20), [("x", "0")], "v1", matrix)
    assert np.isnan(result.total[[0, 2]]).all()
    assert np.isnan(result.contributions[[0, 2]]).all()
    assert result.total[1, 0] == pytest.approx(np.full(20, KT4 / 9), rel=1e-6)
    assert result.contributions[1, 0].sum(axis=0) == pytest.approx(result.total[1, 0], rel=1e-12)
