import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.errors import Severity, VerdadError
from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import MAX_FINDINGS, read


def errors(text: str) -> list[tuple[int | None, str]]:
    return [(finding.place.line, finding.message) for finding in read(text).errors]


@pytest.mark.parametrize(
    ("text", "line", "message"),
    [
        (".subckt a 1 2\nr1 1 2 1k\n", 1, "subcircuit a has no .ends"),
        ("r1 1 0 1k\n.ends\n", 2, ".ends without .subckt"),
        (".subckt a 1 2\n.ends\n.subckt a 1 2\n.ends", 3, "defined twice"),
        ("a1 1 2 3 and", 1, "starts no element"),
        ("r1 1 0 1k abc=2", 1, "parameter 'abc' is not known"),
        ("v1 1 0 dc abc", 1, "'abc' is not a number"),
        ("r1 1 0", 1, "incomplete"),
        ("r1 1 0 {2*}", 1, "something is missing"),
        ("r1 1 0 {2*x", 1, "not closed"),
        (".param a", 1, "'a' is not understood here"),
        (".func f(x) {1", 1, "not closed"),
        (".func f", 1, "incomplete"),
        (".model m d(is=-1)", 1, "must be above zero"),
        ("v1 1 0 sin(0)", 1, "SIN has 1 values; it takes 2 to 7"),
        ("e1 1 0 poly(9.5) 1 2 0 1", 1, "impossible dimension"),
        ("e1 1 0 poly(3) 1 2 3 4 0", 1, "incomplete"),
        ("g1 1 0 table {v(1)} = (0,1) (2)", 1, "TABLE takes pairs"),
        ("b1 1 0 q=1", 1, "'q' is not understood"),
        (".subckt a 1 1\n.ends", 1, "names node 1 twice"),
    ],
)
def test_what_cannot_be_read_is_an_error_with_its_line(text: str, line: int, message: str) -> None:
    found = errors(text)
    assert any(at == line and message in said for at, said in found), found


def test_one_bad_statement_does_not_hide_the_rest() -> None:
    netlist = read("r1 1 0 1k\nzz\n.model good d(is=1f)\n.model odd d(foo=1 is=1f)\n")
    assert [card.name for card in netlist.top.cards if card.refusal is None] == ["r1"]
    assert set(netlist.top.models) == {"good", "odd"}
    assert [finding.severity for finding in netlist.findings] == [Severity.ERROR, Severity.WARNING]


def test_text_after_end_is_not_read() -> None:
    assert not read("r1 1 0 1k\n.end\nnonsense").findings


def test_the_title_line_keeps_line_numbers_right() -> None:
    netlist = read("My circuit\nr1 1 0 {\n", has_title=True)
    assert netlist.title == "My circuit"
    assert netlist.errors[0].place.line == 2


def test_findings_are_bounded() -> None:
    assert len(read("zz\n" * 5000).findings) == MAX_FINDINGS + 1


NETLIST_LIKE = st.text(alphabet="rcqdxefgv.subcktmodelends 0123456789knp()=,+*\n{}'", max_size=300)


@given(NETLIST_LIKE | st.text(max_size=200))
def test_any_text_is_read_without_a_crash(text: str) -> None:
    netlist = read(text)
    try:
        flatten(netlist)
    except VerdadError as error:
        assert error.message
