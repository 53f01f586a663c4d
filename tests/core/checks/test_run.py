import json
import math
from dataclasses import replace

import numpy as np
import pytest

from tests.core.boards import RAILS, amplifier, board, c, r, run_rows, source
from tests.core.circuits import DEMO_MODELS, demo
from verdad_core.checks.keys import check_key
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.errors import BoardError
from verdad_core.measure.expressions import read_expression

CHECK = "preamp-response"


def test_the_demo_matches_its_hand_values() -> None:
    """An op-amp with 8 MHz at a gain of 40 has its own pole at 200 kHz: it moves a 952 Hz pole by 1/2 (952/200k)²."""
    result = run_check(demo(), CHECK, DEMO_MODELS)
    for measured in result.measured:
        assert measured.hand is not None
        assert abs(measured.hand.deviation) < 0.02
    assert result.measured[1].value == pytest.approx(951.57, rel=1e-4)


def test_the_response_is_referred_to_the_source() -> None:
    document = json.loads(demo().model_dump_json())
    document["circuits"][0]["checks"][0]["fixtures"][0]["ac"] = "20m"
    ratios = []
    for drawn in (Board.model_validate(document), demo()):
        signals = run_check(drawn, CHECK, DEMO_MODELS).signals
        assert signals is not None
        ratios.append(signals.evaluate(read_expression("response")).values)
    assert np.allclose(ratios[0], ratios[1], rtol=1e-9)


def test_a_measurement_outside_the_sweep_is_a_finding() -> None:
    document = json.loads(demo().model_dump_json())
    document["circuits"][0]["checks"][0]["analysis"]["stop"] = "100"
    result = run_check(Board.model_validate(document), CHECK, DEMO_MODELS)
    assert np.isnan(result.measured[1].value)
    assert "does not fall by 3 dB" in result.findings[0].message


def test_a_missing_model_is_named() -> None:
    with pytest.raises(BoardError, match="U1: its model ovn4183 is not on the shelf") as caught:
        run_check(demo(), CHECK, {})
    assert caught.value.place.part == "U1"


def test_wrong_pins_are_named() -> None:
    wrong = {"amp": replace(DEMO_MODELS["amp"], roles=("in+", "in-", "v+", "v-", "shutdown"))}
    with pytest.raises(BoardError, match="its model in\\+, in-, shutdown"):
        run_check(demo(), CHECK, wrong)


def test_swapped_inputs_are_found_unstable_and_give_no_evidence() -> None:
    """The response of the swapped amplifier looks like the right one; its poles tell."""
    swapped = {"amp": replace(DEMO_MODELS["amp"], roles=("in-", "in+", "v+", "v-", "out"))}
    assert check_key(demo(), CHECK, swapped) != check_key(demo(), CHECK, DEMO_MODELS)
    result = run_check(demo(), CHECK, swapped)
    assert result.measured[0].value == pytest.approx(38.77, rel=1e-3)
    assert result.objection is not None
    assert "unstable: 1 pole in the right half-plane" in result.objection.message
    assert run_check(demo(), CHECK, DEMO_MODELS).objection is None
    assert np.all(np.isnan(run_rows(demo(), demo().studies[0], swapped, 0, 10).values))


def test_what_is_no_evidence_does_not_speak_against_a_formula() -> None:
    """Of a loop that oscillates: its margin has a number, and a hand value no deviation."""
    parts = [amplifier("U1", "in", "m", "out"), r("R1", "1k", "out", "m"), c("C1", "100n", "m", "gnd"),
             c("C2", "100n", "out", "gnd")]  # fmt: skip
    drawn = board(
        parts, [*RAILS, source("in")], "loop", analysis={"around": "U1.out"},
        measurements=[{"id": "pm", "key": "phase_margin", "of": "loop", "hand": {"formula": "60"}}],
    )  # fmt: skip
    result = run_check(drawn, "k", {})
    [found] = result.measured
    assert result.objection is not None
    assert found.hand is not None
    assert (found.hand.value, found.hand.doubtful, found.hand.slips) == (60.0, False, ())
    assert math.isnan(found.hand.deviation)
