"""The demo board as it is loaded: what each of its circuits is there to show."""

from __future__ import annotations

import pytest
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from verdad.db.tables import BoardRow
from verdad.demo.load import load_demo
from verdad.shelf.store import load
from verdad_core.checks.run import CheckResult, run_check
from verdad_core.document.board import Board
from verdad_core.document.parts import Modelled


@pytest.fixture
def results(engine: Engine) -> dict[str, CheckResult]:
    """Every check of the whole demo, run."""
    with Session(engine) as session:
        assert not load_demo(session)  # a board is there
        for row in session.query(BoardRow):
            session.delete(row)
        session.flush()
        assert load_demo(session)
        board = Board.model_validate(session.query(BoardRow).one().document)
        used = {part.model.id for each in board.circuits for part in each.parts if isinstance(part, Modelled)}
        models = load(session, used)
        return {check.id: run_check(board, check.id, models) for _, check in board.checks()}


def test_every_circuit_shows_what_it_is_there_for(results: dict[str, CheckResult]) -> None:
    inverter = results["inverter-loop"]
    assert inverter.sentence == "Unstable: it oscillates near 6.86 MHz."
    assert inverter.objection is not None
    [peak] = results["sum-blast"].measured
    assert peak.hand is not None
    assert peak.hand.value == pytest.approx(6.0)
    assert peak.hand.doubtful
    assert not peak.hand.slips
    clips = [finding.message for finding in results["sum-blast"].findings if "clips" in finding.message]
    assert len(clips) == 2
    assert "lacks 2.2 V" in clips[0]
    for check, title in (("filter-response", "corner"), ("reference-rest", "volts"), ("baseline-response", "corner")):
        found = next(each for each in results[check].measured if each.id == title)
        assert found.hand is not None
        assert abs(found.hand.deviation) < 5.0, check
    assert "45° are left with" in results["reference-load"].sentence
    assert results["preamp-response"].objection is None
    day, night = results["supply-day"], results["supply-night"]
    assert abs(day.measured[0].value - 5.0) < 0.25
    assert all(each.hand is not None and abs(each.hand.deviation) < 10.0 for each in day.measured[1:])
    assert any("L71 conducts continuously" in finding.message for finding in day.findings)
    assert any("L71 conducts discontinuously" in finding.message for finding in night.findings)
    assert night.measured[0].value > 5.25
    corner, _, match = results["line-ports"].measured
    assert corner.hand is not None
    assert abs(corner.hand.deviation) < 10.0
    assert match.value < -14.0
