from __future__ import annotations

import numpy as np
import pytest

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


def value_and_slope(circuit: Structure) -> tuple[float, float]:
    """What the source gives, and how it follows v(a)."""
    point = operating_point(circuit)
    g, _ = linearised(point)
    whole = np.zeros((circuit.size, circuit.size))
    whole[circuit.rows, circuit.columns] = g[0]
    return point.value("out"), -float(whole[circuit.index("i(b1)"), circuit.index("a")])


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
