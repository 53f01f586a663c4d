"""Ways to more phase margin, beside python-control's margins of the same loops written out."""

from __future__ import annotations

from typing import Any

import control
import numpy as np
import pytest

from tests.core.boards import RAILS, board, c, generic, r, source
from verdad_core.checks.compensation import WAYS, compensated, ways_for
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.document.parts import pins_of
from verdad_core.errors import BoardError
from verdad_core.units import parse_value

OHMS, LOAD, GAIN_BANDWIDTH, SECOND = 100.0, 10e-9, 10e6, 30e6
WANTED = 45.0


def stage(follower: bool = False) -> Board:
    """An amplifier with 100 Ω at its output, loaded with 10 nF: as a follower, or with a gain of two."""
    pins = {"in+": "in", "in-": "out" if follower else "fb", "v+": "+5V", "v-": "-5V", "out": "out"}
    figures = {"gain": "1meg", "gbw": "10meg", "pole2": "30meg", "rout": "100", "cin": "1f"}
    parts = [generic("U1", "opamp", pins, **figures), c("C1", "10n", "out", "gnd")]
    if not follower:
        parts += [r("R1", "1k", "fb", "gnd"), r("R2", "1k", "out", "fb")]
    return board(parts, [*RAILS, source("in")], "loop", analysis={"around": "U1.out", "margin": f"{WANTED:g}"})


def mended(drawn: Board, key: str) -> tuple[Board, dict[str, float], float]:
    found = compensated(drawn, "k", "U1.out", WANTED, key, {})
    known = {part.designator for part in drawn.circuits[0].parts}
    newcomers = [part for part in found.board.circuits[0].parts if part.designator not in known]
    return found.board, {part.designator: parse_value(part.value) for part in newcomers}, found.margin  # type: ignore[union-attr]


def amplifier() -> Any:
    first, second = (control.tf([1.0], [1 / (2 * np.pi * hertz), 1.0]) for hertz in (GAIN_BANDWIDTH / 1e6, SECOND))
    return control.tf([1e6], [1.0]) * first * second


def test_the_least_resistor_that_is_enough_is_that_of_the_loop_written_out() -> None:
    """Feedback at the amplifier's side: A(s) (1 + sRC) / (1 + s(R + ro)C)."""

    def margin(ohms: float) -> float:
        divider = control.tf([ohms * LOAD, 1.0], [(ohms + OHMS) * LOAD, 1.0])
        return float(control.margin(amplifier() * divider)[1])

    changed, values, found = mended(stage(follower=True), "series")
    [ohms] = values.values()
    assert found == pytest.approx(margin(ohms), abs=0.1)
    assert found >= WANTED > margin(ohms / 1.25), "the next smaller value of E12 leaves too little"
    nets = {part.designator: pins_of(part) for part in changed.circuits[0].parts}
    assert nets["U1"]["out"] == nets["U1"]["in-"] == nets["R1"]["1"]
    assert nets["R1"]["2"] == nets["C1"]["1"] == "out"


def test_a_snubber_is_that_of_the_loop_written_out() -> None:
    """The output's resistance against the load beside R + 1/sC."""
    _, values, found = mended(stage(follower=True), "snubber")
    ohms, farads = values["R1"], values["C2"]
    # 1/Z = sC + sCs / (1 + sRCs), and ro Z' of it.
    load = control.tf([ohms * farads, 1.0], [OHMS * LOAD * ohms * farads, OHMS * (LOAD + farads) + ohms * farads, 1.0])
    assert found == pytest.approx(float(control.margin(amplifier() * load)[1]), abs=0.1)
    assert found >= WANTED


@pytest.mark.parametrize("key", WAYS)
def test_each_way_leaves_what_it_says_and_more_than_before(key: str) -> None:
    before = compensated(stage(), "k", "U1.out", 0.0, "series", {})
    changed, _, margin = mended(stage(), key)
    assert before.margin >= 0.0
    sentence = run_check(changed, "k", {}).sentence
    assert f"{margin:.0f}° of phase margin" in sentence
    assert run_check(stage(), "k", {}).sentence.startswith("Too little: ")
    assert margin > 10.0
    assert sentence.startswith("Stable" if margin >= WANTED else "Too little")


def test_what_needs_resistance_in_the_feedback_is_not_offered_to_a_follower() -> None:
    drawn = stage(follower=True)
    assert [way.key for way in ways_for(drawn.circuits[0], "U1.out")] == ["series", "snubber"]
    with pytest.raises(BoardError, match="no such way"):
        compensated(drawn, "k", "U1.out", WANTED, "lead", {})
    assert not ways_for(drawn.circuits[0], "C1.1")


def test_what_leads_back_to_the_input_stays_at_the_amplifiers_side() -> None:
    """A T of three resistors: the one that ends at the output goes along, the load and the next stage do not."""
    pins = {"in+": "in", "in-": "fb", "v+": "+5V", "v-": "-5V", "out": "out"}
    parts = [generic("U1", "opamp", pins), c("C1", "100n", "out", "gnd"), r("R1", "10k", "out", "t"),
             r("R2", "10k", "t", "fb"), r("R3", "1k", "t", "gnd"), r("R4", "1k", "fb", "gnd"),
             r("R5", "10k", "out", "next"), c("C2", "1n", "next", "gnd")]  # fmt: skip
    drawn = board(parts, [*RAILS, source("in")], "loop", analysis={"around": "U1.out"})
    changed, _, _ = mended(drawn, "series")
    nets = {part.designator: pins_of(part) for part in changed.circuits[0].parts}
    assert {nets["U1"]["out"], nets["R1"]["1"]} == {nets["R6"]["1"]}
    assert nets["C1"]["1"] == nets["R5"]["1"] == "out"


def test_newcomers_have_names_that_no_other_circuit_has() -> None:
    drawn = stage().model_dump(mode="json")
    drawn["circuits"].append({"id": "other", "title": "other", "parts": [r("R3", "1k", "a", "gnd")], "checks": []})
    _, values, _ = mended(Board.model_validate(drawn), "series")
    assert list(values) == ["R4"]


def test_values_are_written_as_one_buys_them() -> None:
    found = compensated(stage(), "k", "U1.out", WANTED, "lag", {}).board
    values = [getattr(part, "value", "") for part in found.circuits[0].parts]
    assert all(len(value) <= 5 for value in values), values
