"""Rows on several threads: as many structures as runs, so that what is compiled at first use is made by all at once."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.circuits import structure
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.transient import transient
from verdad_core.engine.matrix import ParameterMatrix

TEXT = "v1 in 0 pulse(0 5 0 1u 1u 1 2)\nr1 in out 1k\nc1 out 0 1u\nd1 out 0 dd\n.model dd d(is=1e-14)"


@pytest.mark.parametrize("turn", range(4))
def test_transients_of_rows_on_threads_are_those_of_each_alone(turn: int) -> None:
    """On Python 3.12 and newer this ended the process: a table was let go while threads used its address."""
    ohms = np.linspace(500.0, 2000.0, 12) * (1.0 + 0.01 * turn)
    circuit = structure(TEXT)
    rows = ParameterMatrix.varied(circuit, {("r1", "resistance"): ohms})
    found = transient(circuit, 2e-3, [("out", "0")], matrix=rows, threads=6)
    for row in (0, 5, 11):
        alone = transient(circuit.with_values({("r1", "resistance"): float(ohms[row])}), 2e-3, [("out", "0")])
        assert found.value("out", row) == pytest.approx(alone.value("out"), rel=1e-12)


def test_operating_points_do_not_depend_on_threads() -> None:
    circuit = structure(TEXT.replace("pulse(0 5 0 1u 1u 1 2)", "5"))
    rows = ParameterMatrix.varied(circuit, {("r1", "resistance"): np.geomspace(1.0, 1e9, 500)})
    one, many = (operating_point(circuit, rows, threads=threads) for threads in (1, 6))
    np.testing.assert_array_equal(one.values, many.values)
