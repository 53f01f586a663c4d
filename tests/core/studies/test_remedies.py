"""What would help a yield, on a corner frequency whose answer is plain."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.boards import low_pass, run_study, spread
from verdad_core.document.board import Board
from verdad_core.studies.keys import column_key
from verdad_core.studies.remedies import Remedies, remedies
from verdad_core.studies.statistics import passing


def corner(lower: str, upper: str, *, ohms: str = "1k", spreads: list[dict[str, Any]] | None = None) -> Board:
    """1 kΩ and 1 µF, 159.15 Hz, with 1 % and 10 %, held between two frequencies in 250 units."""
    limit = {"id": "l", "check": "k", "measurement": "corner", "lower": lower, "upper": upper}
    study = {"id": "mc", "title": "mc", "kind": "monte carlo", "checks": ["k"], "rows": 250}
    own = low_pass(limits=[limit], studies=[study], spreads=spreads or [spread("R1", 1), spread("C1", 10)])
    document = own.model_dump(mode="json")
    document["circuits"][0]["parts"][0]["value"] = ohms
    return Board.model_validate(document)


def tried(board: Board) -> Remedies:
    found = remedies(board, board.studies[0], {}, run_study(board, board.studies[0], {}))
    assert found is not None
    return found


def test_what_carries_the_variation_is_bought_closer_and_a_run_confirms_it() -> None:
    """±10 % of C against ±6 % of the corner: some three fifths hold; with ±1 % all do."""
    board = corner("150", "169.5")
    found = tried(board)
    assert found.now.share == pytest.approx(0.6, abs=0.08)
    best = found.found[0]
    assert best.change.of == "C1"
    assert best.change.spread is not None
    # The next grade is enough, so that it comes before a closer one.
    assert best.change.spread.contributions[0].amount == "5"
    assert best.within.share == 1.0
    assert best.change.words == "C1: ±5 % instead of ±10 %, such as ceramic C0G"
    # A run of the study on the board as it would be says the same, unit by unit.
    spreads = [best.change.spread if each.of == "C1" else each for each in board.spreads]
    mended = board.model_copy(update={"spreads": tuple(spreads)})
    run = run_study(mended, mended.studies[0], {})
    corners = run["k", column_key(mended.check("k")[1].measurement("corner"))].values
    assert int(passing(corners, 150.0, 169.5).sum()) == best.within.passed


def test_a_value_off_centre_is_centred() -> None:
    """1.1 kΩ puts the middle at 144.7 Hz; 1 kΩ or 910 nF, back between the limits."""
    found = tried(corner("140", "180", ohms="1.1k", spreads=[spread("R1", 5), spread("C1", 10)]))
    best = found.found[0]
    assert found.now.share < 0.8
    assert best.change.value in ("1k", "910n")
    assert best.within.share > 0.95


def test_units_that_all_hold_need_no_help() -> None:
    found = tried(corner("100", "300"))
    assert found.now.share == 1.0
    assert not found.found


def test_what_is_left_when_the_time_is_over_is_counted() -> None:
    board = corner("150", "169.5")
    run = run_study(board, board.studies[0], {})
    found = remedies(board, board.studies[0], {}, run, over=lambda: True)
    assert found is not None
    assert found.tried == 0
    assert found.known == 6


def test_without_a_limit_or_a_row_nothing_can_help() -> None:
    board = corner("150", "169.5")
    assert remedies(board, board.studies[0], {}, {}) is None
    without = Board.model_validate(board.model_dump(mode="json") | {"limits": []})
    assert remedies(without, without.studies[0], {}, run_study(without, without.studies[0], {})) is None
