"""What loops whose gain is written out make of a step, in time."""

from __future__ import annotations

import math
from typing import Any

import control
import numpy as np
import pytest
from pydantic import ValidationError

from tests.core.boards import RAILS, amplifier, asked, board, c, pair, r, source
from tests.core.checks.test_loop import ring
from verdad_core.checks.cause import Cause
from verdad_core.checks.experiment import prepare
from verdad_core.checks.fresh import questions
from verdad_core.checks.kinds.ringing import Ringing, damped, overshoots
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board
from verdad_core.errors import CircuitError


def two_poles(gain: float, fast: str) -> Board:
    """Two RC sections around a gain: T = gain / ((1 + s 10 ms) (1 + s R C)), RC = 1 kΩ times `fast`."""

    def section(k: int, value: str, into: str, out: str) -> list[dict[str, Any]]:
        return [
            r(f"R{k}", "1k", into, f"x{k}"), c(f"C{k}", value, f"x{k}", "gnd"),
            {"kind": "statement", "designator": f"E{k}", "pins": [out, "gnd", f"x{k}", "gnd"], "text": "1"},
        ]  # fmt: skip

    turn = {"kind": "statement", "designator": "E9", "pins": ["o", "gnd", "b", "gnd"], "text": f"{-gain:g}"}
    parts = [*section(1, "10u", "o", "a"), *section(2, fast, "a", "b"), turn, r("R9", "1k", "beside", "gnd")]
    asks = [{"id": "overshoot", "key": "overshoot", "of": "step"}]
    return board(parts, [source("beside")], "ringing", measurements=asks, analysis={"around": "R1.1"})


@pytest.mark.parametrize(("gain", "fast"), [(1e3, "100n"), (1e3, "1n"), (1e4, "10n"), (30.0, "1u")])
def test_a_loop_of_two_poles_overshoots_as_its_closed_form(gain: float, fast: str) -> None:
    """Gain / (gain + (1 + s t1)(1 + s t2)) in closed form; python-control has its damping."""
    slow, quick = 1e-2, 1e3 * float(fast.replace("n", "e-9").replace("u", "e-6"))
    system = control.tf([gain], [slow * quick, slow + quick, 1.0 + gain])
    damping = float(control.damp(system, doprint=False)[1][0])
    result = run_check(two_poles(gain, fast), "k", {})
    # The run is as exact as 1e-6 of what moves; the measurement takes the last value for the final one.
    assert result.measured[0].value == pytest.approx(100.0 * overshoots(damping), abs=0.05)
    assert "foretell" in result.sentence


@pytest.mark.parametrize("damping", [0.05, 0.2, 0.456, 0.7])
def test_a_margin_foretells_the_damping_of_a_loop_with_an_integrator(damping: float) -> None:
    """python-control has the margin of 1 / (s (s + 2 zeta))."""
    _, margin, _, _ = control.margin(control.tf([1.0], [1.0, 2.0 * damping, 0.0]))
    assert damped(margin) == pytest.approx(damping, rel=1e-6)


def test_a_ring_of_three_sections_rings_where_its_poles_are() -> None:
    """K = 5 of three equal RC: poles at s RC = -1 + 5^(1/3) e^(±jπ/3); the sum of their responses in time."""
    [row] = prepare(*pair(ring_in_time(5.0)), {}).rows()
    assert row.signals is not None
    assert row.cause is Cause.NUMBER
    step = row.signals.others["step"]
    time = np.linspace(0.0, float(step.along().values[-1]), 5001)
    _, expected = control.step_response(control.tf([5.0], [1e-12, 3e-8, 3e-4, 6.0]), T=time)
    # It rises for a hundredth of a period of the crossover, (5^(2/3) - 1)^(1/2) / (2π RC): half of that later.
    rise = 0.01 * 2.0 * np.pi * 1e-4 / np.sqrt(5.0 ** (2.0 / 3.0) - 1.0)
    expected = np.interp(time - rise / 2.0, time, expected, left=0.0)
    shown = np.interp(time, step.along().values, step.real())
    # Straight between the points of the run, of which a period has some hundred.
    assert shown == pytest.approx(expected, abs=2e-3)


def ring_in_time(gain: float) -> Board:
    own = ring(gain)
    circuit, check = pair(own)
    ringing = check.model_copy(update={"analysis": Ringing(around="R1.1"), "measurements": ()})
    return Board.model_validate(
        {**own.model_dump(), "circuits": [{**circuit.model_dump(), "checks": [ringing.model_dump()]}]}
    )


def test_what_oscillates_has_no_ring_that_is_evidence() -> None:
    [row] = prepare(*pair(ring_in_time(8.2)), {}).rows()
    assert row.cause is Cause.UNSTABLE


def test_a_step_beside_a_loop_says_so() -> None:
    parts = [r("R1", "1k", "in", "out"), c("C1", "1n", "out", "gnd"), amplifier("U1", "in", "out", "far"),
             r("R2", "1k", "far", "gnd")]  # fmt: skip
    lone = board(parts, [*RAILS, source("in")], "ringing", analysis={"around": "R1.1"})
    with pytest.raises(CircuitError, match="does not fall through 1"):
        run_check(lone, "k", {})


def test_a_follower_is_asked_how_it_rings() -> None:
    parts = [amplifier("U1", "in", "out", "out"), r("R1", "10k", "out", "gnd")]
    ready = asked(Ringing, parts, source("in"))
    circuit, check = pair(ready)
    assert any(each.words == "How does the loop around U1 ring?" for each in questions(circuit, check))
    result = run_check(ready, "k", {})
    assert math.isfinite(result.measured[0].value)
    assert not result.objection
    assert check.analysis.model_dump()["around"] == "U1.in-"


def test_a_loaded_amplifier_rings_as_its_loop_says() -> None:
    """A gain of 5.5 into 2.2 nF: what comes of the step rises from nothing, whatever the load passes on."""
    parts = [amplifier("U1", "in", "fb", "out"), r("R1", "10k", "out", "fb"), r("R2", "2k2", "fb", "gnd"),
             c("C1", "2n2", "out", "gnd")]  # fmt: skip
    result = run_check(asked(Ringing, parts, source("in")), "k", {})
    assert result.signals is not None
    step = result.signals.others["step"].real()
    assert np.max(step[: len(step) // 100]) < 0.5
    assert step[-1] == pytest.approx(1.0, abs=1e-2)


@pytest.mark.parametrize("step", ["0", "-5m", "5 mA"])
def test_a_step_of_nothing_is_refused_at_its_field(step: str) -> None:
    with pytest.raises(ValidationError, match="step"):
        Ringing.model_validate({"around": "U1.in-", "step": step})
