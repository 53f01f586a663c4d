import json
from typing import Any

import pytest
from pydantic import ValidationError

from tests.core.circuits import demo
from verdad_core.document.board import Board


def changed(path: list[Any], value: object) -> dict[str, Any]:
    document: dict[str, Any] = json.loads(demo().model_dump_json())
    # What contradicts its drawing is refused for that.
    document["circuits"][0]["drawing"] = None
    at: Any = document
    for step in path[:-1]:
        at = at[step]
    at[path[-1]] = value
    return document


def test_the_document_survives_json() -> None:
    assert Board.model_validate_json(demo().model_dump_json()) == demo()


CHECK = ["circuits", 0, "checks", 0]


@pytest.mark.parametrize(
    ("path", "value", "message"),
    [
        (["circuits", 0, "parts", 1, "value"], "10kk", "two prefixes"),
        (["circuits", 0, "parts", 1, "value"], "-1k", "must be above zero"),
        (["circuits", 0, "parts", 1, "value"], "100nF", "is in F, but Ω is expected"),
        (["circuits", 0, "parts", 1, "designator"], "R1", "designator R1 occurs twice"),
        (["circuits", 0, "parts", 1, "designator"], "../etc", "pattern"),
        ([*CHECK, "analysis", "kind"], "tea leaves", "no kind of check 'tea leaves'"),
        ([*CHECK, "analysis", "output"], None, "valid string"),
        ([*CHECK, "analysis", "source"], "battery", "has no source 'battery'"),
        ([*CHECK, "analysis", "stop"], "1m", "does not rise"),
        ([*CHECK, "measurements", 0, "key"], "loudness", "no measurement 'loudness'"),
        ([*CHECK, "measurements", 0, "hand", "formula"], "1 + * R3", "not expected here"),
        (["spreads", 0, "of"], "R99", "no part with a value"),
        (["spreads", 0, "contributions", 0, "amount"], "0", "leaves no room"),
        (["spreads", 0, "contributions", 0, "amount"], "1pF", "Ω is expected"),
        (["limits", 0, "upper"], "10", "is not below the upper bound"),
        (["limits", 0, "measurement"], "noise", "no measurement 'noise'"),
        (["studies", 0, "checks"], ["missing"], "no check 'missing'"),
        (["colour"], "red", "Extra inputs"),
        (["title"], "nul\0", "should match pattern"),
    ],
)
def test_contradictions_are_refused(path: list[Any], value: object, message: str) -> None:
    with pytest.raises(ValidationError, match=message):
        Board.model_validate(changed(path, value))


def test_a_limit_needs_a_bound() -> None:
    document = changed(["limits", 0, "upper"], None)
    document["limits"][0]["lower"] = None
    with pytest.raises(ValidationError, match="a lower bound, an upper bound, or both"):
        Board.model_validate(document)
