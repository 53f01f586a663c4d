"""Operating points where a source saturates against a clamp, by an independent residual; rows far from the nominal one.

An exponential comes down by N·Vt an iteration, however high it stands: Newton's steps alone say nothing there.
"""

from __future__ import annotations

import itertools
import os

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.analyses.clamped import drawn, outcome
from tests.core.circuits import structure
from verdad_core.analyses.operating_point import operating_point
from verdad_core.engine.matrix import ParameterMatrix

#: What may be missing of a current, as a part of what flows: ten times what the engine asks of itself.
MISSING = 1e-5

#: How many circuits the longer run draws: VERDAD_LONG=10000 ./verdad test.
MANY = int(os.environ.get("VERDAD_LONG", "300"))


@given(st.integers(0, 2**32 - 1))
@settings(max_examples=60, deadline=None)
def test_currents_of_a_clamped_source_balance(seed: int) -> None:
    missing = outcome(drawn(np.random.default_rng(seed)))
    assert missing is None or missing < MISSING


def test_of_many_clamped_sources_none_is_wrong_and_hardly_one_is_refused() -> None:
    found = [outcome(drawn(np.random.default_rng([2026, k]))) for k in range(MANY)]
    assert [k for k, missing in enumerate(found) if missing is not None and missing >= MISSING] == []
    assert found.count(None) <= max(1, MANY // 1000)


@pytest.mark.parametrize(
    ("netlist", "volts"),
    [
        # tanh(v / 2) = 0.05; the clamp at 5 V is far away.
        ("i1 0 g .01m\ngl g 0 value={0.2m*tanh(v(g)/2)}\nvp p 0 5\nd1 g p dm\n.model dm d(is=1e-12 n=0.01)",
         2.0 * np.arctanh(0.05)),
        # tanh(v / 0.1) = 1e-4; without a steeper slope, Newton's first step leads to 1e9 V.
        ("i1 0 g .1u\ng1 g 0 value={1m*tanh(v(g)/0.1)}\nvp p 0 3.3\nd1 g p dm\n.model dm d(is=1e-14 n=1 rs=0.01)",
         0.1 * np.arctanh(1e-4)),
    ],
)  # fmt: skip
def test_a_source_below_its_clamp_stays_there(netlist: str, volts: float) -> None:
    """By the tanh's inverse; the clamp's picoamperes move it by less than a thousandth."""
    point = operating_point(structure(netlist))
    point.require()
    assert point.value("g") == pytest.approx(volts, rel=2e-3)


def test_an_amplifier_that_follows_is_not_left_at_its_rail() -> None:
    for level in np.linspace(-4.0, 4.0, 17):
        point = operating_point(
            structure(f"vp p 0 5\nvm m 0 -5\nvin in 0 {level}\nxu in out p m out opamp\nrl out 0 10k")
        )
        point.require()
        assert point.value("out") == pytest.approx(level, abs=1e-3)


#: The usual macro model of a bipolar op-amp: a transistor pair, and an output stage that five sources control.
MACRO = """
c1 11 12 8.66p
c2 6 7 30p
dc 5 53 dx
de 54 5 dx
dlp 90 91 dx
dln 92 90 dx
dp 4 3 dx
egnd 99 0 poly(2) 3 0 4 0 0 .5 .5
fb 7 99 poly(5) vb vc ve vlp vln 0 10.61e6 -10e6 10e6 10e6 -10e6
ga 6 0 11 12 188.5e-6
gcm 0 6 10 99 5.961e-9
iee 10 4 15.16e-6
hlim 90 0 vlim 1k
q1 11 2 13 qx
q2 12 1 14 qx
r2 6 9 100e3
rc1 3 11 5.305e3
rc2 3 12 5.305e3
re1 13 10 1.836e3
re2 14 10 1.836e3
ree 10 99 13.19e6
ro1 8 5 50
ro2 7 99 100
rp 3 4 18.16e3
vb 9 0 0
vc 3 53 1
ve 54 4 1
vlim 7 8 0
vlp 91 0 20
vln 0 92 20
.model dx d(is=800e-18 rs=1)
.model qx npn(is=800e-18 bf=93.75)
"""
PINS = "12345"


def driven(volts: dict[str, float], ohms: str) -> str:
    """The macro model with each pin on a source through a resistor."""
    return MACRO + "\n".join(f"vs{p} s{p} 0 {volts[p]}\nrs{p} s{p} {p} {ohms}" for p in PINS)


def test_no_row_is_lost_that_is_solved_alone() -> None:
    """Whatever the nominal circuit (here none of its pins is held), a row's outcome is that of its own circuit."""
    assignments = [dict(zip(order, (6, -6, 0.05, -0.05, 0.0), strict=True)) for order in itertools.permutations(PINS)]
    asleep = structure(driven(dict.fromkeys(PINS, 0.0), "1meg"))
    changes = {(f"vs{p}", "dc"): np.array([volts[p] for volts in assignments]) for p in PINS}
    changes |= {(f"rs{p}", "resistance"): np.full(len(assignments), 1e-3) for p in PINS}
    rows = operating_point(asleep, ParameterMatrix.varied(asleep, changes))
    for row, volts in enumerate(assignments):
        alone = operating_point(structure(driven(volts, "1m")))
        alone.require()
        rows.require(row)
        np.testing.assert_allclose(rows.values[row], alone.values[0], rtol=1e-4, atol=1e-5)


def test_a_row_is_solved_where_the_nominal_circuit_has_no_solution() -> None:
    """A loop of two current sources without a slope has none; with one of them off it has."""
    text = "i1 0 a 1m\ng1 a 0 value={1m*tanh(v(a)/0.1)}\nv1 on 0 0\ng2 0 a value={1m*v(on)}\nr1 a 0 1g"
    circuit = structure(text)
    rows = operating_point(circuit, ParameterMatrix.varied(circuit, {("i1", "dc"): np.array([0.5e-3])}))
    rows.require()
    assert rows.value("a") == pytest.approx(0.1 * np.arctanh(0.5), rel=1e-5)
