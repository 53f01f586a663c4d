"""The check of a loop on circuits whose loop gain is written out."""

from __future__ import annotations

from typing import Any

import control
import numpy as np
import pytest

from tests.core.boards import RAILS, amplifier, asked, board, c, generic, pair, r, source
from verdad_core.checks.cause import Cause
from verdad_core.checks.experiment import prepare
from verdad_core.checks.feedback import loops
from verdad_core.checks.fresh import fresh_check, questions
from verdad_core.checks.kinds.loop import LOOP, Loop
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.engine.matrix import ParameterMatrix
from verdad_core.errors import MeasurementError


def ring(gain: float) -> Board:
    """Three equal RC sections, each behind a source that repeats it, around an inverting gain."""

    def section(k: int, into: str, out: str) -> list[dict[str, Any]]:
        return [
            r(f"R{k}", "1k", into, f"x{k}"), c(f"C{k}", "100n", f"x{k}", "gnd"),
            {"kind": "statement", "designator": f"E{k}", "pins": [out, "gnd", f"x{k}", "gnd"], "text": "1"},
        ]  # fmt: skip

    turn = {"kind": "statement", "designator": "E4", "pins": ["o", "gnd", "c", "gnd"], "text": f"{-gain:g}"}
    parts = [*section(1, "o", "a"), *section(2, "a", "b"), *section(3, "b", "c"), turn, r("R9", "1k", "o", "gnd")]
    parts.append(r("R8", "1k", "beside", "gnd"))
    asks = [
        {"id": key.replace("_", "-"), "key": key, "of": LOOP} for key in ("phase_margin", "crossover", "gain_margin")
    ]
    return board(
        parts,
        [source("beside")],
        "loop",
        measurements=asks,
        analysis={"around": "R1.1"},
    )


@pytest.mark.parametrize("gain", [2.0, 5.0, 7.9])
def test_a_ring_of_three_sections_has_its_margins(gain: float) -> None:
    """K / (1 + sRC)³ oscillates at K = 8; python-control has the margins."""
    result = run_check(ring(gain), "k", {})
    system = control.tf([gain], [1.0]) * control.tf([1.0], [1e-4, 1.0]) ** 3
    gain_margin, phase_margin, _, crossover = control.margin(system)
    found = {each.id: each.value for each in result.measured}
    # 33 points between those of 50 a decade.
    assert found["phase-margin"] == pytest.approx(phase_margin, abs=1e-2)
    assert found["crossover"] == pytest.approx(crossover / (2 * np.pi), rel=1e-5)
    assert found["gain-margin"] == pytest.approx(20 * np.log10(gain_margin), abs=1e-3)
    assert result.sentence.startswith("Stable" if phase_margin >= 45 else "Too little")


def test_a_ring_beyond_its_gain_is_unstable_and_no_evidence() -> None:
    """At K = 8 it oscillates at √3 / (2π RC), 2757 Hz; a little above near there (Barkhausen 1935)."""
    [row] = prepare(*pair(ring(8.2)), {}).rows()
    assert row.cause is Cause.UNSTABLE
    result = run_check(ring(8.2), "k", {})
    assert result.sentence.startswith("Unstable: it oscillates near 2.7")
    assert result.modes[0].damping < 0


def test_a_followers_loop_is_opened_in_its_own_wire() -> None:
    """A follower has its whole output back, though its input and its output are one net."""
    parts = [amplifier("U1", "in", "out", "out"), r("R1", "10k", "out", "gnd")]
    blank = board(parts, [*RAILS, source("in")], "operating point")
    circuit, first = pair(blank)
    check = fresh_check(blank, circuit, "loop", first)
    assert check.analysis.model_dump()["around"] == "U1.out"
    follower = asked(Loop, parts, source("in"))
    with_drop = asked(Loop, [generic("U1", "opamp", {"in+": "in", "in-": "fb", "v+": "+5V", "v-": "-5V", "out": "out"}),
                             r("R1", "9k", "out", "fb"), r("R2", "1k", "fb", "gnd")], source("in"))  # fmt: skip
    crossings = [run_check(each, "k", {}).measured[1].value for each in (follower, with_drop)]
    # A tenth of the output back: a tenth of the crossover, but for what the second pole takes.
    assert crossings[0] / crossings[1] == pytest.approx(10, rel=0.2)


def test_rows_of_a_study_turn_the_loop() -> None:
    """RC three times as long: the same margin at a third of the frequency."""
    experiment = prepare(*pair(ring(5.0)), {})
    values = {(f"R{k}", "resistance"): np.array([1e3, 3e3]) for k in (1, 2, 3)}
    rows = [row.signals for row in experiment.rows(ParameterMatrix.varied(experiment.structure, values))]
    first, second = (signals.others[LOOP] for signals in rows if signals is not None)
    at = [np.interp(1.0, np.abs(t.values[::-1]), t.along().values[::-1]) for t in (first, second)]
    assert at[0] / at[1] == pytest.approx(3.0, rel=1e-3)


def test_what_cannot_be_asked_says_what_is_missing() -> None:
    passive = board([r("R1", "1k", "in", "out")], [source("in")], "operating point")
    [missing] = [each.missing for each in questions(*pair(passive)) if each.kind is Loop]
    assert "no amplifier" in missing
    gone = ring(2.0).model_dump(mode="json")
    gone["circuits"][0]["checks"][0]["analysis"]["around"] = "R7.1"
    with pytest.raises(MeasurementError, match="no part or fixture R7"):
        run_check(Board.model_validate(gone), "k", {})
    alone = ring(2.0).model_dump(mode="json")
    alone["circuits"][0]["checks"][0]["analysis"]["around"] = "R9.1"
    assert "no loop" in run_check(Board.model_validate(alone), "k", {}).sentence


def test_every_loop_of_a_circuit_is_asked_for() -> None:
    """An integrator with a follower in its loop, a follower behind them, and a comparator that has none."""
    parts = [
        amplifier("U1", "gnd", "m1", "a"), r("R1", "10k", "b", "m1"), c("C1", "10n", "m1", "a"),
        amplifier("U2", "a", "b", "b"),
        amplifier("U3", "b", "out", "out"), amplifier("U4", "out", "gnd", "late"), r("R4", "1k", "late", "gnd"),
    ]  # fmt: skip
    drawn = board([*parts, r("R5", "100k", "in", "m1")], [*RAILS, source("in")], "operating point")
    circuit, check = pair(drawn)
    assert loops(circuit, check.fixtures) == [("U1", "U2"), ("U2", "U1"), ("U3",)]
    asked_for = [each for each in questions(circuit, check) if each.kind is Loop]
    assert [each.words for each in asked_for] == [f"Is the loop around U{k} stable?" for k in (1, 2, 3)]
    second = fresh_check(drawn, circuit, "loop", check, 1)
    assert isinstance(second.analysis, Loop)
    assert second.analysis.around == "U2.out"
    asked_of = board(
        [*parts, r("R5", "100k", "in", "m1")], [*RAILS, source("in")], "loop", analysis={"around": "U2.out"}
    )
    assert run_check(asked_of, "k", {}).sentence.endswith("The loop goes through U1, too.")
