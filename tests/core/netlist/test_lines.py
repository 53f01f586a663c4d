import pytest

from verdad_core.errors import NetlistError
from verdad_core.netlist.lines import MAX_TEXT, Comment, Statement, split


def statements(text: str) -> list[list[str]]:
    return [item.words for item in split(text) if isinstance(item, Statement)]


def test_comments_continuations_and_separators() -> None:
    text = "* header\nE1 3 0 POLY(2) (1,2)\n* between\n+ (4,5) 0 1 ; the end\nR1 1 0 10k $ and here\n"
    assert statements(text) == [["e1", "3", "0", "poly", "2", "1", "2", "4", "5", "0", "1"], ["r1", "1", "0", "10k"]]
    assert [item.text for item in split(text) if isinstance(item, Comment)] == ["header", "between"]


def test_tokens_know_their_place() -> None:
    [statement] = [item for item in split("\n.model D D(IS=1e-14\n+ N=2)") if isinstance(item, Statement)]
    last = statement.tokens[-1]
    assert (statement.line, last.text, last.line, last.column) == (2, "2", 3, 5)


def test_expressions_are_one_token() -> None:
    assert statements("R1 1 0 {a + b}")[0][-1] == "{a + b}"


@pytest.mark.parametrize(
    ("text", "message", "line"),
    [
        ("+ 1 2", "nothing to continue", 1),
        ("R1 1 0 1\n\0\x01", "not a text file", 2),
        ("R1 1 0 1\n" + "x" * 30_000, "30,000 characters", 2),
    ],
)
def test_what_is_no_netlist_is_refused_with_its_line(text: str, message: str, line: int) -> None:
    with pytest.raises(NetlistError, match=message) as caught:
        list(split(text))
    assert caught.value.place.line == line


def test_a_huge_text_is_refused_unread() -> None:
    with pytest.raises(NetlistError, match="at most"):
        list(split("r" * (MAX_TEXT + 1)))
