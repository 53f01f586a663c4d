"""What is written is read or refused: a stray word anywhere changes what a statement says, or is an error."""

from __future__ import annotations

import re

import pytest

from tests.core.circuits import EVERYTHING
from verdad_core.errors import Severity
from verdad_core.netlist.lines import Statement, split
from verdad_core.netlist.reader import read
from verdad_core.netlist.scope import Netlist

#: Statements of forms that EVERYTHING does not have.
MORE = """
b2 o5 0 i={twice}*v(a)
e3 o6 0 value={twice}*v(a)
g2 o6 0 table {v(a)} = (0,0) (1,{twice}*2)
e4 o7 0 laplace {v(a)} = {twice}/(1+s*1u)
e5 o7 0 freq {v(a)} = (1,0,0) (10,-20,-90)
e6 o8 0 nullor a b
h1 o8 0 v_in 2
r9 a 0 rmod 2k tc=1m,2u
c9 a 0 poly 1n 1m
.model rmod r(tc1=1m lot=5% dev 1%)
j1 d g s jj 2
.model jj njf(vto=-2)
m1 d g s b mm l=1u w=2u
.model mm nmos(level=1 vto=1)
w1 a b v_in ww on
.model ww csw(it=1m)
t1 a 0 b 0 z0=50 td=5n
o1 a 0 b 0 lossy
.model lossy ltra(r=1 l=1u c=1n len=1)
u1 a b 0 rc l=1
.model rc urc(rperl=1 cperl=1p)
v3 a 0 sin(0 1 1k 0 0 0 5) dc 1 ac 1 30
v4 a 0 exp(0 1 1u 1u 2u 1u)
v5 a 0 sffm(0 1 1k 1 100)
v6 a 0 pwl(0 0 +1m 1 repeat for 3 (0 0 1m 1) endrepeat)
v7 a 0 am(1 1 100 1k 0)
.subckt box in out params: gain=2
.if {gain > 1}
r1 in out {gain}
.else
r1 in out 1
.endif
.ends box
.ic v(a)=1
.nodeset v(a)=1 v(b)=2
.options reltol=1e-4 method=gear tnom=25
.temp 30
.dc v_in 0 1 0.1
.dc dec v_in 1 10 5 temp list 1 2 3
.ac list 1 10 100
.tran 1u 1m 0 1u uic
.noise v(a,b) v_in dec 10 1 1k
.tf v(a) v_in
.pz a 0 b 0 vol pz
.sens v(a) ac dec 10 1 10
.four 1k v(a) i(v_in)
"""

#: What takes any words, or says how much is listed.
FREE = (".title", ".end", ".global")


def statements() -> list[tuple[str, Statement]]:
    text = EVERYTHING + MORE
    return [(line, item) for item in split(text) if isinstance(item, Statement) for line in [item.text]]


def shape(netlist: Netlist) -> tuple[object, ...]:
    return netlist.top, netlist.commands, netlist.celsius, netlist.nominal, netlist.tolerances, netlist.method


def refuses(netlist: Netlist) -> bool:
    return any(finding.severity is not Severity.NOTE for finding in netlist.findings) or any(
        "no effect here" in finding.message for finding in netlist.findings
    )


def corpus(changed: int, line: str) -> str:
    return "\n".join(line if k == changed else text for k, (text, _) in enumerate(statements()))


def test_the_corpus_itself_is_read() -> None:
    assert not refuses(read(corpus(-1, "")))


@pytest.mark.parametrize("stray", ["stray", "7.25", "{7}"])
def test_a_stray_word_is_read_or_refused(stray: str) -> None:
    whole = shape(read(corpus(-1, "")))
    missed = []
    for k, (line, statement) in enumerate(statements()):
        if statement.keyword in FREE:
            continue
        for token in (*statement.tokens[1:], None):
            at = len(line) if token is None else token.start
            changed = f"{line[:at]} {stray} {line[at:]}"
            found = read(corpus(k, changed))
            if not refuses(found) and shape(found) == whole:
                missed.append(changed)
    # How much of a noise analysis is listed has no meaning here.
    assert [line for line in missed if not line.startswith(".noise")] == []


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("d1 a 0 m\n.model m d(is=1,5e-12)", "'5e-12' is not understood here"),
        ("e1 a 0 freq {v(b)} = (1,0,0) (10,-20,-90) delay=1u", "'delay' is not understood here"),
        (".ic v(out)=1 i(l1)=0.2", "'i' is not understood here"),
        (".nodeset v(a,b)=2", "'b' is not understood here"),
        ("k1 l1 l2 0.99 core3", "a core's model is not read"),
        (".param time=3", "time is the time itself"),
        (".subckt x in out params: temp=85\n.ends", "temp is the temperature itself"),
        (".subckt x 0 1 2\n.ends", "a pin named 0"),
        (".temp -300", "below absolute zero"),
        (".noise v(0) v1 dec 10 1 1k", "looks at ground"),
        ("r\u200b1 a 0 1k", "U\\+200B"),
        ("r1 a 0 1e-3k", "is not a number"),
        (".if {1}\nr1 a 0 1", "no .endif"),
        (".else", ".else without .if"),
        ("r1 a 0 1 tc1=1 tc1=2", "given twice"),
    ],
)
def test_what_is_not_read_is_refused(line: str, message: str) -> None:
    assert any(re.search(message, finding.message) for finding in read(line).errors), read(line).findings


def test_a_separator_of_other_alphabets_ends_no_line() -> None:
    """U+2028 in a comment, and a form feed, leave the lines as any editor counts them."""
    text = "* one\u2028r9 b 0 1k\n\x0c\nr1 a 0 1k\nr2 a 0 x="
    netlist = read(text)
    assert [card.name for card in netlist.top.cards] == ["r1", "r2"]
    assert netlist.errors[0].place.line == 4
