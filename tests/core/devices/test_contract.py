"""What every registered family must keep: its Jacobian is the derivative of its equations, and charge is conserved."""

import re
from dataclasses import replace

import numpy as np
import pytest

from tests.core.circuits import structure
from tests.core.devices.evaluate import evaluate
from verdad_core.devices import FAMILIES, FAMILY_OF, Family

TIES = "ra a 0 1k\nrb b 0 1k\nrc c 0 1k\nrd d 0 1k\n"
CARDS = {
    "resistor": ["r1 a b 2k tc1=1m tc2=1u"],
    "capacitor": ["c1 a b 2n"],
    "inductor": ["l1 a b 2u"],
    "voltage source": ["v1 a b dc 1 ac 1 45"],
    "current source": ["i1 a b dc 1m ac 1"],
    "controlled voltage": ["e1 a b c d 3", "e1 a b poly(3) (c,0) (d,0) (a,d) 0 1 2", "v9 c d 0\nh1 a b v9 100"],
    "controlled current": ["g1 a b c d 3m", "g1 a b poly(2) c 0 d 0 0 1m 2m", "v9 c d 0\nf1 a b v9 3"],
    "polynomial voltage": ["e1 a b poly(2) (c,0) (d,0) 0.1 1 2 0.3 0.4 0.5"],
    "polynomial current": ["g1 a b poly(3) c 0 d 0 a b 0 1m 2m 3m 4m 5m 6m 7m 8m", "g1 a b poly(1) c d 1m 2m"],
    "diode": [
        "d1 a b m\n.model m d(is=1n rs=3 n=1.2 tt=5n cjo=10p vj=0.7 m=0.4)",
        "d1 b a m\n.model m d(is=1n bv=0.35 ibv=1u cjo=10p)",
    ],
    "bipolar": [
        f"q1 a b c d m\n.model m {kind}(is=1f bf=80 nf=1.02 vaf=40 ikf=2m ise=1p ne=1.8 br=3 nr=1.01 var=9 ikr=5m "
        "isc=2p nc=1.9 re=2 rc=7 cje=3p tf=0.3n xtf=3 vtf=2 itf=3m cjc=2p xcjc=0.6 tr=5n cjs=1p mjs=0.4)"
        for kind in ("npn", "pnp")
    ],
}  # fmt: skip
MOS = "vto=0.4 kp=60u gamma=0.4 phi=0.6 rd=20 rs=10 cbd=2p cbs=3p cgso=1n cgdo=2n cgbo=3n tox=40n is=1f"
CARDS |= {
    "coupling": ["l1 a b 2u\nl2 c d 3u\nl3 c b 1u\nk1 l1 l2 l3 0.6"],
    "nullor": ["e1 a b nullor c d"],
    "transfer voltage": ["e1 a b laplace {v(c,d)} {(1+2u*s)/(1+1u*s+3p*s*s)}", "e1 a b laplace {v(c)*2+v(d)} {1/s}"],
    "transfer current": ["g1 a b laplace {v(c,d)} {2m*(1+2u*s)/(1+1u*s)}"],
    "tabulated voltage": ["e1 a b freq {v(c,d)} = (1k,0,0) (10k,-20,-90)"],
    "tabulated current": ["g1 a b freq {v(c,d)} = (0,6,10) (10k,-20,-90)"],
    "line": [
        "t1 a b c d z0=50 td=1n",
        "o1 a b c d m\n.model m ltra(r=3 l=250n g=1m c=100p len=2)",
        "u1 a b c m l=1\n.model m urc(rperl=1k cperl=1p)",
    ],
    "behavioural voltage": [
        "b1 a b v=v(c)*v(d)+exp(v(c,d))/(1+v(a)**2)",
        "e1 a b value={if(v(c)>v(d), table(v(c),-1,-2,0,0,1,3), tanh(v(d))*time+temp*1m)}",
    ],
    "behavioural current": [
        "b1 a b i=1m*limit(v(c),-0.3,0.3)+pwrs(v(d),1.5)",
        "g1 a b value={1m*atan2(v(c),2)*hypot(v(d),1)}",
    ],
    "quantity": ["e1 a b laplace {v(c)*v(d)} {1/(1+1u*s)}"],
    "derivative": ["b1 a b v=v(c)*ddt(v(d)*v(c)*1u)"],
    "integral": ["b1 a b v=v(c)+sdt(v(d)*v(c)*1k)"],
    "switch": ["s1 a b c d m\n.model m sw(vt=0.1 vh=0.05 ron=2 roff=2k)", "v9 c d 0\nw1 a b v9 m\n.model m csw(it=1m)"],
    "smooth switch": ["s1 a b c d m\n.model m vswitch(von=1 voff=-1 ron=2 roff=2k)"],
    "jfet": [
        f"j1 a b c m\n.model m {kind}(vto={vto} beta=2m lambda=0.02 rd=3 rs=4 cgs=3p cgd=2p is=1f isr=1p fc=0.4)"
        for kind, vto in (("njf", -0.4), ("pjf", -0.4))
    ],
    "mosfet": [
        f"m1 a b c d m l=2u w=20u ad=1p as=1p\n.model m {kind}({MOS} {more})"
        for kind in ("nmos", "pmos")
        for more in (
            "lambda=0.02",
            "level=2 nsub=1e15 xj=0.3u ld=0.1u uo=500 ucrit=2e4 uexp=0.1 delta=1 nfs=1e11",
            "level=2 nsub=1e15 xj=0.3u vmax=5e4 neff=2",
            "level=3 nsub=1e15 xj=0.3u ld=0.1u theta=0.1 eta=0.05 kappa=0.5 vmax=1e5 delta=1 nfs=1e11",
            "level=3 nsub=1e15 theta=0.1",
        )
    ],
    "power mosfet": [
        f"m1 a b c m\n.model m {kind}(vto={vto} kp=0.2 lambda=0.01 theta=0.1 rd=0.2 rs=0.1 rg=3 rds=1k cgs=1n "
        "cgdmax=2n cgdmin=0.1n a=2 is=1p rb=0.1 tt=10n cjo=1n bv=0.8 ibv=1u)"
        for kind, vto in (("vnmos", 0.3), ("vpmos", -0.3))
    ],
}  # fmt: skip
#: Unknowns whose equation is no balance of currents: branches, states, and currents into ports.
NO_BALANCE = re.compile(r"^i\(|:(state|port|transport|rate)")

CASES = [(family, card) for family, cards in CARDS.items() for card in cards]


def test_every_family_is_covered() -> None:
    assert set(CARDS) == {family.name for family in FAMILIES}


@pytest.mark.parametrize(("family", "card"), CASES)
@pytest.mark.parametrize("celsius", [27.0, 85.0])
def test_jacobians_are_the_derivatives(family: str, card: str, celsius: float) -> None:
    circuit = structure(TIES + card)
    generator = np.random.default_rng(7)
    for _ in range(6):
        x = generator.uniform(-0.65, 0.65, circuit.size)
        at = evaluate(circuit, x, celsius)
        for k in range(circuit.size):
            step = np.zeros(circuit.size)
            step[k] = 1e-6
            plus, minus = evaluate(circuit, x + step, celsius), evaluate(circuit, x - step, celsius)
            for slope, jacobian in (((plus.f - minus.f) / 2e-6, at.g), ((plus.q - minus.q) / 2e-6, at.c)):
                # Central differences: error about (1e-6/Vt)² relative, plus rounding of the larger of the two sides.
                np.testing.assert_allclose(jacobian[:, k], slope, rtol=2e-6, atol=1e-9 * np.abs(jacobian).max() + 1e-22)


@pytest.mark.parametrize(("family", "card"), CASES)
def test_currents_and_charges_sum_to_zero(family: str, card: str) -> None:
    """What flows into a device flows out: with all nodes and ground summed, nothing is left (Kirchhoff)."""
    circuit = structure(TIES + card)
    x = np.random.default_rng(3).uniform(-0.5, 0.5, circuit.size)
    loaded = evaluate(circuit, x)
    internal = [k for k, name in enumerate(circuit.unknowns) if not NO_BALANCE.search(name)]
    ties = sum(x[circuit.index(node)] / 1e3 for node in "abcd")
    assert np.sum(loaded.f[internal]) == pytest.approx(ties, abs=1e-12)
    assert np.sum(loaded.q[internal]) == pytest.approx(0, abs=1e-22)


@pytest.mark.parametrize(("family", "card"), CASES)
def test_at_rest_nothing_follows_dynamic_parameters(family: str, card: str) -> None:
    circuit = structure(TIES + card)
    x = np.random.default_rng(5).uniform(-0.5, 0.5, circuit.size)
    f = evaluate(circuit, x).f
    for element in circuit.elements:
        own = FAMILY_OF[element.family]
        for name in own.dynamic:
            nominal = circuit.nominal.copy()
            structural = any(p.name == name and p.structural for p in own.parameters)
            if structural and nominal[circuit.column(element.name, name)] == 0:
                continue
            column = circuit.column(element.name, name)
            nominal[column] = 1.3 * nominal[column] + 1e-13
            assert np.array_equal(evaluate(replace(circuit, nominal=nominal), x).f, f), (element.name, name)


@pytest.mark.parametrize("family", FAMILIES, ids=lambda family: family.name)
def test_kernels_of_a_transient_come_as_the_engine_calls_them(family: Family) -> None:
    # What is loaded once a step is loaded at x = 0, so its equations have to be linear.
    assert family.linear or family.ahead is None
    assert (family.recall is None) == (family.remember is None) == (family.waves == 0)
    names = {parameter.name for parameter in family.parameters}
    assert set(family.curving) <= names & family.dynamic
