"""The report on a board: its text, and that it needs nothing besides itself."""

from __future__ import annotations

import re
from datetime import date
from html.parser import HTMLParser
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from tests.core.boards import low_pass
from verdad.check_board import check_file
from verdad.report.matrix import Verdict, cell_words
from verdad.report.page import Provenance, page
from verdad.report.plots import plots_of
from verdad_core.checks.burden import burdens
from verdad_core.checks.cards import cards_of
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.interchange.board_file import BoardFile
from verdad_core.studies.evidence import AsDrawn, MemoryStore, evidence, judged
from verdad_core.studies.stress import stress
from verdad_core.studies.verdict import State


class Tags(HTMLParser):
    """Counts what stands open, and keeps what is linked to."""

    def __init__(self) -> None:
        super().__init__()
        self.open: list[str] = []
        self.wrong: list[str] = []
        self.links: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.links += [value for name, value in attrs if name in ("src", "href") and value]
        if tag not in ("meta", "br", "path", "rect"):
            self.open.append(tag)

    def handle_endtag(self, tag: str) -> None:
        if tag in ("path", "rect"):
            return
        if not self.open or self.open.pop() != tag:
            self.wrong.append(tag)


def report(board: Board) -> str:
    rows = evidence(board, {}, MemoryStore(), lambda check: AsDrawn.of(run_check(board, check, {})))
    verdict = Verdict(board, ("Nominal", *(study.title for study in judged(board))), rows)
    borne = stress(board, {}, lambda check: burdens(board, check, {}))
    models = [Provenance("OVN1", "op-amp", "ovn1.lib", "a maker's pages", "2026-01-02")]
    return page(verdict, lambda check: run_check(board, check, {}), borne, models, date(2026, 12, 2), "Revision 3")


def changed(**more: Any) -> Board:
    return Board.model_validate(low_pass().model_dump(mode="json") | more)


def test_it_says_the_verdict_first_and_then_what_shows_it() -> None:
    study = {"id": "mc", "title": "Production", "kind": "monte carlo", "checks": ["k"], "rows": 60}
    text = report(changed(studies=[study], title="Blast <monitor>"))
    for words in ("Blast &lt;monitor&gt;", "Its one limit is not proven", "159.2 Hz", "no current run", "120 to 200",
                  "Production", "At most 60 rows", "Revision 3", "2026-12-02", "Open points", "a rating: R1, C1",
                  "<svg", "OVN1", "a maker&#39;s pages", "1 kΩ", "No part has a rating"):  # fmt: skip
        assert words in text, words
    tags = Tags()
    tags.feed(text)
    assert (tags.wrong, tags.open, tags.links) == ([], [], [])
    assert "<script" not in text
    assert report(changed(studies=[study], title="Blast <monitor>")) == text


def test_what_holds_what_breaks_and_what_promises_nothing() -> None:
    assert "Its one limit holds in all that was studied" in report(low_pass())
    limit = {"id": "l", "check": "k", "measurement": "corner", "upper": "100"}
    broken = report(changed(limits=[limit]))
    assert "Its one limit breaks" in broken
    assert "at most 100" in broken
    assert "beyond the limit" in broken
    gain = {"id": "m", "check": "k", "measurement": "gain", "lower": "0.5"}
    several = [limit, limit | {"id": "again"}, gain]
    assert "Of 3 limits 2 break, 1 holds in all that was studied." in report(changed(limits=several))
    assert "Nothing is promised" in report(changed(limits=[]))


def test_curves_are_drawn_within_their_frame() -> None:
    board = low_pass()
    circuit, check = board.check("k")
    result = run_check(board, "k", {})
    assert result.signals is not None
    drawn = [svg for card in cards_of(circuit, check) for svg in plots_of(card, result.signals)]
    assert len(drawn) == 2
    for svg in drawn:
        path = re.search(r'd="(M[^"]*)" class="curve"', svg)
        assert path is not None
        points = re.findall(r"[ML]([\d.]+) ([\d.]+)", path[1])
        assert all(62.0 <= float(x) <= 436.1 and 18.0 <= float(y) <= 156.0 for x, y in points)


def test_the_command_and_the_service_write_it(api: TestClient, board: dict[str, Any], tmp_path: Path) -> None:
    text = api.get(f"/api/boards/{board['id']}/verdict/report")
    assert text.headers["content-type"].startswith("text/html")
    assert "Geophone preamplifier" in text.text
    assert "Revision 1" in text.text
    file, target = tmp_path / "board.json", tmp_path / "report.html"
    file.write_text(BoardFile(board=low_pass()).written())
    check_file(file, only=(), evidence_folder=None, print_json=False, junit=None, run=True, report=target)
    assert "Its one limit holds in all that was studied" in target.read_text()


def test_a_cell_says_its_worst_value_or_why_there_is_none() -> None:
    [row] = evidence(low_pass(), {}, MemoryStore(), lambda check: AsDrawn.of(run_check(low_pass(), check, {})))
    assert cell_words(row.nominal, "Hz") == "159.2 Hz, 20.4 % from the limit"
    assert row.nominal.state is State.HOLDS
