from __future__ import annotations

import numpy as np
import pytest
import sympy
from hypothesis import given
from hypothesis import strategies as st

from tests.core.circuits import structure
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.small_signal import linearised
from verdad_core.devices.program import Program
from verdad_core.engine.structure import Structure


def source(expression: str, functions: str = "") -> Structure:
    return structure(f"{functions}\nv1 a 0 0.3\nv2 b 0 2\nb1 out 0 v={expression}\nr1 out 0 1k")


def program(circuit: Structure) -> Program:
    found = next(element.extra for element in circuit.elements if element.name == "b1")
    assert isinstance(found, Program)
    return found


def value_and_slope(circuit: Structure, control: str = "a") -> tuple[float, float]:
    """What the source gives, and how it follows a node's voltage."""
    point = operating_point(circuit)
    g, _ = linearised(point)
    whole = np.zeros((circuit.size, circuit.size))
    whole[circuit.rows, circuit.columns] = g[0]
    return point.value("out"), -float(whole[circuit.index("i(b1)"), circuit.index(control)])


def test_a_part_that_repeats_is_computed_once() -> None:
    once = source("sin(v(a)*v(b)+1)")
    twice = source("sin(v(a)*v(b)+1) + 3*sin(v(a)*v(b)+1)")
    # Added: times and plus.
    assert len(program(twice).operations) == len(program(once).operations) + 2
    assert value_and_slope(twice) == pytest.approx([4 * np.sin(1.6), 8 * np.cos(1.6)], rel=1e-12)


def test_functions_within_functions_grow_by_sums_and_not_by_products() -> None:
    """X + x (1 - x) / 2, twelve times over, and the slope by the chain rule."""
    nested, x, slope = "v(a)", 0.3, 1.0
    for _ in range(12):
        nested = f"f({nested})"
        x, slope = x + 0.5 * x * (1 - x), slope * (1.5 - x)
    circuit = source(nested, ".func f(x) {x+0.5*x*(1-x)}")
    assert len(program(circuit).operations) < 12 * 4 + 1
    assert value_and_slope(circuit) == pytest.approx([x, slope], rel=1e-12)


def test_decisions_of_a_repeated_part_are_one() -> None:
    circuit = source("if(v(a)*2>v(b)-1, 1, 0) + 10*if(v(a)*2>v(b)-1, 1, 0)")
    assert program(circuit).decisions == 1
    assert value_and_slope(circuit)[0] == 0.0


EXPRESSIONS = st.recursive(
    st.sampled_from(["v(a)", "v(b)", "1.5", "(-0.25)"]),
    lambda inner: st.one_of(
        st.tuples(inner, st.sampled_from("+-*"), inner).map(lambda t: f"({t[0]}{t[1]}{t[2]})"),
        st.tuples(st.sampled_from(["sin", "cos", "tanh", "atan"]), inner).map(lambda t: f"{t[0]}({t[1]})"),
        # The same part twice, and one that divides.
        inner.map(lambda t: f"({t}*cos({t}))"),
        inner.map(lambda t: f"({t}/(1+({t})**2))"),
    ),
    max_leaves=8,
)


@given(EXPRESSIONS)
def test_slopes_to_every_control_are_those_of_sympy(expression: str) -> None:
    """Repeated parts, constants, and controls that come in on several ways; rounding only, as nothing is iterated."""
    circuit = source(f"{expression}+0*v(a)*v(b)")
    a, b = sympy.symbols("a b")
    exact = sympy.sympify(expression.replace("v(a)", "a").replace("v(b)", "b"), locals={"a": a, "b": b})
    for control, symbol in (("a", a), ("b", b)):
        expected = [float(term.subs({a: 0.3, b: 2})) for term in (exact, sympy.diff(exact, symbol))]
        assert value_and_slope(circuit, control) == pytest.approx(expected, rel=1e-10, abs=1e-10)


def test_a_slope_that_does_not_count_may_be_infinite() -> None:
    """At zero the root of v(a) rises without bound, and is multiplied by zero, or not chosen."""
    for expression in ("0*sqrt(v(a)-0.3)+v(a)", "if(v(b)>1, v(a), sqrt(v(a)-0.3))"):
        assert value_and_slope(source(expression)) == pytest.approx([0.3, 1.0], rel=1e-12)
