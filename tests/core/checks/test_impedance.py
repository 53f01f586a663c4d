"""The check of an impedance on networks whose impedance is written out (any text on circuits)."""

from typing import Any

import numpy as np
import pytest

from tests.core.boards import RAILS, amplifier, board, c, generic, pair, r, source
from verdad_core.checks.fresh import questions
from verdad_core.checks.kinds.impedance import IMPEDANCE, LOADED
from verdad_core.checks.run import CheckResult, run_check

RC = [r("R1", "1k", "in", "out"), c("C1", "100n", "out", "gnd")]


def shown(parts: list[dict[str, Any]], fixtures: list[dict[str, Any]], **settings: str) -> tuple[CheckResult, Any, Any]:
    result = run_check(board(parts, fixtures, "impedance at a net", analysis=settings), "k", {})
    assert result.signals is not None
    trace = result.signals.others[IMPEDANCE]
    return result, 2j * np.pi * trace.along().values, trace.values


def test_an_output_shows_what_is_in_parallel_there() -> None:
    result, s, values = shown(RC, [source("in", resistance="50")], net="out", load="1.05k")
    assert values == pytest.approx(1050 / (1 + s * 1050 * 100e-9), rel=1e-9)
    assert result.signals is not None
    assert abs(result.signals.others[LOADED].values[0]) == pytest.approx(0.5, rel=1e-4)
    assert result.sentence.startswith("out shows 1.05 kΩ at")
    assert "1.05kΩ there take 50 % of its voltage" in result.sentence


def test_a_source_that_is_taken_off_sees_the_circuit_alone() -> None:
    """Its own resistance goes with it, in series with a voltage and across a current."""
    amperes = {"quantity": "current", "dc": "0", "ac": "1"}
    ways = [{"resistance": "50"}, {"resistance": "0"}, {**amperes, "resistance": "0"}, {**amperes, "resistance": "1k"}]
    for driver in (source("in", **way) for way in ways):
        _, s, values = shown(RC, [driver], net="in", without="vin")
        # The picosiemens that the engine leaves at each node are seen where it is megohms.
        assert values == pytest.approx(1000 + 1 / (s * 100e-9), rel=2e-6)


def test_feedback_makes_an_output_resistance_small_by_one_plus_the_loop_gain() -> None:
    """Series resistance R behind an amplifier of gain A with all of its output fed back: R / (1 + A)."""
    gain = {"kind": "statement", "designator": "E1", "pins": ["e", "gnd", "in", "out"], "text": "999"}
    result, _, values = shown([gain, r("R1", "100", "e", "out"), r("R2", "1k", "in", "gnd")], [source("in")], net="out")
    assert values == pytest.approx(np.full(len(values), 0.1), rel=1e-9)
    assert "inductive" not in result.sentence


def test_an_op_amp_follower_is_inductive_where_its_gain_falls() -> None:
    follower = [amplifier("U1", "in", "out", "out"), r("R1", "1k", "in", "gnd")]
    result, _, values = shown(follower, [*RAILS, source("in")], net="out")
    rising = np.degrees(np.angle(values))
    assert rising[0] == pytest.approx(0.0, abs=1.0)
    assert np.max(rising) > 45.0
    assert "inductive" in result.sentence


def test_questions_ask_for_outputs_and_for_what_sources_see() -> None:
    circuit, check = pair(board(RC, [source("in")], "operating point"))
    asked = [each.words for each in questions(circuit, check) if each.kind.title == "Impedance"]
    assert asked == ["What impedance does out show?", "What impedance does vin see at in?"]


def test_what_nothing_holds_is_said() -> None:
    parts = [c("C2", "1n", "in", "a"), generic("Q1", "npn", {"collector": "b", "base": "a", "emitter": "gnd"})]
    result = run_check(board([*RC, *parts], [source("in")], "impedance at a net", analysis={"net": "b"}), "k", {})
    assert any("next to nothing holds b" in finding.message for finding in result.findings)
