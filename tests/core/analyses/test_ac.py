"""Frequency responses against closed forms and scipy.signal."""

import mpmath
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import signal

from tests.core.circuits import structure
from verdad.demo.board import model_text
from verdad_core.analyses.ac import ac, logarithmic
from verdad_core.arrays import Complexes, Floats
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import CircuitError
from verdad_core.measure.response import upper_cutoff

FREQUENCY = np.geomspace(1, 1e6, 101)


def response(text: str, frequency: Floats = FREQUENCY, output: str = "out") -> Complexes:
    return np.asarray(ac(structure(text), frequency, [(output, "0")]).values[0, 0])


def expected(numerator: list[float], denominator: list[float], frequency: Floats = FREQUENCY) -> Complexes:
    """The reference: scipy.signal on the transfer function."""
    return np.asarray(signal.freqs(numerator, denominator, 2 * np.pi * frequency)[1])


@pytest.mark.parametrize(("capacitance", "cutoff"), [("1u", 159.15494), ("10n", 15915.494)])
def test_first_order_low_pass(capacitance: str, cutoff: float) -> None:
    """1 kΩ with 1 µF: 159 Hz; with 10 nF: 15.9 kHz (common practice, no source). Closed form 1/(2π RC)."""
    frequency = logarithmic(1, 1e6, 50)
    found = upper_cutoff(frequency, response(f"v1 in 0 ac 1\nr1 in out 1k\nc1 out 0 {capacitance}", frequency))
    # 50 points per decade and a cubic between them leave an error of order h^4 ~ 1e-7; the peak is taken at 1 Hz,
    # where the response is (1/159)²/2 = 2e-5 below its limit at zero.
    assert found == pytest.approx(cutoff, rel=5e-5)


def test_second_order_low_pass() -> None:
    """Series R, L and shunt C: H = 1 / (LC s² + RC s + 1)."""
    r, inductance, c = 20.0, 1e-3, 1e-6
    found = response(f"v1 in 0 ac 1\nr1 in a {r}\nl1 a out {inductance}\nc1 out 0 {c}")
    np.testing.assert_allclose(found, expected([1], [inductance * c, r * c, 1]), rtol=1e-11)


@pytest.mark.parametrize("kind", ["band", "high"])
def test_other_second_order_responses(kind: str) -> None:
    r, inductance, c = 50.0, 2e-3, 0.5e-6
    if kind == "band":
        text = f"v1 in 0 ac 1\nl1 in a {inductance}\nc1 a out {c}\nr1 out 0 {r}\nr2 a 0 1e12"
        reference = expected([r * c, 0], [inductance * c, r * c, 1])
    else:
        text = f"v1 in 0 ac 1\nc1 in a {c}\nr1 a out {r}\nl1 out 0 {inductance}"
        reference = expected([inductance * c, 0, 0], [inductance * c, r * c, 1])
    # The band-pass has 1 TΩ beside it, which gives its inner node a direct-current path.
    np.testing.assert_allclose(response(text), reference, rtol=2e-6 if kind == "band" else 1e-10)


def test_sallen_key_low_pass() -> None:
    """Sallen and Key (IRE Trans. Circuit Theory, 1955), unity gain: 1 / (R1 R2 C1 C2 s² + C2 (R1 + R2) s + 1)."""
    r1, r2, c1, c2 = 10e3, 22e3, 10e-9, 2.2e-9
    text = f"v1 in 0 ac 1\nr1 in a {r1}\nr2 a b {r2}\nc1 a out {c1}\nc2 b 0 {c2}\ne1 out 0 b out 1e9"
    reference = expected([1], [r1 * r2 * c1 * c2, c2 * (r1 + r2), 1])
    np.testing.assert_allclose(response(text), reference, rtol=1e-7)  # the amplifier's gain is 1e9, not infinite


@settings(max_examples=25)
@given(st.lists(st.tuples(st.floats(1, 1e6), st.floats(1e-12, 1e-6)), min_size=1, max_size=8))
def test_rc_ladders_of_any_values(sections: list[tuple[float, float]]) -> None:
    """Reference: the chain matrix of each section, multiplied (any text on two-ports)."""
    nodes = ["in", *[f"n{k}" for k in range(len(sections) - 1)], "out"]
    cards = [f"r{k} {nodes[k]} {nodes[k + 1]} {r!r}\nc{k} {nodes[k + 1]} 0 {c!r}" for k, (r, c) in enumerate(sections)]
    s = 2j * np.pi * FREQUENCY
    a, b = np.ones_like(s), np.zeros_like(s)
    for r, c in sections:
        # [a b] times [[1 + sRC, R], [sC, 1]]
        a, b = a * (1 + s * r * c) + b * s * c, a * r + b
    np.testing.assert_allclose(response("v1 in 0 ac 1\n" + "\n".join(cards)), 1 / a, rtol=1e-9)


def test_phase_and_superposition_of_sources() -> None:
    one = response("v1 a 0 ac 1 30\nr1 a out 1k\nr2 out 0 1k\nc1 out 0 1n")
    two = response("i1 0 out ac 2m -90\nr1 a out 1k\nv1 a 0 0\nr2 out 0 1k\nc1 out 0 1n")
    both = response("v1 a 0 ac 1 30\ni1 0 out ac 2m -90\nr1 a out 1k\nr2 out 0 1k\nc1 out 0 1n")
    np.testing.assert_allclose(one + two, both, rtol=1e-12)
    assert np.angle(one[0], deg=True) == pytest.approx(30, abs=1e-3)


def test_the_macro_model_has_the_figures_it_was_designed_for() -> None:
    """Boyle, Cohn, Pederson, Solomon, IEEE JSSC 1974 (equations from memory): GBW = gm / (2π C2), AOL of the chain."""
    frequency = np.geomspace(1e-2, 1e8, 400)
    netlist = (
        f"{model_text()}\nvp p 0 5\nvn n 0 -5\nv1 in 0 ac 1\nx1 in fb p n out ovn4183\nl1 out fb 1e9\nc1 fb 0 1e9\n"
    )
    gain = np.abs(response(netlist + "rl out 0 1meg", frequency))
    assert 20 * np.log10(gain[0]) == pytest.approx(120, abs=0.5)
    at_100k = np.interp(5.0, np.log10(frequency), gain)
    # The second pole near 17 MHz and the interpolation take well under a per cent at 100 kHz.
    assert at_100k * 1e5 == pytest.approx(8e6, rel=0.02)


def test_rows_equal_single_runs() -> None:
    circuit = structure("v1 in 0 ac 1\nr1 in out 1k\nc1 out 0 1u")
    values = np.array([500.0, 1e3, 2e3])
    rows = ac(
        circuit, FREQUENCY, [("out", "0")], ParameterMatrix.varied(circuit, {("r1", "resistance"): values})
    ).values
    for k, r in enumerate(values):
        np.testing.assert_allclose(rows[k, 0], 1 / (1 + 2j * np.pi * FREQUENCY * r * 1e-6), rtol=1e-12)


def test_twelve_decades_in_one_sweep() -> None:
    """One elimination order does not fit all frequencies: the sweep must notice and choose another."""
    frequency = np.geomspace(1e-3, 1e9, 120)
    found = response("v1 in 0 ac 1\nr1 in a 1meg\nc1 a 0 1u\nl1 a out 1n\nr2 out 0 1meg", frequency)
    s = 2j * np.pi * frequency
    load = 1 / (s * 1e-6 + 1 / (s * 1e-9 + 1e6))
    np.testing.assert_allclose(found, load / (load + 1e6) * 1e6 / (1e6 + s * 1e-9), rtol=1e-9)


def test_a_circuit_without_drive_is_refused() -> None:
    with pytest.raises(CircuitError, match="no source has a small-signal magnitude"):
        response("v1 in 0 5\nr1 in out 1k\nr2 out 0 1k")


@pytest.mark.parametrize(("start", "stop", "points"), [(0, 1, 10), (10, 1, 10), (1, 10, 0), (-1, 1, 5)])
def test_impossible_ranges_are_refused(start: float, stop: float, points: int) -> None:
    with pytest.raises(CircuitError, match="not possible"):
        logarithmic(start, stop, points)


def test_a_ring_of_coils_and_capacitors_far_above_its_resonance() -> None:
    """Where cancellation costs an elimination eight digits: nodal equations in 40 digits with mpmath.

    The matrix has a condition of 1e12, of which refinement leaves a few units in the eleventh digit.
    """
    ring = "rw0 n0 m0 1\nl0 m0 n3 1m\nrw1 n1 m1 1\nl1 m1 n2 10m\nc2 n0 n1 1n\nc3 n2 n3 1n\n"
    ring += "\n".join(f"rt{k} n{k} 0 1meg" for k in range(4))
    for driven, looked_at in (("n0", "n2"), ("n2", "n0")):
        found = response(f"{ring}\ni1 0 {driven} ac 1", np.array([1e7]), looked_at)[0]
        with mpmath.workdps(40):
            s = mpmath.mpc(0, 2 * mpmath.pi * 10**7)
            between = {
                (0, 3): 1 / (1 + s * mpmath.mpf("1e-3")), (1, 2): 1 / (1 + s * mpmath.mpf("1e-2")),
                (0, 1): s * mpmath.mpf("1e-9"), (2, 3): s * mpmath.mpf("1e-9"),
            }  # fmt: skip
            matrix = mpmath.diag([mpmath.mpf("1e-6")] * 4)
            for (a, b), y in between.items():
                matrix[a, a] += y
                matrix[b, b] += y
                matrix[a, b] -= y
                matrix[b, a] -= y
            right = mpmath.zeros(4, 1)
            right[int(driven[1])] = 1
            exact = complex(mpmath.lu_solve(matrix, right)[int(looked_at[1])])
        assert abs(found - exact) < 1e-9 * abs(exact)
