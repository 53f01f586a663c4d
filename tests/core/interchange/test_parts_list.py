import csv
import io

import pytest

from tests.core.boards import board, c, r, source, spread
from tests.core.circuits import demo
from verdad_core.document.board import Board
from verdad_core.errors import BoardError
from verdad_core.interchange.parts_list import COLUMNS, parts_list
from verdad_core.interchange.parts_taken import take_parts


def test_equal_parts_share_a_line_and_fixtures_are_not_in_it() -> None:
    board = demo()
    header, *rows = csv.reader(io.StringIO(parts_list(board.circuits, board.spreads)))
    assert tuple(header) == COLUMNS
    assert ["C2 C3", "2", "capacitor", "100 nF", "", "", "", "", "", ""] in rows
    assert ["R1", "1", "resistor", "12 kΩ", "±1 %"] in [row[:5] for row in rows]
    assert [row[0] for row in rows] == ["C1", "C2 C3", "R1", "R2", "R3", "R4", "U1"]
    assert "geophone" not in parts_list(board.circuits, board.spreads)


def two_parts(**more: object) -> Board:
    drawn = board([r("R1", "1k", "in", "out"), c("C1", "1u", "out", "gnd")], [source("in")], "operating point")
    return Board.model_validate(drawn.model_dump() | more)


def test_a_list_that_was_written_is_taken_back_as_it_was() -> None:
    spreads = [spread("R1", 2, "normal", ageing=0.5, group="pair"), spread("C1", 10)]
    own = two_parts(spreads=spreads)
    taken = take_parts(two_parts(), "parts.csv", parts_list(own.circuits, own.spreads).encode())
    assert sorted(taken.spreads, key=lambda each: each.of, reverse=True) == list(own.spreads)
    assert not taken.values
    assert not taken.findings
    again = take_parts(own, "parts.csv", parts_list(own.circuits, own.spreads).encode())
    assert (again.spreads, again.known) == ((), 2)


def test_a_list_from_elsewhere_sets_values_and_tolerances_and_leaves_what_it_is_silent_of() -> None:
    text = "\ufeffRef;Maker;Value;Tol\r\nr1;any;4k7;1%\r\nC1;any;;-20 +80\r\n"
    taken = take_parts(two_parts(spreads=[spread("R1", 5, "normal", ageing=1)]), "list.csv", text.encode())
    assert taken.values == {"R1": "4k7"}
    first, second = taken.spreads
    assert {each.contributor: each.amount for each in first.contributions} == {"purchase": "1", "ageing": "1"}
    assert first.contributions[0].distribution == "normal"
    assert second.contributions[0].amount == "-20 +80"
    oneway = take_parts(two_parts(), "list.csv", b"Ref,Tol\nR1,+10 %\nC1,\xc2\xb1 2.5 %\n").spreads
    assert [each.contributions[0].amount for each in oneway] == ["+10 %", "2.5"]


def test_what_cannot_be_taken_is_said_with_its_line() -> None:
    text = 'Designators,Value,Tolerance\nR9,1k,1\nR1,4k7,"0,5"\nC1,10kΩ,1\nC1,1u,10m\nR1,4k7,5 pF\n'
    taken = take_parts(two_parts(), "list.csv", text.encode())
    assert [finding.place.line for finding in taken.findings] == [2, 3, 4, 6]
    messages = " ".join(f"{finding.message} {finding.remedy}" for finding in taken.findings)
    assert "no part R9 Did you mean R1" in messages
    assert "decimal comma Write 0.5." in messages
    # Of a line that was refused in part the rest is kept only where it was read before.
    assert taken.spreads[0].of == "C1"


@pytest.mark.parametrize("text", ["", "a,b\n1,2\n", "Value,Tolerance\n1k,1\n", "Designators\nR1\n"])
def test_a_file_without_designators_is_refused(text: str) -> None:
    with pytest.raises(BoardError, match="no column of designators"):
        take_parts(two_parts(), "list.csv", text.encode())
