"""Rows of studies: what each gives, whatever else is asked for, and why where it gives none."""

from __future__ import annotations

import json

import numpy as np
import pytest

from tests.core.boards import RAILS, amplifier, board, r, run_rows, source, spread, supply
from tests.core.circuits import DEMO_MODELS, demo, with_value
from verdad_core.checks.cause import Cause
from verdad_core.checks.keys import check_key
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board, Limit
from verdad_core.errors import BoardError
from verdad_core.intake.bundle import bundle
from verdad_core.intake.model import Model
from verdad_core.studies.keys import study_key
from verdad_core.studies.kind import kind_of
from verdad_core.studies.table import NOTHING, Column
from verdad_core.studies.verdict import State, judge

CHECK = "preamp-response"


def test_rows_are_the_same_in_any_cut_and_every_time() -> None:
    board = demo()
    whole = run_rows(board, board.studies[0], DEMO_MODELS, 0, 60).values
    parts = [run_rows(board, board.studies[0], DEMO_MODELS, start, start + 20).values for start in (0, 20, 40)]
    assert np.array_equal(np.concatenate(parts), whole)
    assert np.array_equal(run_rows(board, board.studies[0], DEMO_MODELS, 0, 60).values, whole)


def test_row_spread_agrees_with_the_closed_form() -> None:
    """F = 1/(2π (R2 + Rs‖R1) C1): with C1 alone ±10 % uniform, f lies between f0/1.1 and f0/0.9."""
    document = json.loads(demo().model_dump_json())
    document["spreads"] = [spread("C1", 10)]
    board = Board.model_validate(document)
    bandwidth = run_rows(board, board.studies[0], DEMO_MODELS, 0, 300).values[:, 1]
    nominal = run_check(board, CHECK, DEMO_MODELS).measured[1].value
    assert bandwidth.min() > nominal / 1.1
    assert bandwidth.max() < nominal / 0.9
    # Mean of 1/x for x uniform in [0.9, 1.1] is ln(1.1/0.9)/0.2 = 1.00336; 300 rows give ± 0.0033 (one σ).
    assert bandwidth.mean() / nominal == pytest.approx(1.00336, abs=0.01)


def test_a_row_without_a_number_is_kept_as_such() -> None:
    document = json.loads(demo().model_dump_json())
    document["circuits"][0]["checks"][0]["analysis"]["stop"] = "950"
    board = Board.model_validate(document)
    bandwidth = run_rows(board, board.studies[0], DEMO_MODELS, 0, 40).values[:, 1]
    assert 0 < np.sum(np.isnan(bandwidth)) < 40
    assert judge(board.limits[0], Column.of(bandwidth), 3).state is State.BREAKS


def test_keys_follow_what_results_depend_on() -> None:
    board, study = demo(), demo().studies[0]
    key = study_key(board, study, DEMO_MODELS)
    assert study_key(with_value("R1", "12k1"), study, DEMO_MODELS) != key
    assert study_key(board, study.model_copy(update={"seed": 2}), DEMO_MODELS) != key
    relaxed = board.model_copy(update={"spreads": board.spreads[:-1]})
    assert study_key(relaxed, study, DEMO_MODELS) != key
    assert check_key(relaxed, CHECK, DEMO_MODELS) == check_key(board, CHECK, DEMO_MODELS)
    renamed = board.model_copy(update={"title": "Another title", "limits": ()})
    assert study_key(renamed, study, DEMO_MODELS) == key


def trigger(kind: str, **analysis: str) -> Board:
    """An op-amp whose output goes back to its non-inverting input: at rest in the middle it cannot stay."""
    parts = [amplifier("U1", "p", "gnd", "out"), r("R1", "10k", "out", "p"), r("R2", "10k", "p", "gnd")]
    asked = [{"id": "v", "key": "final" if kind == "transient" else "value", "of": "v(out)"}]
    drawn = board(parts, RAILS, kind, measurements=asked, analysis=analysis)
    return studied(drawn)


def studied(drawn: Board, tolerance: float = 5, rows: int = 10) -> Board:
    study = {"kind": "monte carlo", "id": "s", "title": "s", "checks": ["k"], "rows": rows}
    spreads = [spread("R1", tolerance)]
    return Board.model_validate({**drawn.model_dump(mode="json"), "spreads": spreads, "studies": [study]})


@pytest.mark.parametrize(("kind", "analysis"), [("operating point", {}), ("transient", {"stop": "1u"})])
def test_rows_that_rest_where_they_cannot_stay_give_no_number(kind: str, analysis: dict[str, str]) -> None:
    drawn = trigger(kind, **analysis)
    table = run_rows(drawn, drawn.studies[0], {}, 0, 10)
    assert table.column(0).without == {Cause.UNSTABLE: 10}
    result = run_check(drawn, "k", {})
    assert result.objection is not None
    assert "will not stay" in result.objection.message


def test_a_row_that_cannot_be_built_is_refused_alone() -> None:
    """A sweep of R1 through zero: 0 Ω is no resistance (a negative one is that of an active load)."""
    parts = [r("R1", "10k", "in", "out"), r("R2", "10k", "out", "gnd")]
    asked = [{"id": "v", "key": "value", "of": "v(out)"}]
    drawn = board(parts, [supply("in", "1")], "operating point", measurements=asked)
    sweep = {"kind": "sweep", "id": "s", "title": "s", "checks": ["k"], "over": "R1", "start": "-10k", "stop": "30k",
             "points": 5}  # fmt: skip
    drawn = Board.model_validate({**drawn.model_dump(mode="json"), "studies": [sweep]})
    column = run_rows(drawn, drawn.studies[0], {}, 0, 5).column(0)
    assert column.without == {Cause.REFUSED: 1}
    assert column.why == "1 of 5 rows gave no number: 1 refused"
    assert column.values[2:] == pytest.approx([0.5, 1 / 3, 0.25], rel=1e-9)
    limit = Limit.model_validate({"id": "l", "check": "k", "measurement": "v", "lower": "0", "reason": "x"})
    assert judge(limit, column, 5).state is State.BREAKS


def test_a_study_does_not_depend_on_how_many_rows_are_asked_for_at_once() -> None:
    """500 rows of 5,000 points are more than one sweep may have."""
    parts = [r("R1", "10k", "in", "out"), r("R2", "10k", "out", "gnd")]
    asked = [{"id": "v", "key": "value", "of": "v(out)", "settings": {"place": "0.5"}}]
    analysis = {"over": "vin", "start": "0", "stop": "1", "points": 5000}
    drawn = studied(board(parts, [source("in")], "dc sweep", measurements=asked, analysis=analysis), rows=500)
    whole = run_rows(drawn, drawn.studies[0], {}, 0, 500)
    assert not whole.column(0).why
    assert np.array_equal(whole.values[490:], run_rows(drawn, drawn.studies[0], {}, 490, 500).values)


def test_a_row_has_a_time_of_its_own(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("verdad_core.studies.rows.ROW_SECONDS", 0.0)
    parts = [r("R1", "10k", "in", "out"), r("R2", "10k", "out", "gnd")]
    asked = [{"id": "v", "key": "maximum", "of": "v(out)"}]
    sine = {"kind": "sine", "frequency": "1meg", "amplitude": "1"}
    drawn = board(parts, [source("in", waveform=sine)], "transient", measurements=asked, analysis={"stop": "1"})
    drawn = studied(drawn)
    assert run_rows(drawn, drawn.studies[0], {}, 0, 2).column(0).without == {Cause.OUT_OF_TIME: 2}


def test_what_stands_beside_a_number_by_hand_keeps_a_study_current() -> None:
    document = json.loads(demo().model_dump_json())
    for measurement in document["circuits"][0]["checks"][0]["measurements"]:
        measurement["hand"] = None
    without = Board.model_validate(document)
    assert study_key(without, without.studies[0], DEMO_MODELS) == study_key(demo(), demo().studies[0], DEMO_MODELS)


def test_sources_loads_and_parameters_of_models_vary_as_parts_do() -> None:
    """A divider of a source's resistance and a load, and a model's parameter that no part sets: exact in every row."""
    files, _ = bundle([("m.lib", b".subckt att a b params: ohms=1k\nr1 a b {ohms}\n.ends\n")])
    models = {"m": Model(files, "m.lib", "att", ("a", "b"))}
    part = {
        "kind": "modelled", "designator": "U1", "model": {"id": "m", "name": "att"}, "pins": {"a": "in", "b": "out"}
    }  # fmt: skip
    fixtures = [
        source("in", dc="1", resistance="1k"),
        {"kind": "load", "name": "load", "plus": "out", "minus": "gnd", "resistance": "2k"},
    ]
    asked = [{"id": "v", "key": "value", "of": "v(out)"}]
    drawn = board([part], fixtures, "operating point", measurements=asked)
    spreads = [spread("vin.resistance", 10), spread("load", 20, ageing=5), spread("U1.ohms", 30)]
    study = {"kind": "monte carlo", "id": "s", "title": "s", "checks": ["k"], "rows": 10}
    drawn = Board.model_validate({**drawn.model_dump(mode="json"), "spreads": spreads, "studies": [study]})
    values = kind_of(drawn.studies[0]).values(drawn, "k", models, 0, 10, NOTHING)
    assert set(values) == {"vin.resistance", "load", "U1.ohms"}
    expected = values["load"] / (values["load"] + values["vin.resistance"] + values["U1.ohms"])
    table = run_rows(drawn, drawn.studies[0], models, 0, 10)
    # Printed and read again with all digits, so no more is lost than a linear solution loses.
    assert table.values[:, 0] == pytest.approx(expected, rel=1e-9)
    assert np.ptp(values["U1.ohms"]) > 200


def test_what_only_another_check_has_does_not_vary_and_what_none_has_is_told() -> None:
    """A pulse's level varies in the transient that has it; the same source of the response has no waveform."""
    parts = [r("R1", "1k", "in", "out"), r("R2", "1k", "out", "gnd")]
    drawn = board(parts, [source("in", dc="1")], "operating point")
    document = drawn.model_dump(mode="json")
    [check] = document["circuits"][0]["checks"]
    pulsed = source("in", dc="1", waveform={"kind": "pulse", "level": "2"})
    moving = {**check, "id": "t", "fixtures": [pulsed], "analysis": {"kind": "transient", "stop": "1m"}}
    document["circuits"][0]["checks"].append(moving)
    document["spreads"] = [spread("vin.level", 5), spread("R1", 1)]
    document["studies"] = [{"kind": "monte carlo", "id": "s", "title": "s", "checks": ["k", "t"], "rows": 10}]
    both = Board.model_validate(document)
    study = kind_of(both.studies[0])
    assert set(study.values(both, "k", {}, 0, 10, NOTHING)) == {"R1"}
    assert set(study.values(both, "t", {}, 0, 10, NOTHING)) == {"R1", "vin.level"}
    document["circuits"][0]["checks"].pop()
    document["studies"][0]["checks"] = ["k"]
    alone = Board.model_validate(document)
    with pytest.raises(BoardError, match=r"vin.level, which no check has any more"):
        study.values(alone, "k", {}, 0, 10, NOTHING)
