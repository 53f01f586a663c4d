"""One contract for all kinds of study: a newcomer meets it by being in the table."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from pydantic import ValidationError
from scipy import stats

from tests.core.boards import board, low_pass, r, run_study, source
from verdad_core.checks.quantities import quantity
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.errors import BoardError
from verdad_core.studies.evidence import AsDrawn, Block, MemoryStore, columns_of, evidence, gaps
from verdad_core.studies.fresh import fresh_study
from verdad_core.studies.keys import column_key, rows_key, study_key
from verdad_core.studies.kind import StudyKind, kind_of
from verdad_core.studies.kinds import KINDS
from verdad_core.studies.kinds.monte_carlo import MonteCarlo
from verdad_core.studies.kinds.sweep import Sweep
from verdad_core.studies.rows import Rows
from verdad_core.studies.table import NOTHING
from verdad_core.studies.verdict import State

every_kind = pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)


def fresh(kind: type[StudyKind]) -> tuple[Board, StudyKind]:
    drawn = low_pass()
    study = kind_of(fresh_study(drawn, kind.key(), "k"))
    return drawn.model_copy(update={"studies": (study,)}), study


@every_kind
def test_rows_do_not_depend_on_blocks_or_on_what_else_is_measured(kind: type[StudyKind]) -> None:
    drawn, study = fresh(kind)
    size = min(study.plan(drawn, NOTHING), 24)
    whole = Rows(drawn, study, "k", {}).table(0, size).values
    parts = [Rows(drawn, study, "k", {}).table(*cut).values for cut in pairwise([0, size // 3, size // 2, size])]
    assert np.array_equal(np.concatenate(parts), whole)
    gain = column_key(drawn.check("k")[1].measurement("gain"))
    assert np.array_equal(Rows(drawn, study, "k", {}, [gain]).table(0, size).values[:, 0], whole[:, 1])


@every_kind
def test_what_it_turns_is_there_and_what_it_asks_for_can_be_drawn(kind: type[StudyKind]) -> None:
    drawn, study = fresh(kind)
    size = study.plan(drawn, NOTHING)
    assert 0 < size <= study.size_on(drawn)
    values = study.values(drawn, "k", {}, 0, size, NOTHING)
    for name, numbers in values.items():
        assert quantity(*drawn.check("k"), name).value > 0
        assert len(numbers) == size
    assert bool(study.places(drawn)) == (kind.shape == "curve")
    assert kind.question.endswith("?")
    for name, field in kind.model_json_schema()["properties"].items():
        assert name in ("kind", "id", "title") or field["title"]


@every_kind
def test_its_key_is_that_of_its_rows_and_not_of_how_many(kind: type[StudyKind]) -> None:
    drawn, study = fresh(kind)
    key = rows_key(drawn, study, "k", {})
    document = drawn.model_dump(mode="json")
    document["circuits"][0]["checks"][0]["measurements"].pop()
    # Where rows follow from what others gave, what is measured decides which they are.
    assert (rows_key(Board.model_validate(document), study, "k", {}) == key) != kind.looks_back
    assert rows_key(drawn, study.model_copy(update={"title": "another"}), "k", {}) == key
    document["circuits"][0]["parts"][1]["value"] = "2u"
    assert rows_key(Board.model_validate(document), study, "k", {}) != key
    assert study_key(drawn, study, {}) != key


def test_values_fill_their_tolerance_and_one_more_part_leaves_them_alone() -> None:
    drawn, study = low_pass(), MonteCarlo(id="s", title="s", checks=("k",), rows=4000)
    values = study.values(drawn, "k", {}, 0, 4000, NOTHING)
    assert stats.kstest(values["R1"], stats.uniform(980, 40).cdf).pvalue > 0.01
    assert np.std(values["C1"]) == pytest.approx(1e-7 * stats.truncnorm(-3, 3, scale=1 / 3).std(), rel=0.05)
    fewer = study.values(drawn.model_copy(update={"spreads": drawn.spreads[:1]}), "k", {}, 1000, 2000, NOTHING)
    assert np.array_equal(fewer["R1"], values["R1"][1000:2000])


def test_a_sweep_takes_the_values_that_are_sold() -> None:
    """IEC 60063: E12 between 1 kΩ and 4.7 kΩ, both ends among them."""
    drawn = low_pass()
    study = Sweep(id="s", title="s", checks=("k",), over="R1", start="1k", stop="4.7k", spacing="E12")
    sold = [1e3, 1.2e3, 1.5e3, 1.8e3, 2.2e3, 2.7e3, 3.3e3, 3.9e3, 4.7e3]
    assert study.values(drawn, "k", {}, 0, 99, NOTHING)["R1"].tolist() == sold
    assert study.size_on(drawn) == 9
    for start, stop, why in (("1.01k", "1.1k", "no two values"), ("-1k", "-2k", "above zero"), ("-1", "2", "one side")):
        with pytest.raises(BoardError, match=why):
            study.model_copy(update={"start": start, "stop": stop}).size_on(drawn)


def test_a_sweep_measures_the_closed_form_along_its_quantity() -> None:
    """1/(2π R C) at 21 values of R1, evenly and by equal ratios."""
    drawn = low_pass()
    for spacing in ("linear", "logarithmic"):
        study = Sweep.model_validate({"id": "s", "title": "s", "checks": ["k"], "over": "R1", "points": 21,
                                      "start": "100", "stop": "10k", "spacing": spacing})  # fmt: skip
        [places] = study.places(drawn)
        assert (places.unit, places.values[0], places.values[-1]) == ("Ω", 100.0, pytest.approx(10e3))
        corners = Rows(drawn, study, "k", {}).table(0, 21).values[:, 0]
        # Two decades below the pole, where its range begins, the response is level to 5e-5: the corner to twice that.
        assert corners == pytest.approx(1 / (2 * np.pi * places.values * 1e-6), rel=1.1e-4)


def test_two_quantities_at_once_are_a_map() -> None:
    """1/(2π R C) at every value of the one for every value of the other."""
    drawn = low_pass()
    settings = {"id": "s", "title": "s", "checks": ["k"], "over": "R1", "points": 3, "across": "C1", "across_points": 4}
    study = Sweep.model_validate(settings | {"start": "1k", "stop": "3k", "across_start": "1u", "across_stop": "4u"})
    along, across = study.places(drawn)
    assert (along.title, along.values.tolist(), across.unit, len(across.values)) == ("R1", [1e3, 2e3, 3e3], "F", 4)
    table = Rows(drawn, study, "k", {}).table(0, study.size_on(drawn))
    expected = 1 / (2 * np.pi * along.values[np.newaxis] * across.values[:, np.newaxis])
    assert table.values[:, 0].reshape(4, 3) == pytest.approx(expected, rel=1.1e-4)
    assert np.array_equal(Rows(drawn, study, "k", {}).table(5, 9).values, table.values[5:9])
    for wrong, why in (({"across": "R1"}, "twice"), ({"points": 1000, "across_points": 1000}, "fewer")):
        with pytest.raises(ValueError, match=why):
            Sweep.model_validate(settings | wrong)


def test_a_quantity_that_is_no_number_of_the_engine_is_turned_row_by_row() -> None:
    """The frequency of a source: its sine's own period is what crosses zero."""
    sine = {"kind": "sine", "amplitude": "1", "frequency": "1k"}
    asked = [{"id": "t", "key": "frequency", "of": "v(in)"}]
    drawn = board([r("R1", "1k", "in", "gnd")], [source("in", waveform=sine)], "transient", measurements=asked)
    sweep = Sweep.model_validate({"id": "s", "title": "s", "checks": ["k"], "over": "vin.frequency", "points": 3,
                                  "start": "1k", "stop": "3k"})  # fmt: skip
    assert Rows(drawn, sweep, "k", {}).table(0, 3).values[:, 0] == pytest.approx([1e3, 2e3, 3e3], rel=1e-3)


def test_a_study_of_what_is_gone_says_so() -> None:
    drawn = low_pass()
    sweep = Sweep(id="s", title="s", checks=("k",), over="R9")
    with pytest.raises(BoardError, match="no value called 'R9'"):
        Rows(drawn, sweep, "k", {}).table(0, 2)
    for wrong in ({"over": "R1", "start": "1k", "stop": "1k"}, {"over": "R1", "points": 1}):
        with pytest.raises(ValidationError):
            Sweep.model_validate({"id": "s", "title": "s", "checks": ["k"], **wrong})
    two = [{"kind": "monte carlo", "id": each, "title": "same", "checks": ["k"]} for each in ("a", "b")]
    with pytest.raises(ValidationError, match="the study same occurs twice"):
        low_pass(studies=two)


def test_evidence_is_extended_and_not_computed_again() -> None:
    """More rows ask for those alone, another measurement for its column alone."""
    drawn, study = low_pass(), MonteCarlo(id="s", title="s", checks=("k",), rows=50)
    store = MemoryStore()
    key = rows_key(drawn, study, "k", {})
    columns = [column_key(m) for m in drawn.check("k")[1].measurements]
    table = Rows(drawn, study, "k", {}).table(0, 50)
    for k, column in enumerate(columns):
        store.keep(key, Block(column, 0, 50, table.values[:, k].tolist(), table.causes[:, k].tolist()))
    assert gaps(columns_of(store, key, columns, 50)) == {}
    assert gaps(columns_of(store, key, columns, 100)) == {((50, 100),): columns}
    assert gaps(columns_of(store, key, [*columns, "another"], 50)) == {((0, 50),): ["another"]}
    [row] = evidence(
        low_pass(studies=[study.model_dump()]), {}, store, lambda check: AsDrawn.of(run_check(drawn, check, {}))
    )
    assert row.nominal.state is State.HOLDS
    [cell] = row.cells
    assert cell is not None
    assert cell.worst in (table.values[:, 0].min(), table.values[:, 0].max())
    more = study.model_copy(update={"rows": 80})
    [row] = evidence(
        low_pass(studies=[more.model_dump()]), {}, store, lambda check: AsDrawn.of(run_check(drawn, check, {}))
    )
    assert [cell and (cell.state, cell.why) for cell in row.cells] == [(State.UNPROVEN, "50 of 80 rows are computed")]


def test_it_ends_where_the_yield_is_known_closely_enough() -> None:
    """All pass: ±1 % takes 1 - 0.025^(1/n) < 0.02, n > 183 (Clopper & Pearson 1934); it is looked at 168 and 252."""
    drawn = low_pass().model_copy(update={"limits": ()})
    limit = {"id": "l", "check": "k", "measurement": "corner", "lower": "100", "upper": "300", "reason": "wide"}
    held = Board.model_validate({**drawn.model_dump(mode="json"), "limits": [limit]})
    study = MonteCarlo(id="s", title="s", checks=("k",), rows=1000, enough=1.0)
    found = run_study(held, study, {})
    assert {len(column.values) for column in found.values()} == {252}
    assert study.plan(held, found) == 252
    # More than it needs is left out; without a limit nothing is known; and a yield in the middle takes all.
    longer = run_study(held, study.model_copy(update={"enough": None}), {})
    assert study.plan(held, longer) == 252
    assert len(next(iter(run_study(drawn, study, {}).values())).values) == 1000
