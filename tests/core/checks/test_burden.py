"""What parts bear, beside circuits whose powers are written out."""

from __future__ import annotations

import math

import pytest

from tests.core.boards import asked, board, c, generic, r, source, supply
from verdad_core.checks.burden import burdens
from verdad_core.checks.kinds.steady_state import SteadyStateCheck
from verdad_core.document.board import Board
from verdad_core.errors import MeasurementError
from verdad_core.studies.stress import OTHER, kind_of_part, rules_of, stress
from verdad_core.studies.verdict import State


def test_a_divider_at_rest() -> None:
    """10 V over 1 kΩ and 3 kΩ with 6 kΩ of load: 10/3 mA, 11.1 mW in the upper one, 22.2 mW in load and lower one."""
    load = {"kind": "load", "name": "load", "plus": "out", "resistance": "6k"}
    found = burdens(board([r("R1", "1k", "in", "out"), r("R2", "3k", "out", "gnd")], [supply("in", "10"), load],
                          "operating point"), "k", {})  # fmt: skip
    upper = found.parts["R1"]
    assert upper.amperes.value == pytest.approx(10 / 3e3, rel=1e-9)
    assert upper.volts.value == pytest.approx(10 / 3, rel=1e-9)
    assert upper.watts == pytest.approx(100 / 9e3, rel=1e-9)
    assert upper.volts.at is None
    assert found.given["sin"] == pytest.approx(100 / 3e3, rel=1e-6)
    assert found.taken["load"] == pytest.approx((20 / 3) ** 2 / 6e3, rel=1e-6)
    assert found.efficiency is None


def test_a_sine_into_a_resistor_and_a_capacitor() -> None:
    """1 V over R = 100 Ω and 1/ωC = 100 Ω in series: I = 1/141 A peak, P = R I²/2; the capacitor takes none."""
    farads = 1.0 / (2 * math.pi * 1e3 * 100.0)
    parts = [r("R1", "100", "in", "out"), c("C1", f"{farads!r}", "out", "gnd")]
    drawn = asked(SteadyStateCheck, [*parts, r("R9", "1k", "+5V", "-5V")], source(
        "in", waveform={"kind": "sine", "amplitude": "1", "frequency": "1k"}))  # fmt: skip
    found = burdens(drawn, "k", {})
    peak = 1.0 / (100.0 * math.sqrt(2.0))
    # Steps of a hundredth of a period at the most; the source has no resistance.
    assert found.parts["R1"].amperes.value == pytest.approx(peak, rel=2e-3)
    assert found.parts["R1"].watts == pytest.approx(100.0 * peak**2 / 2.0, rel=2e-3)
    assert abs(found.parts["C1"].watts) < 1e-3 * found.parts["R1"].watts
    assert found.parts["C1"].volts.value == pytest.approx(peak * 100.0, rel=2e-3)
    assert found.given["vin"] == pytest.approx(found.parts["R1"].watts, rel=2e-3)


def test_a_check_over_frequency_is_looked_at_as_it_rests() -> None:
    """10 V over 1 kΩ and 1 kΩ: 25 mW in each, whatever is asked for over frequency."""
    parts = [r("R1", "1k", "in", "out"), r("R2", "1k", "out", "gnd")]
    drawn = board(parts, [source("in", dc="10")], "frequency response", source="vin", output="out")
    found = burdens(drawn, "k", {})
    assert found.parts["R1"].watts == pytest.approx(0.025, rel=1e-6)
    assert found.parts["R1"].volts.value == pytest.approx(5.0, rel=1e-6)
    assert found.axis is None


def test_a_converter_loses_what_its_diode_and_switch_take() -> None:
    """V = D·Vg - D'·Vd - D·Ron·I, and an efficiency of V / (V + D'·Vd + D·Ron·I), conducting continuously (Erickson and
    Maksimovic, Fundamentals of Power Electronics, chapter 3); Vd is the diode's while it carries the current.
    """
    duty, ron, load = 0.25, 0.1, 5.0
    parts = [
        generic("S1", "smooth-switch", {"a": "in", "b": "sw", "control": "drive"}, ron=f"{ron}"),
        generic("D1", "diode", {"anode": "gnd", "cathode": "sw"}),
        {"kind": "inductor", "designator": "L1", "value": "330u", "pins": ["sw", "out"]}, c("C1", "100u", "out", "gnd"),
    ]  # fmt: skip
    gate = source("drive", waveform={"kind": "pulse", "level": "1", "rise": "1n", "fall": "1n", "width": "2.499u",
                                     "every": "10u"})  # fmt: skip
    fixtures = [supply("in", "24"), gate, {"kind": "load", "name": "load", "plus": "out", "resistance": f"{load}"}]
    found = burdens(board(parts, fixtures, "steady state"), "k", {})
    volts = math.sqrt(found.taken["load"] * load)
    amperes = volts / load
    drop = found.parts["D1"].watts / ((1.0 - duty) * amperes)
    assert 0.6 < drop < 0.95
    assert volts == pytest.approx(duty * 24.0 - (1.0 - duty) * drop - duty * ron * amperes, rel=5e-3)
    expected = 1.0 / (1.0 + ((1.0 - duty) * drop + duty * ron * amperes) / volts)
    assert found.efficiency == pytest.approx(expected, abs=4e-3)
    assert found.parts["S1"].watts == pytest.approx(duty * ron * amperes**2, rel=0.1)
    # What is given is taken by something: nothing is stored over a period.
    lost = sum(burden.watts for burden in found.parts.values())
    assert sum(found.given.values()) == pytest.approx(lost + found.taken["load"], rel=1e-3)


def rated() -> Board:
    """12 V over 100 Ω rated 1 W and 16 V, and a capacitor of 16 V beside; a load that nobody rated."""
    parts = [r("R1", "100", "in", "gnd") | {"rating": {"power": "2", "voltage": "20"}},
             c("C1", "1u", "in", "gnd") | {"rating": {"voltage": "16"}}, r("R2", "1k", "in", "gnd")]  # fmt: skip
    return board(parts, [supply("in", "12")], "operating point")


def test_use_is_told_worst_first_and_what_has_no_rating_is_named() -> None:
    """1.44 of 2 W at 50 %: 144 %; 12 of 16 V at 60 %: 125 %; 12 of 20 V at 80 %: 75 %."""
    found = stress(rated(), {}, lambda check: burdens(rated(), check, {}))
    assert [(use.part, use.what) for use in found.uses] == [("R1", "power"), ("C1", "voltage"), ("R1", "voltage")]
    assert [use.part_used for use in found.uses] == pytest.approx([1.44, 1.25, 0.75], rel=1e-9)
    assert [use.state for use in found.uses] == [State.BREAKS, State.BREAKS, State.HOLDS]
    close = Board.model_validate(rated().model_dump() | {"thin_margin": 30.0})
    assert stress(close, {}, lambda check: burdens(close, check, {})).uses[2].state is State.THIN
    assert found.unrated == {"c": ("R2",)}
    assert not found.silent


def test_rules_are_the_boards_own_and_silent_checks_say_why() -> None:
    own = Board.model_validate(rated().model_dump() | {"derating": {"resistor": {"power": 100.0}}})
    assert rules_of(own)["resistor"].power == 100.0

    def broken(check: str) -> None:
        raise MeasurementError("it gave nothing")

    found = stress(own, {}, broken)  # type: ignore[arg-type]
    assert found.silent == {"c: k": "it gave nothing"}
    assert kind_of_part(own.circuits[0].parts[0], {}) == "resistor"
    assert OTHER.power == 80.0
