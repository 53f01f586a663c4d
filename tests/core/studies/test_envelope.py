"""The envelope of a curve over the units of a study, against the closed form of every unit."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.boards import board, low_pass, r, source
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.errors import MeasurementError
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.trace import Trace
from verdad_core.studies.envelope import BORDERS, envelope
from verdad_core.studies.kinds.monte_carlo import MonteCarlo
from verdad_core.studies.table import NOTHING

RATIO = "mag(v(out))"
STUDY = MonteCarlo(id="s", title="s", checks=("k",), rows=40)


def as_drawn(drawn: Board, of: str) -> Trace:
    signals = run_check(drawn, "k", {}).signals
    assert signals is not None
    return signals.evaluate(read_expression(of))


def test_bands_are_the_percentiles_of_what_every_unit_does() -> None:
    """|1/(1 + jωRC)| of each drawn R and C at every point."""
    drawn = low_pass()
    found = envelope(drawn, STUDY, "k", RATIO, as_drawn(drawn, RATIO), {}, 40, NOTHING)
    values = STUDY.values(drawn, "k", {}, 0, 40, NOTHING)
    omega = 2 * np.pi * found.axis.values[:, np.newaxis]
    every = np.abs(1 / (1 + 1j * omega * values["R1"] * values["C1"])).T
    assert (found.rows, found.left_out) == (40, 0)
    assert found.axis.logarithmic
    assert found.nominal == pytest.approx(np.abs(1 / (1 + 1j * omega[:, 0] * 1e-3)), rel=1e-9)
    # Where the range was left open each unit has points of its own, with straight lines between them.
    within = np.all(np.isfinite(found.bands), axis=0)
    assert np.mean(within) > 0.9
    assert found.bands[:, within] == pytest.approx(np.percentile(every, BORDERS, axis=0)[:, within], abs=2e-3)


def test_it_ends_when_time_is_over_with_what_it_has() -> None:
    calls = iter(range(1000))
    drawn = low_pass()
    found = envelope(drawn, STUDY, "k", RATIO, as_drawn(drawn, RATIO), {}, 40, NOTHING, lambda: next(calls) > 20)
    assert 0 < found.rows < 40


def test_a_number_is_no_curve() -> None:
    drawn = board([r("R1", "1k", "in", "gnd")], [source("in", dc="1")], "operating point")
    with pytest.raises(MeasurementError, match="single number"):
        envelope(drawn, STUDY, "k", "v(in)", as_drawn(drawn, "v(in)"), {}, 40, NOTHING)
