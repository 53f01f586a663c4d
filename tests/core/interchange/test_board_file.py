"""Boards in files: there and back, and what is refused; what changed between two, in words."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.boards import STAGE, asked, low_pass, spread
from tests.core.circuits import demo
from verdad_core.checks.kinds import KINDS
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.errors import BoardError
from verdad_core.intake.bundle import bundle
from verdad_core.interchange.board_file import BoardFile, Bundled, ShelvedModel, TextFile, read_board_file
from verdad_core.interchange.differences import differences

SLOW = ".subckt slow p n o\ng1 0 x p n 1m\nr1 x 0 100k\nc1 x 0 1u\ne1 o 0 x 0 1\n.ends\n"


def with_model() -> BoardFile:
    part = {"kind": "modelled", "designator": "U1", "model": {"id": "slow-1", "name": "slow"},
            "pins": {"in+": "in", "in-": "out", "out": "out"}}  # fmt: skip
    own = low_pass().model_dump(mode="json")
    own["circuits"][0]["parts"].append(part)
    files, _ = bundle([("slow.lib", SLOW.encode())])
    kept = Bundled(id="slow", files=(TextFile(name="slow.lib", text=files.files[0].text),), source="made here")
    model = ShelvedModel(id="slow-1", bundle="slow", file="slow.lib", name="slow", kind="op-amp",
                         roles=("in+", "in-", "out"))  # fmt: skip
    return BoardFile(board=Board.model_validate(own), bundles=(kept,), models=(model,))


def test_a_board_with_its_models_is_read_back_as_it_was_and_runs() -> None:
    file = with_model()
    again = read_board_file("b.json", file.written().encode())
    assert again == file
    result = run_check(again.board, "k", again.shelf)
    assert result.measured[0].value > 0.0


@given(st.sampled_from(KINDS), st.text(max_size=40), st.integers(1, 50))
def test_whatever_is_on_a_board_goes_there_and_back(kind: Any, purpose: str, tolerance: int) -> None:
    clean = "".join(c for c in purpose if c.isprintable())
    board = asked(kind, STAGE).model_dump(mode="json")
    board |= {"purpose": clean.strip(), "spreads": [spread("R1", tolerance, "normal", ageing=1)]}
    file = BoardFile(board=Board.model_validate(board))
    assert read_board_file("b.json", file.written().encode()) == file


def test_a_board_of_an_earlier_version_is_carried_over() -> None:
    """In version 4 a tolerance was a number of per cent."""
    old = low_pass().model_dump(mode="json") | {"schema_version": 4}
    old["spreads"][0]["contributions"] = [{"contributor": "purchase", "tolerance": 2.0, "distribution": "uniform"}]
    text = json.dumps({"format": "verdad board", "version": 1, "board": old})
    assert read_board_file("b.json", text.encode()).board.spreads[0].contributions[0].amount == "2"


def test_what_is_no_board_is_refused_with_the_reason() -> None:
    good = json.loads(with_model().written())
    value = json.loads(json.dumps(good))
    value["board"]["circuits"][0]["parts"][0]["value"] = "4kk"
    other_kind, other_name, fewer = (json.loads(json.dumps(good)) for _ in range(3))
    other_kind["models"][0]["kind"] = "teapot"
    other_name["models"][0]["name"] = "quick"
    fewer["models"][0]["roles"] = ["in+", "in-"]
    for document, words in (
        (json.dumps(other_kind).encode(), "no kind of model 'teapot'"),
        (json.dumps(other_name).encode(), "model quick cannot be used"),
        (json.dumps(fewer).encode(), "another number of nodes"),
        (b'{"format": ', "is damaged"), (b"\xff\xfe\x00", "no text"), (b"[1, 2]", "no file of a board"),
        (json.dumps({"format": "other"}).encode(), "no file of a board"), (b"[" * 100_000, "no file|damaged"),
        (json.dumps(good | {"version": 9}).encode(), "later Verdad"),
        (json.dumps(good | {"board": good["board"] | {"schema_version": 99}}).encode(), "later Verdad"),
        (json.dumps(good | {"more": 1}).encode(), "at more"),
        (json.dumps(good | {"bundles": []}).encode(), "belongs to files that are not in it"),
        (json.dumps(value).encode(), "circuits.0.parts.0.*two prefixes"), (b" " * 90_000_000, "MB"),
    ):  # fmt: skip
        with pytest.raises(BoardError, match=words):
            read_board_file("b.json", document)


def changed(**more: Any) -> Board:
    return Board.model_validate(low_pass().model_dump(mode="json") | more)


def test_what_changed_is_said_in_words() -> None:
    old, new = low_pass(), low_pass().model_dump(mode="json")
    circuit = new["circuits"][0]
    circuit["parts"][0]["value"] = "2k"
    circuit["parts"].append({"kind": "resistor", "designator": "R9", "value": "1k", "pins": ["out", "gnd"]})
    circuit["checks"][0]["analysis"]["stop"] = "1meg"
    circuit["checks"][0]["fixtures"][0]["resistance"] = "50"
    new["limits"][0]["upper"] = "150"
    new["spreads"] = new["spreads"][:1]
    new["title"] = "c"
    new["derating"] = {"resistor": {"power": 60.0}}
    said = differences(old, Board.model_validate(new))
    assert said == [
        "the board: title is c, it was b",
        "the board: derating is resistor power 60.0, it was as usual",
        "c: R1 is 2k, it was 1k",
        "c: part R9 1k was added",
        "c: check k: stop is 1meg, it was left open",
        "c: check k, vin: resistance is 50, it was 0",
        "spread of C1 was removed",
        "limit on k, Upper -3 dB frequency: 120 to 150, it was 120 to 200",
    ]
    assert differences(old, old) == []
    assert differences(demo(), low_pass())


def test_what_a_study_covers_and_a_limit_is_on_is_said() -> None:
    study = {"id": "mc", "title": "mc", "kind": "monte carlo", "checks": ["k"], "rows": 60}
    document = low_pass(studies=[study]).model_dump(mode="json")
    document["circuits"][0]["checks"].append({**document["circuits"][0]["checks"][0], "id": "k2", "title": "again"})
    old = Board.model_validate(document)
    document["studies"][0] |= {"checks": ["k", "k2"], "rows": 80}
    document["limits"][0]["measurement"] = "gain"
    assert differences(old, Board.model_validate(document)) == [
        "study mc: checks is k, k2, it was k",
        "study mc: rows is 80, it was 60",
        "limit on k, Pass-band gain: 120 to 200, it was a limit on k, Upper -3 dB frequency",
    ]
