"""LAPLACE and FREQ sources against scipy.signal and against the tables themselves."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import signal

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.operating_point import operating_point

FREQUENCY = np.geomspace(1, 1e7, 30)


def response(card: str) -> tuple[np.ndarray, np.ndarray]:
    """The response at FREQUENCY, and the poles."""
    result = ac(structure(f"vin in 0 dc 1 ac 1\n{card}\nrl out 0 1k"), FREQUENCY, [("out", "0")])
    return result.values[0, 0], result.poles[0].values


@pytest.mark.parametrize("form", ["e1 out 0", "g1 0 out"])
@pytest.mark.parametrize(
    ("text", "numerator", "denominator"),
    [
        ("1/(1+1m*s)", [1], [1e-3, 1]),
        ("(1+1u*s)/(1+1m*s)/(1+10n*s)", [1e-6, 1], np.polymul([1e-3, 1], [1e-8, 1])),
        ("1e10/(s*s + 1e4*s + 1e10)", [1e10], [1, 1e4, 1e10]),
        ("1m*s/(1+1m*s)", [1e-3, 0], [1e-3, 1]),
        ("s**2/(s+1e3)^2", [1, 0, 0], np.polymul([1, 1e3], [1, 1e3])),
        ("1/(1+s/1e3+(s/2e3)**2)/(1+s/1e6)", [1], np.polymul([1 / 4e6, 1e-3, 1], [1e-6, 1])),
    ],
)
def test_transfer_functions(form: str, text: str, numerator: list[float], denominator: list[float]) -> None:
    scale = "" if form.startswith("e") else "1m*"
    values, poles = response(f"{form} laplace {{v(in)}} {{{scale}{text}}}")
    _, expected = signal.freqs(numerator, denominator, 2 * np.pi * FREQUENCY)
    assert values == pytest.approx(expected, rel=1e-11)
    roots = np.roots(denominator)
    assert sorted(poles, key=abs) == pytest.approx(sorted(roots, key=abs), rel=1e-6)


def test_an_improper_function_is_a_derivative() -> None:
    values, _ = response("e1 out 0 laplace {v(in)} {1 + 1u*s}")
    assert values == pytest.approx(1 + 2j * np.pi * FREQUENCY * 1e-6, rel=1e-12)


def test_an_integrator_has_an_operating_point_and_the_slope_of_one() -> None:
    circuit = structure("vin in 0 dc 1 ac 1\ne1 out 0 laplace {v(in,out)} {1e3/s}\nrl out 0 1k")
    assert operating_point(circuit).value("out") == pytest.approx(1, rel=1e-8)
    values, _ = response("e1 out 0 laplace {v(in)} {1e3/s}")
    assert values == pytest.approx(1e3 / (2j * np.pi * FREQUENCY), rel=1e-9)


def test_the_input_may_be_an_expression() -> None:
    values, _ = response("e1 out 0 laplace {v(in)*v(in)*3} {1/(1+1m*s)}")
    assert values == pytest.approx(6 / (1 + 2j * np.pi * FREQUENCY * 1e-3), rel=1e-10)


@settings(max_examples=30)
@given(st.lists(st.floats(2, 7), min_size=1, max_size=6), st.floats(-3, 3))
def test_any_real_poles(decades: list[float], gain: float) -> None:
    text = f"{10**gain!r}" + "".join(f"/(1+s/{10**d!r})" for d in decades)
    values, _ = response(f"e1 out 0 laplace {{v(in)}} {{{text}}}")
    expected = 10**gain / np.prod([1 + 2j * np.pi * FREQUENCY / 10**d for d in decades], axis=0)
    # Multiplied out, six factors over five decades lose a few digits.
    assert values == pytest.approx(expected, rel=1e-8)


def test_tables_of_a_response() -> None:
    values, _ = response("e1 out 0 freq {v(in)} = (10,6,0) (1k,6,-45) (100k,-34,-135)")
    decibels, degrees = 20 * np.log10(np.abs(values)), np.degrees(np.angle(values))
    at = np.log10(FREQUENCY)
    assert decibels == pytest.approx(np.interp(at, [1, 3, 5], [6, 6, -34]), abs=1e-9)
    assert degrees == pytest.approx(np.interp(at, [1, 3, 5], [0, -45, -135]), abs=1e-9)
