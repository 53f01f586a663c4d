"""What every registered family must keep: its Jacobian is the derivative of its equations, and charge is conserved."""

import numpy as np
import pytest

from tests.core.circuits import structure
from tests.core.devices.evaluate import evaluate
from verdad_core.devices import FAMILIES

TIES = "ra a 0 1k\nrb b 0 1k\nrc c 0 1k\nrd d 0 1k\n"
CARDS = {
    "resistor": ["r1 a b 2k tc1=1m tc2=1u"],
    "capacitor": ["c1 a b 2n"],
    "inductor": ["l1 a b 2u"],
    "voltage source": ["v1 a b dc 1 ac 1 45"],
    "current source": ["i1 a b dc 1m ac 1"],
    "controlled voltage": ["e1 a b c d 3", "e1 a b poly(2) (c,0) (d,0) 0.1 1 2 0.3 0.4 0.5", "v9 c d 0\nh1 a b v9 100"],
    "controlled current": [
        "g1 a b c d 3m",
        "g1 a b poly(3) c 0 d 0 a b 0 1m 2m 3m 4m 5m 6m 7m 8m",
        "v9 c d 0\nf1 a b v9 3",
    ],
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
    internal = [k for k, name in enumerate(circuit.unknowns) if not name.startswith("i(")]
    ties = sum(x[circuit.index(node)] / 1e3 for node in "abcd")
    assert np.sum(loaded.f[internal]) == pytest.approx(ties, abs=1e-12)
    assert np.sum(loaded.q[internal]) == pytest.approx(0, abs=1e-22)
