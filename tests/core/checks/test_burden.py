"""What parts bear, beside circuits whose powers are written out."""

from __future__ import annotations

import math

import pytest

from tests.core.boards import asked, board, c, low_pass, r, source, supply
from verdad_core.checks.burden import burdens
from verdad_core.checks.kinds.steady_state import SteadyStateCheck
from verdad_core.document.board import Board
from verdad_core.errors import MeasurementError
from verdad_core.sheet.stress import OTHER, kind_of_part, rules_of, stress


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
    assert found.parts["R1"].rms == pytest.approx(peak / math.sqrt(2.0), rel=1e-3)
    assert found.parts["R1"].watts == pytest.approx(100.0 * peak**2 / 2.0, rel=2e-3)
    assert abs(found.parts["C1"].watts) < 1e-3 * found.parts["R1"].watts
    assert found.parts["C1"].volts.value == pytest.approx(peak * 100.0, rel=2e-3)
    assert found.given["vin"] == pytest.approx(found.parts["R1"].watts, rel=2e-3)


def test_what_has_no_volts_at_an_instant_tells_nothing() -> None:
    with pytest.raises(MeasurementError, match="no volts and amperes at an instant"):
        burdens(low_pass(), "k", {})


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
