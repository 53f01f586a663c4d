"""The bench of every ready stage that has one: it runs, and holds what the stage was asked for."""

from __future__ import annotations

import math

import numpy as np
import pytest

from verdad_core.checks.run import run_check
from verdad_core.document.board import Board, Circuit
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.trace import Trace
from verdad_core.measure.units import NONE
from verdad_core.stages import STAGES, compute
from verdad_core.stages.bench import bench_of
from verdad_core.stages.stage import Stage
from verdad_core.units import parse_value


@pytest.mark.parametrize(
    "stage", [each for each in STAGES.values() if each.shows or each.switched], ids=lambda stage: stage.key
)
def test_a_stage_holds_its_goals_on_its_bench(stage: Stage) -> None:
    computed = compute(stage, {})
    bench = bench_of(stage, computed, {})
    assert bench is not None
    board = Board(title="b", circuits=(Circuit(id="c", title="c", parts=computed.parts, checks=(bench.check,)),))
    result = run_check(board, "bench", {})
    found = {each.id: each.value for each in result.measured}
    assert all(math.isfinite(value) for value in found.values()), result.findings
    for held in bench.limits:
        assert parse_value(held.lower) < found[held.measurement] < parse_value(held.upper)
        assert held.reason.startswith("the stage's goal")
    assert result.sentence


@pytest.mark.parametrize("key", ["step-down-diode", "step-down-synchronous"])
def test_a_converter_ripples_as_by_hand(key: str) -> None:
    """Erickson and Maksimovic, chapter 2, of ideal switches; 10 mΩ and a diode's drop are off it."""
    computed = compute(STAGES[key], {})
    bench = bench_of(STAGES[key], computed, {})
    assert bench is not None
    circuit = Circuit(id="c", title="c", parts=computed.parts, checks=(bench.check,))
    result = run_check(Board(title="b", circuits=(circuit,)), "bench", {})
    assert result.objection is None
    for measured in result.measured[1:]:
        assert measured.hand is not None
        assert abs(measured.hand.deviation) < 10.0, measured


def test_a_stage_that_is_shown_otherwise_has_none() -> None:
    assert bench_of(STAGES["schmitt"], compute(STAGES["schmitt"], {}), {}) is None


@pytest.mark.parametrize("stage", [stage for stage in STAGES.values() if stage.shows], ids=lambda stage: stage.key)
def test_what_is_shown_as_typed_is_the_closed_form(stage: Stage) -> None:
    """The text that one reads as a hand value says the same as the function beside it."""
    figures = {"R1": 1.1e3, "R2": 2.3e3, "R3": 3.7e3, "R4": 4.9e3, "C1": 1.3e-9, "C2": 2.9e-9, "A": 3.1}
    for result in stage.results:
        typed = read_expression(result.typed).evaluate(lambda probe: Trace(np.asarray(figures[probe.name]), NONE))
        assert float(typed.values) == pytest.approx(result.function(figures), rel=1e-12), result.typed


@pytest.mark.parametrize("key", ["non-inverting", "inverting", "summing", "transimpedance", "rc"])
def test_a_bench_has_the_hand_value_of_its_goal(key: str) -> None:
    """Beside what is measured with op-amps from data-sheet figures: within the 5 % that would be doubtful."""
    computed = compute(STAGES[key], {})
    bench = bench_of(STAGES[key], computed, {})
    assert bench is not None
    circuit = Circuit(id="c", title="c", parts=computed.parts, checks=(bench.check,))
    board = Board(title="b", circuits=(circuit,))
    first = run_check(board, bench.check.id, {}).measured[0]
    assert first.hand is not None
    assert abs(first.hand.deviation) < 5.0
    plain = bench_of(STAGES["non-inverting"], compute(STAGES["non-inverting"], {"A": "1"}), {"A": "1"})
    assert plain is not None
    assert plain.check.measurements[0].hand is None  # its resistors are a wire and nothing
