import csv
import io

from tests.core.circuits import demo
from verdad_core.interchange.parts_list import COLUMNS, parts_list


def test_equal_parts_share_a_line_and_fixtures_are_not_in_it() -> None:
    board = demo()
    header, *rows = csv.reader(io.StringIO(parts_list(board.circuits, board.spreads)))
    assert tuple(header) == COLUMNS
    assert ["C2 C3", "2", "capacitor", "100 nF", ""] in rows
    assert ["R1", "1", "resistor", "12 kΩ", "±1 %"] in rows
    assert [row[0] for row in rows] == ["C1", "C2 C3", "R1", "R2", "R3", "R4", "U1"]
    assert "geophone" not in parts_list(board.circuits, board.spreads)
