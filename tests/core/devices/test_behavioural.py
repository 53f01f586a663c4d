"""Behavioural sources against Python's own mathematics, and their derivatives in the small-signal response."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.circuits import structure
from verdad_core.analyses.ac import ac
from verdad_core.analyses.operating_point import operating_point


def value(expression: str, a: float, b: float) -> float:
    point = operating_point(structure(f"va a 0 {a!r}\nvb b 0 {b!r}\nb1 x 0 v={expression}\nrx x 0 1k"))
    point.require()
    return point.value("x")


@pytest.mark.parametrize(
    ("expression", "expected"),
    [
        ("v(a)*v(b) - v(a,b)/2", lambda a, b: a * b - (a - b) / 2),
        ("sin(v(a)) + cos(v(b)) + tan(v(a)/9)", lambda a, b: math.sin(a) + math.cos(b) + math.tan(a / 9)),
        (
            "exp(-v(a)) * ln(v(b)) * log10(v(b)) * log(v(b))",
            lambda a, b: math.exp(-a) * math.log(b) ** 3 / math.log(10),
        ),
        ("sqrt(v(b)) + v(b)**1.5 + pwr(-v(b), 2)", lambda a, b: math.sqrt(b) + b**1.5 + b**2),
        ("pwrs(-v(b), 3) + sgn(-v(b)) + stp(v(a)) + uramp(v(a))", lambda a, b: -(b**3) - 1 + 1 + a),
        ("limit(v(a), 0, 1) + min(v(a), v(b)) + max(v(a), v(b))", lambda a, b: min(a, 1) + a + b),
        ("sinh(v(a)/5)+cosh(v(b)/5)+tanh(v(a))", lambda a, b: math.sinh(a / 5) + math.cosh(b / 5) + math.tanh(a)),
        ("asinh(v(a))+acosh(v(b)+1)+atanh(v(a)/9)", lambda a, b: math.asinh(a) + math.acosh(b + 1) + math.atanh(a / 9)),
        ("asin(v(a)/9)+acos(v(b)/9)+atan(v(a))+atan2(v(a),v(b))", None),
        ("if(v(a) > v(b), 1, v(a) < v(b) ? 2 : 3)", lambda a, b: 1.0 if a > b else 2.0),
        ("(v(a) >= 1 & v(b) <= 9) + !(v(a) == v(b)) + (v(a) != v(b) | 0)", lambda a, b: (a >= 1 and b <= 9) + 2.0),
        ("table(v(a), 0, 0, 1, 10, 3, 20)", lambda a, b: float(np.interp(a, [0, 1, 3], [0, 10, 20]))),
        ("i(va) * 1k + temp", lambda a, b: 27.0),
        ("hypot(v(a), v(b)) + abs(-v(b)) + floor(v(a)) + ceil(v(b)) + int(-v(b))", None),
    ],
)
@pytest.mark.parametrize(("a", "b"), [(0.5, 2.5), (1.7, 0.3), (3.5, 4.25)])
def test_functions_have_the_values_of_mathematics(expression: str, expected: object, a: float, b: float) -> None:
    if callable(expected):
        reference = expected(a, b)
    elif "asin" in expression:
        reference = math.asin(a / 9) + math.acos(b / 9) + math.atan(a) + math.atan2(a, b)
    else:
        reference = math.hypot(a, b) + b + math.floor(a) + math.ceil(b) + math.trunc(-b)
    # The load draws nothing from the controls, so only rounding and Newton's last step (1e-7 of it) are left.
    assert value(expression, a, b) == pytest.approx(reference, rel=1e-12, abs=1e-12)


@given(st.floats(-3, 3), st.floats(-3, 3))
def test_a_product_is_a_product(a: float, b: float) -> None:
    assert value("v(a)*v(b)", a, b) == pytest.approx(a * b, rel=1e-12, abs=1e-13)


def test_the_small_signal_gain_is_the_derivative() -> None:
    circuit = structure("va a 0 dc 0.7 ac 1\nb1 x 0 v=exp(v(a))*v(a)**2\nrx x 0 1")
    response = ac(circuit, np.array([1.0]), [("x", "0")])
    assert response.values[0, 0, 0] == pytest.approx(math.exp(0.7) * (0.49 + 1.4), rel=1e-12)


def test_derivative_and_integral_turn_by_ninety_degrees() -> None:
    circuit = structure("va a 0 dc 0 ac 1\nb1 x 0 v=ddt(2*v(a))\nb2 y 0 v=sdt(3*v(a))\nrx x 0 1\nry y 0 1")
    f = np.array([1.0, 1e3])
    response = ac(circuit, f, [("x", "0"), ("y", "0")]).values[0]
    assert response[0] == pytest.approx(2j * 2 * np.pi * f, rel=1e-12)
    assert response[1] == pytest.approx(3 / (2j * np.pi * f), rel=1e-11)


def test_a_source_may_close_a_loop_around_itself() -> None:
    """X = cos x has the one solution 0.739085..., the Dottie number."""
    point = operating_point(structure("b1 x 0 v=cos(v(x))\nrx x 0 1k"))
    point.require()
    assert point.value("x") == pytest.approx(0.7390851332151607, rel=1e-9)
