"""Documents of earlier forms open as what they were."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import ValidationError

from verdad_core.document.board import Board
from verdad_core.document.upgrades import upgraded

#: A board as the first version wrote it.
FIRST: dict[str, Any] = {
    "schema_version": 1, "title": "b", "purpose": "", "thin_margin": 5.0,
    "circuits": [{
        "id": "c", "title": "c", "definitions": "", "drawing": None,
        "parts": [{"kind": "resistor", "designator": "R1", "value": "1k", "pins": ["in", "out"], "rating": None},
                  {"kind": "capacitor", "designator": "C1", "value": "1u", "pins": ["out", "gnd"], "rating": None}],
        "checks": [
            {"id": "f", "title": "f", "temperature": "27", "cards": None, "output": "out", "source": "vin",
             "fixtures": [{"kind": "source", "name": "vin", "plus": "in", "minus": "gnd", "resistance": "50"}],
             "analysis": {"kind": "frequency response", "start": "1", "stop": None, "points_per_decade": 50},
             "measurements": [{"id": "g", "key": "passband_gain", "of": "response", "at": None, "hand": None},
                              {"id": "v", "key": "value", "of": "db(response)", "at": "1k", "hand": None}]},
            {"id": "t", "title": "t", "temperature": "27", "cards": None, "output": "out", "source": "vin",
             "fixtures": [{"kind": "source", "name": "vin", "plus": "in", "minus": "gnd", "resistance": "50"}],
             "analysis": {"kind": "transient", "stop": "1m", "since": "0", "longest": None, "begin": "cold"},
             "measurements": [{"id": "s", "key": "settling_time", "of": "v(out)", "at": "0.1", "hand": None},
                              {"id": "x", "key": "crossing", "of": "v(out)", "at": "0.5", "hand": None},
                              {"id": "m", "key": "maximum", "of": "v(out)", "at": "7", "hand": None}]},
        ],
    }],
    "spreads": [{"part": "R1", "tolerance": 1.0, "distribution": "normal"}],
    "studies": [{"kind": "monte carlo", "id": "s", "check": "f", "seed": 3, "rows": 60}],
    "limits": [{"id": "l", "check": "f", "measurement": "g", "lower": "0.9", "upper": None, "reason": "why"}],
}  # fmt: skip


def test_a_board_of_the_first_version() -> None:
    board = Board.model_validate(FIRST)
    response, transient = (check for _, check in board.checks())
    assert (response.analysis.nets, response.analysis.drivers) == (("out",), ("vin",))
    assert transient.analysis.nets == ("out",)
    assert [m.title for m in response.measurements] == ["Pass-band gain", "Value of db(response) at 1k"]
    assert [m.settings for m in transient.measurements] == [{"band": "0.1"}, {"level": "0.5"}, {}]
    [study] = board.studies
    assert (study.title, study.checks, study.model_dump()["rows"]) == ("Monte Carlo", ("f",), 60)
    # What is written now reads back as the same.
    assert Board.model_validate(board.model_dump(mode="json")) == board


def test_a_board_of_the_second_version() -> None:
    """Its spreads are of what was bought, and the main quantity of a fixture had a name of its own."""
    second = {"schema_version": 2, "title": "b", "circuits": FIRST["circuits"], "spreads": FIRST["spreads"]}
    vin = {"kind": "source", "name": "vin", "plus": "in", "resistance": "50"}
    check = {"id": "k", "title": "k", "fixtures": [vin], "analysis": {"kind": "operating point"}, "measurements": []}
    second["circuits"] = [{**FIRST["circuits"][0], "checks": [check]}]
    second["studies"] = [
        {"kind": "sweep", "id": over, "title": over, "checks": ["k"], "over": f"vin.{over}"}
        for over in ("dc", "resistance")
    ]
    board = Board.model_validate(second)
    assert [study.model_dump()["over"] for study in board.studies] == ["vin", "vin.resistance"]
    [spread] = board.spreads
    [own] = spread.contributions
    assert (spread.of, spread.group) == ("R1", None)
    assert (own.contributor, own.amount, own.distribution) == ("purchase", "1", "normal")


def test_a_closed_form_of_the_third_version_is_a_formula() -> None:
    """Its symbols are the parts that stood for them; a name that is no word stands in quotes."""
    measurements: list[dict[str, Any]] = [
        {"id": f"m{k}", "key": "passband_gain", "hand": {"form": form, "inputs": inputs}}
        for k, (form, inputs) in enumerate([
            ("source_rc_cutoff", {"R": "R2", "C": "C1", "Rs": "geophone.resistance", "Rp": "R1"}),
            ("noninverting_gain", {"Rf": "R1", "Rg": "+5V"}),
        ])
    ]  # fmt: skip
    measurements.append({"id": "none", "key": "passband_gain", "hand": None})
    third = {"schema_version": 3, "circuits": [{"checks": [{"measurements": measurements}]}]}
    [circuit] = upgraded(third)["circuits"]
    hands = [each["hand"] for each in circuit["checks"][0]["measurements"]]
    assert [hand and hand["formula"] for hand in hands] == [
        "1/(2*pi*(R2 + geophone.resistance||R1)*C1)", '1 + R1/"+5V"', None
    ]  # fmt: skip


@pytest.mark.parametrize(
    "strange", [{"schema_version": []}, {"schema_version": 7}, {"circuits": [{"checks": 3}], "schema_version": 1}, 5]
)
def test_what_is_no_document_of_an_earlier_version_is_refused_where_it_stands(strange: Any) -> None:
    assert upgraded(strange) is not None
    with pytest.raises(ValidationError):
        Board.model_validate(strange)
