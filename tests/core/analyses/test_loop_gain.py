"""Loop gain by injection against loops that are opened on paper, and margins against python-control."""

import control
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.circuits import structure
from verdad_core.analyses.loop_gain import cut, loop_gain
from verdad_core.analyses.operating_point import operating_point
from verdad_core.errors import CircuitError

FREQUENCY = np.geomspace(1, 1e9, 181)
S = 2j * np.pi * FREQUENCY


def test_an_ideal_loop_wherever_it_is_cut() -> None:
    """Gain 1e5 with one pole, feedback of a tenth: T = A β at every pin of the loop."""
    circuit = structure("v1 in 0 0\ne1 x 0 in fb 1e5\nr1 x y 1k\nc1 y 0 1u\ne2 out 0 y 0 1\nr2 out fb 9k\nr3 fb 0 1k")
    expected = 1e4 / (1 + S * 1e-3)
    for part, node in (("e1", "fb"), ("e2", "out"), ("e1", "x"), ("e2", "y"), ("r1", "y")):
        found = loop_gain(circuit, part, node, FREQUENCY).values[0]
        assert found == pytest.approx(expected, rel=1e-8), (part, node)


def test_a_loop_that_conducts_both_ways() -> None:
    """A transistor stage with collector feedback: the return ratio of gm, from the determinant of its equations."""
    gm, ro, rf, rs, rl, ci, co = 0.04, 2e4, 1e4, 1e3, 2e3, 20e-12, 5e-12
    text = f"r1 b 0 {rs}\nr2 b c {rf}\nr3 c 0 {rl}\nr4 c 0 {ro}\nc1 b 0 {ci}\nc2 b c {co}\ng1 c 0 b 0 {gm}"
    feedback = 1 / rf + S * co
    y11, y22 = 1 / rs + S * ci + feedback, 1 / rl + 1 / ro + feedback
    ratio = gm * feedback / (y11 * y22 - feedback**2)
    for node in ("c", "b"):
        found = loop_gain(structure(text), "g1", node, FREQUENCY)
        assert found.values[0] == pytest.approx(ratio, rel=1e-9), node


def test_the_bias_stays() -> None:
    text = "vcc v 0 12\nrc v c 2k\nrf c b 200k\nq1 c b 0 m\n.model m npn(bf=150)"
    result = loop_gain(structure(text), "q1", "b", FREQUENCY)
    point = result.operating_point
    assert point.value("c") == pytest.approx(operating_point(structure(text)).value("c"), rel=1e-9)
    assert result.values[0, 0].real > 1


@settings(max_examples=25)
@given(st.floats(2, 6), st.lists(st.floats(2, 7), min_size=1, max_size=3), st.floats(0, 8))
def test_margins_are_those_of_python_control(gain: float, poles: list[float], zero: float) -> None:
    text = f"{10**gain!r}*(1+s/{10**zero!r})" + "".join(f"/(1+s/{10**p!r})" for p in poles) + f"/(1+s/{10**8!r})"
    circuit = structure(f"e1 x 0 laplace {{v(fb)}} {{-({text})}}\nr1 x fb 1\nr2 fb 0 1e9")
    margins = loop_gain(circuit, "r1", "x", np.geomspace(1e-2, 1e12, 701)).margins()
    s = control.tf("s")
    reference = 10**gain * (1 + s / 10**zero) / (1 + s / 1e8)
    for p in poles:
        reference = reference / (1 + s / 10**p)
    gains, phases, _, crossings, levels, _ = control.stability_margins(reference, returnall=True)
    found = {round(np.log10(c.frequency), 3): c.margin for c in margins.phase}
    inside = [(w / 2 / np.pi, p) for w, p in zip(levels, phases, strict=True) if w / 2 / np.pi < 1e12]
    expected = {round(np.log10(f), 3): (p + 180) % 360 - 180 for f, p in inside}
    assert len(found) == len(expected)
    for (f, margin), (g, other) in zip(sorted(found.items()), sorted(expected.items()), strict=True):
        assert f == pytest.approx(g, abs=2e-3)
        # Straight lines over a thirty-second of a grid step.
        assert margin == pytest.approx(other, abs=0.05)
    beyond = [20 * np.log10(g) for g, w in zip(gains, crossings, strict=True) if 1e-1 < w < 1e12 and g < 1e9]
    assert [c.margin for c in margins.gain] == pytest.approx(beyond, abs=0.02)


def test_a_conditionally_stable_loop_has_several_crossings() -> None:
    """Three poles at low frequency and two zeros: the phase passes -180° twice while the gain is above one."""
    text = "1e9*(1+s/1e2)**2/((1+s)**3)/(1+s/1e7)"
    circuit = structure(f"e1 x 0 laplace {{v(fb)}} {{-{text}}}\nr1 x fb 1\nr2 fb 0 1e9")
    result = loop_gain(circuit, "r1", "x", np.geomspace(1e-2, 1e9, 300))
    margins = result.margins()
    assert [crossing.margin < 0 for crossing in margins.gain] == [True, True]
    assert margins.phase_margin is not None
    assert margins.phase_margin.margin > 0
    assert len(result.poles[0].unstable) == 0


@pytest.mark.parametrize(("part", "node"), [("e1", "nowhere"), ("nobody", "fb"), ("r3", "0")])
def test_a_pin_that_is_not_there_is_named(part: str, node: str) -> None:
    circuit = structure("v1 in 0 0\ne1 x 0 in fb 1e5\nr1 x fb 1k\nr3 fb 0 1k")
    with pytest.raises(CircuitError, match=r"no pin|not cut at ground"):
        cut(circuit.elements, part, node)
