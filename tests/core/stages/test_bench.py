"""The bench of every ready stage that has one: it runs, and holds what the stage was asked for."""

from __future__ import annotations

import math

import pytest

from verdad_core.checks.run import run_check
from verdad_core.document.board import Board, Circuit
from verdad_core.stages import STAGES, compute
from verdad_core.stages.bench import bench_of
from verdad_core.stages.stage import Stage
from verdad_core.units import parse_value


@pytest.mark.parametrize("stage", [each for each in STAGES.values() if each.shows], ids=lambda stage: stage.key)
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


def test_a_stage_that_is_shown_otherwise_has_none() -> None:
    assert bench_of(STAGES["schmitt"], compute(STAGES["schmitt"], {}), {}) is None
