from __future__ import annotations

import json
from typing import Any

import pytest

from tests.core.boards import board, r, run_rows, source
from tests.core.circuits import DEMO_MODELS, demo
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.errors import BoardError
from verdad_core.sheet.renamed import fixture_renamed, renamed


def test_a_renamed_part_keeps_all_that_rests_on_it() -> None:
    """Numbers, hand values and the rows of a study are what they were; only the name is another."""
    before, after = demo(), renamed(demo(), "R3", "R77")
    drawing = json.dumps(after.model_dump(mode="json")["circuits"][0]["drawing"])
    assert '"R77"' in drawing
    assert '"R3"' not in drawing
    assert "R3." not in drawing
    assert {spread.of for spread in after.spreads} == {
        "R77" if spread.of == "R3" else spread.of for spread in before.spreads
    }
    [first, second] = [run_check(each, "preamp-response", DEMO_MODELS) for each in (before, after)]
    assert [m.value for m in second.measured] == [m.value for m in first.measured]
    assert [m.hand and m.hand.value for m in second.measured] == [m.hand and m.hand.value for m in first.measured]
    rows = [run_rows(each, each.studies[0], DEMO_MODELS, 0, 5).values.tolist() for each in (before, after)]
    assert sorted(map(len, rows)) == [5, 5]
    assert renamed(after, "R77", "R3") == before


def test_a_loop_is_opened_at_the_pin_under_its_new_name() -> None:
    after = renamed(demo(), "U1", "U9")
    assert after.check("preamp-loop")[1].analysis.pins == ("U9.out",)
    assert renamed(after, "U9", "U1") == demo()


def drawn() -> Board:
    asked = [{"id": "i", "key": "value", "of": "i(R1.2) + i( r1 ) - 2*p(R1) + v(R1) + v(in,R1)"}]
    parts: list[dict[str, Any]] = [
        r("R1", "1k", "in", "R1"), r("R10", "1k", "R1", "gnd"),
        {"kind": "statement", "designator": "F1", "pins": ["R1", "gnd"], "text": "r1 2"},
        {"kind": "statement", "designator": "E1", "pins": ["e", "gnd"], "text": "POLY(1) R1 0 0 2"},
        {"kind": "statement", "designator": "B1", "pins": ["b", "gnd"], "text": "V={i(R1) + V(in, R1)}"},
        r("R2", "1k", "e", "b"),
    ]  # fmt: skip
    return board(parts, [source("in", dc="1")], "dc sweep", measurements=asked, analysis={"over": "R1"})


def test_what_speaks_of_the_part_goes_along_and_nets_and_others_stay() -> None:
    circuit, check = renamed(drawn(), "R1", "R7").check("k")
    assert check.measurements[0].of == "i(R7.2) + i( R7 ) - 2*p(R7) + v(R1) + v(in,R1)"
    assert check.analysis.model_dump()["over"] == "R7"
    assert [part.designator for part in circuit.parts] == ["R7", "R10", "F1", "E1", "B1", "R2"]
    texts = [part.model_dump()["text"] for part in circuit.parts[2:5]]
    assert texts == ["R7 2", "POLY(1) R1 0 0 2", "V={i(R7) + V(in, R1)}"]


@pytest.mark.parametrize(
    ("old", "new", "why"),
    [
        ("R9", "R8", "no part R9"),
        ("R1", "R10", "is called R10 already"),
        ("R1", "filter", "no designator"),
        ("F1", "X1", "first letter"),
    ],
)
def test_a_name_that_cannot_be_is_refused(old: str, new: str, why: str) -> None:
    with pytest.raises(BoardError, match=why):
        renamed(drawn(), old, new)


def test_a_renamed_fixture_keeps_what_rests_on_it() -> None:
    """What drives, hand values and expressions follow; a study of its quantity as well; other checks stay."""
    before = demo()
    _, check = before.check("preamp-response")
    [old] = check.analysis.drivers
    document = before.model_dump(mode="json")
    document["studies"].append(
        {"kind": "sweep", "id": "ohms", "title": "Ohms", "checks": ["preamp-response"], "over": f"{old}.resistance"}
    )
    before = Board.model_validate(document)
    after = fixture_renamed(before, "preamp-response", old, "coil")
    assert after.check("preamp-response")[1].analysis.drivers == ("coil",)
    assert after.study("ohms").model_dump()["over"] == "coil.resistance"
    others = [c for _, c in after.checks() if c.id != "preamp-response"]
    assert others == [c for _, c in before.checks() if c.id != "preamp-response"]
    assert fixture_renamed(after, "preamp-response", "coil", old) == before
    [first, second] = [run_check(each, "preamp-response", DEMO_MODELS) for each in (before, after)]
    assert [m.hand and m.hand.value for m in second.measured] == [m.hand and m.hand.value for m in first.measured]


@pytest.mark.parametrize(
    ("old", "new", "why"),
    [("source", "9lives", "no name of a fixture"), ("nobody", "x", "no fixture nobody"), ("source", "p", "called p")],
)
def test_a_fixture_is_not_called_just_anything(old: str, new: str, why: str) -> None:
    fixtures = [{**source("in"), "name": "source"}, {"kind": "supply", "name": "p", "plus": "in", "volts": "5"}]
    two = board([r("R1", "1k", "in", "gnd")], fixtures, "operating point")
    with pytest.raises(BoardError, match=why):
        fixture_renamed(two, "k", old, new)
