"""What is written reads back as the same netlist."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.netlist.flatten import flatten
from verdad_core.netlist.reader import read
from verdad_core.netlist.scope import Netlist
from verdad_core.netlist.writer import write

EVERYTHING = """A circuit with every statement
.param a=2 b={a*3+if(a>1,4,5)} c = 1 + 2
.func par(x,y) {x*y/(x+y)}
.global vdd
.temp 50
.options tnom=25
.nodeset v(1)=2 v(2)={a}
.ic v(3)=1
r1 1 2 {par(1k,2k)} tc=1m,2u dtemp=5
r2 1 0 rmod l=10u w=2u
c1 1 0 1u ic=2
c2 1 2 poly 1n 2n 3n
l1 2 3 1m ic=1
l2 3 0 2m
k1 l1 l2 0.9
v1 1 0 dc 1 ac 2 30 pulse(0 5 1u 1n 1n 5u 10u)
v2 4 0 sin(0 1 1k) density=1n corner=10
i1 0 4 exp(0 1 1u 2u)
i2 0 4 pwl(0 0 1u 1 2u 0) repeat=0
v3 5 0 sffm(0 1 1meg 2 1k)
v4 6 0 gaussian(1m 1u 3)
e1 7 0 1 2 10
e2 8 0 poly(2) 1 0 2 0 0 1 2 3
e3 9 0 value={v(1)*2+i(v1)}
e4 10 0 table {v(1,2)} = (0,0) (1,5)
e5 11 0 laplace {v(1)} {1/(1+1m*s)}
e6 12 0 freq {v(1)} = (1k,0,0) (10k,-20,-90)
e7 13 0 nullor 1 2
g1 1 0 value={sin(v(2))**2 - !v(1)}
f1 1 0 v1 2
h1 14 0 poly(1) v1 0 1 2
b1 15 0 v=v(1)<2 & v(2)>=1 ? 1 : -2
b2 1 0 i=uramp(v(1))
d1 1 2 dm area=2
q1 1 2 3 qm
q2 1 2 3 4 qm area=3
j1 1 2 3 jm
m1 1 2 3 4 mm l=1u w=2u
m2 1 2 3 pm
s1 1 2 3 4 sm on
w1 1 2 v1 sm
t1 1 0 2 0 z0=50 td=1n
o1 1 0 2 0 om
u1 1 2 0 um l=2
x1 1 2 box r={a*1k}
.subckt box p q r=1k
.param inner={r*2}
.model dm d(is=1f)
.func g(x) {x+r}
r1 p x {inner}
x2 x q small
.subckt small a b
r1 a b {g(1)}
.ends
.ends
.model dm d(is=1e-15 rs={a} bv=100)
.model d2 ako:dm d(n=2)
.model rmod r(rsh=100)
.model qm npn(bf=100 vaf=50)
.model jm njf(vto=-2)
.model mm nmos(level=3 tox=20n)
.model pm vpmos(vto=-3)
.model sm sw(vt=1 vh=0.1)
.model om ltra(r=1 l=1u c=1n len=2)
.model um urc(rperl=1k cperl=1p)
.op
.dc v1 0 5 1 temp -40 85 25
.dc r1 1k 2k 100
.ac dec 10 1 1meg
.noise v(2,1) v1 oct 2 1 {1k*a}
.tf i(v1) v2
.pz 1 0 2 0 cur pz
.sens v(2)
.sens v(2) ac lin 5 1 10
.tran 1u 1m 0 2u uic
.end
"""


def again(netlist: Netlist) -> Netlist:
    return read(write(netlist), has_title=True)


def test_every_statement_reads_back_the_same() -> None:
    netlist = read(EVERYTHING, has_title=True).require()
    assert again(netlist).require() == netlist
    assert write(again(netlist)) == write(netlist)


def test_a_value_stands_where_readers_look_for_it() -> None:
    text = write(read("c1 a 0 22n ic=1\nr1 a 0 rm 1k\n.model rm r(tc1=1m)").require())
    assert "c1 a 0 2.2e-08 ic=1.0" in text.splitlines()
    assert "r1 a 0 rm 1000.0" in text.splitlines()


def test_equality_notices_a_difference() -> None:
    changed = EVERYTHING.replace("inner={r*2}", "inner={r*3}")
    assert read(changed, has_title=True) != read(EVERYTHING, has_title=True)


NAMES = st.sampled_from(["a", "b", "n1", "out", "0"])
NUMBERS = st.floats(-1e12, 1e12, allow_nan=False).map(repr)
LEAVES = NUMBERS.map(lambda t: f"({t})") | st.sampled_from(["v(a)", "v(a,b)", "i(v1)", "p", "temp", "time"])
EXPRESSIONS = st.recursive(
    LEAVES,
    lambda inner: (
        st.tuples(inner, st.sampled_from(["+", "-", "*", "/", "**", "<", ">=", "==", "&", "|"]), inner).map(
            lambda t: f"({t[0]} {t[1]} {t[2]})"
        )
        | inner.map(lambda t: f"-{t}")
        | st.tuples(st.sampled_from(["sin", "exp", "abs", "ddt"]), inner).map(lambda t: f"{t[0]}({t[1]})")
        | st.tuples(inner, inner, inner).map(lambda t: f"if({t[0]},{t[1]},{t[2]})")
    ),
    max_leaves=12,
)
VALUES = NUMBERS | EXPRESSIONS.map(lambda e: "{" + e + "}")
CARDS = st.one_of(
    st.tuples(st.sampled_from("rcl"), NAMES, NAMES, VALUES).map(lambda t: (t[0], f"{t[1]} {t[2]} {t[3]}")),
    st.tuples(st.sampled_from("vi"), NAMES, NAMES, VALUES, VALUES).map(
        lambda t: (t[0], f"{t[1]} {t[2]} dc {t[3]} ac {t[4]}")
    ),
    st.tuples(st.sampled_from("eg"), NAMES, NAMES, EXPRESSIONS).map(
        lambda t: (t[0], f"{t[1]} {t[2]} value={{{t[3]}}}")
    ),
    st.tuples(st.sampled_from("eg"), NAMES, NAMES, st.lists(VALUES, min_size=1, max_size=6)).map(
        lambda t: (t[0], f"{t[1]} {t[2]} poly(2) a b n1 0 {' '.join(t[3])}")
    ),
    st.tuples(NAMES, NAMES, EXPRESSIONS).map(lambda t: ("b", f"{t[0]} {t[1]} v={t[2]}")),
    st.tuples(NAMES, NAMES, VALUES).map(lambda t: ("d", f"{t[0]} {t[1]} dm area={t[2]}")),
)


@given(st.lists(CARDS, max_size=8))
def test_any_cards_read_back_the_same(cards: list[tuple[str, str]]) -> None:
    text = "title\n" + "\n".join(f"{letter}{k} {rest}" for k, (letter, rest) in enumerate(cards))
    netlist = read(text, has_title=True).require()
    assert again(netlist) == netlist


@pytest.mark.parametrize("text", ["x\nzz 1 2\nr1 1 0 1k\n", "x\n.model m nmos(level=7)\nr1 1 0 1k"])
def test_what_could_not_be_read_is_left_out(text: str) -> None:
    netlist = read(text, has_title=True)
    assert len(flatten(again(netlist)).elements) == 1
