"""Stages at the ends of what can be asked for, by exact nodal analysis in SymPy with ideal amplifiers."""

from __future__ import annotations

import math
from typing import Any

import pytest
import sympy

from tests.core.stages.test_stages import elements, reached
from verdad_core.devices import Element
from verdad_core.stages import STAGES, compute
from verdad_core.stages.stage import Computed, Stage

S = sympy.Symbol("s")


def transfer(stage: Stage, computed: Computed, grounded: tuple[str, ...] = ()) -> tuple[Any, Any]:
    """Output by input as polynomials in s, exactly: Cramer's rule on the modified nodal equations (Ho et al. 1975)."""
    drive = Element("drive", "voltage source", (stage.input, "0"), {"ac": 1.0})
    every = [*elements(computed), drive, *(Element(f"g{net}", "voltage source", (net, "0")) for net in grounded)]
    nodes = sorted({n for e in every for n in (*e.nodes, *(p for c in e.controls for p in (c.plus, c.minus)))} - {"0"})
    branches = [e for e in every if e.family in ("voltage source", "nullor")]
    index = {name: k for k, name in enumerate([*nodes, *(e.name for e in branches)])}
    matrix, right = sympy.zeros(len(index), len(index)), sympy.zeros(len(index), 1)

    def add(row: str, column: str, value: Any) -> None:
        if "0" not in (row, column):
            matrix[index[row], index[column]] += value

    for element in every:
        a, b = element.nodes[:2]
        if element in branches:
            plus, minus = next(((c.plus, c.minus) for c in element.controls), (a, b))
            for node, other, one in ((a, plus, 1), (b, minus, -1)):
                add(node, element.name, one)
                add(element.name, other, one)
            right[index[element.name]] = 1 if element is drive else 0
            continue
        [value] = (sympy.Rational(repr(v)) for k, v in element.values.items() if k in ("resistance", "capacitance"))
        y = 1 / value if element.family == "resistor" else S * value
        for row, column, sign in ((a, a, 1), (b, b, 1), (a, b, -1), (b, a, -1)):
            add(row, column, sign * y)
    numerator = matrix.copy()
    numerator[:, index[stage.output]] = right
    top, bottom = sympy.fraction(sympy.cancel(numerator.det() / matrix.det()))
    return sympy.Poly(top, S), sympy.Poly(bottom, S)


@pytest.mark.parametrize("gain", ["1", "1000"])
@pytest.mark.parametrize(
    ("key", "grounded", "sign"),
    [("non-inverting", (), 1), ("inverting", (), -1), ("summing", ("in2", "in3"), -1), ("difference", ("inn",), 1),
     ("instrumentation", ("inn",), 1)],
)  # fmt: skip
def test_gains_of_one_and_a_thousand(key: str, grounded: tuple[str, ...], sign: int, gain: str) -> None:
    computed = compute(STAGES[key], {"A": gain})
    top, bottom = transfer(STAGES[key], computed, grounded)
    assert float(top.eval(0) / bottom.eval(0)) == pytest.approx(sign * reached(computed, "A"), rel=1e-12)


@pytest.mark.parametrize("frequency", ["1m", "10meg"])
@pytest.mark.parametrize("quality", ["0.5", "50"])
@pytest.mark.parametrize(
    "key",
    ["low-pass-follower", "low-pass-feedback", "high-pass-follower", "high-pass-feedback", "band-pass-feedback",
     "band-pass-follower"],
)  # fmt: skip
def test_second_orders_from_a_millihertz_to_ten_megahertz(key: str, quality: str, frequency: str) -> None:
    """Of a2 s² + a1 s + a0 the natural frequency is √(a0/a2) / 2π, and Q is √(a0 a2) / a1."""
    # A band-pass with multiple feedback has no more gain than 2 Q².
    less = {"A": "0.25"} if key == "band-pass-feedback" else {}
    computed = compute(STAGES[key], {"Q": quality, "f": frequency, **less})
    a2, a1, a0 = (float(a) for a in transfer(STAGES[key], computed)[1].all_coeffs())
    assert reached(computed, "f") == pytest.approx(math.sqrt(a0 / a2) / (2 * math.pi), rel=1e-11)
    assert reached(computed, "Q") == pytest.approx(math.sqrt(a0 * a2) / a1, rel=1e-11)
