"""What the first line of a pasted netlist is; that it is the title is common practice, no source."""

from __future__ import annotations

import pytest

from verdad_core.errors import Severity
from verdad_core.netlist.titles import read_pasted

BODY = "v1 in 0 1\nr1 in out 1k\nc1 out 0 1u\n"


@pytest.mark.parametrize(
    "title", ["three-axis sum", "relay driver", "diode clamp at the cable's end", "Quarry, second try", "500 Hz filter"]
)
@pytest.mark.parametrize("end", ["", ".end\n"])
def test_a_line_that_is_no_statement_is_the_title(title: str, end: str) -> None:
    netlist = read_pasted(f"{title}\n{BODY}{end}")
    assert netlist.title == title
    assert not netlist.findings
    assert [card.name for card in netlist.top.cards] == ["v1", "r1", "c1"]
    wrong = read_pasted(f"{title}\nv1 in 0\nr1 in\n{end}")
    assert [finding.place.line for finding in wrong.findings if finding.severity is Severity.ERROR][:1] == [3]


def test_a_statement_stays_one_where_nothing_ends_the_text() -> None:
    netlist = read_pasted(BODY)
    assert not netlist.title
    assert [card.name for card in netlist.top.cards] == ["v1", "r1", "c1"]


def test_what_could_be_either_is_told() -> None:
    netlist = read_pasted(f"r9 in out 2k\n{BODY}.END\n")
    assert netlist.title == "r9 in out 2k"
    assert "is taken as the title" in netlist.findings[0].message
    assert netlist.findings[0].place.line == 1


@pytest.mark.parametrize("first", ["* a comment", ".param a=1", ""])
def test_comments_commands_and_blank_lines_are_no_titles(first: str) -> None:
    netlist = read_pasted(f"{first}\n{BODY}.end\n")
    assert not netlist.title
    assert not netlist.findings


def test_an_error_further_down_does_not_make_the_first_line_a_title() -> None:
    netlist = read_pasted("r1 in out 1k\nr2 in\n")
    assert not netlist.title
    assert netlist.findings[0].place.line == 2
