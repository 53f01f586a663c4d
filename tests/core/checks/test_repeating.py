"""Checks around a periodic steady state, on circuits that are solved by hand."""

from typing import Any

import numpy as np
import pytest

from tests.core.boards import RAILS, STAGE, amplifier, board, c, pair, r, source
from verdad_core.checks.cause import Cause
from verdad_core.checks.experiment import prepare
from verdad_core.checks.fresh import fresh_check, questions
from verdad_core.checks.kinds.loop import LOOP
from verdad_core.checks.kinds.steady_state import SteadyStateCheck
from verdad_core.checks.repeating import leaving
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board, Circuit
from verdad_core.errors import CircuitError
from verdad_core.stages import STAGES, compute
from verdad_core.stages.bench import bench_of

RC = [r("R1", "1k", "in", "out"), c("C1", "1u", "out", "gnd")]


def asks(
    kind: str, parts: list[dict[str, Any]], fixtures: list[dict[str, Any]], *of: tuple[str, str], **more: str
) -> Board:
    measurements = [{"id": key.replace("_", "-"), "key": key, "of": what} for key, what in of]
    return board(parts, fixtures, kind, measurements=measurements, analysis=more)


def measured(drawn: Board) -> dict[str, float]:
    result = run_check(drawn, "k", {})
    assert result.objection is None, result.objection
    return {each.id: each.value for each in result.measured}


def test_a_square_behind_rc_has_the_ripple_of_its_exponentials() -> None:
    """V tanh(T / 4 RC) peak to peak around the middle: 5 V, 50 % of 100 µs, 1 ms."""
    square = source(
        "in",
        dc="0",
        resistance="1m",
        waveform={"kind": "pulse", "level": "5", "rise": "1n", "fall": "1n", "width": "49.999u", "every": "100u"},
    )
    of = [("peak_to_peak", "v(out)"), ("mean", "v(out)"), ("period", "v(out)")]
    found = measured(asks("steady state", RC, [square], *of))
    # Steps are allowed to err by a thousandth of the swing.
    assert found["peak-to-peak"] == pytest.approx(5.0 * np.tanh(100e-6 / 4e-3), rel=3e-3)
    assert found["mean"] == pytest.approx(2.5, rel=1e-3)
    assert found["period"] == pytest.approx(100e-6, rel=1e-3)


def test_two_sines_repeat_after_their_common_period() -> None:
    """Rms of a sum is the root of the sum of squares; 200 Hz and 300 Hz are together again after 10 ms."""
    parts = [r("R1", "1k", "a", "out"), r("R2", "1k", "b", "out"), r("R3", "1k", "out", "gnd")]
    drivers = [
        source(net, name=f"v{net}", resistance="1m", waveform={"kind": "sine", "amplitude": "3", "frequency": each})
        for net, each in (("a", "200"), ("b", "300"))
    ]
    drawn = asks("steady state", parts, drivers, ("rms", "v(out)"))
    result = run_check(drawn, "k", {})
    assert result.scale.startswith("10 ms: the shortest that holds whole periods of va, vb")
    assert result.measured[0].value == pytest.approx(1.0, rel=1e-3)


def test_a_period_that_the_circuit_would_leave_is_no_evidence() -> None:
    """1 mS and -2 mS at 1 µF: what is small grows by e with each millisecond."""
    pump = {"kind": "statement", "designator": "G1", "pins": ["out", "gnd", "out", "gnd"], "text": "-2m"}
    sine = source("in", resistance="1m", waveform={"kind": "sine", "amplitude": "1", "frequency": "1k"})
    [result] = prepare(*pair(asks("steady state", [*RC, pump], [sine])), {}).rows()
    assert result.cause is Cause.UNSTABLE
    assert any("what is small grows 2.7" in finding.message for finding in result.findings)


def test_what_does_not_repeat_itself_shows_how_far_it_came() -> None:
    drivers = [source("in", resistance="1m", waveform={"kind": "sine", "amplitude": "1", "frequency": "1.37k"})]
    [result] = prepare(*pair(asks("steady state", RC, drivers, period="1m")), {}).rows()
    assert result.cause is Cause.NOT_SOLVED
    assert result.signals is not None
    assert any("not periodic" in finding.message for finding in result.findings)
    # What it had come to is shown, but nothing is said of it.
    assert run_check(asks("steady state", RC, drivers, period="1m"), "k", {}).sentence == ""


def test_what_rests_safely_may_leave_its_period_and_says_so() -> None:
    """Pumped half of the time by -4 mS against 1 mS at 1 µF: what is small grows by e with each millisecond."""
    pump = {"kind": "statement", "designator": "B1", "pins": ["out", "gnd"], "text": "i=-4m*v(pump)*v(out)"}
    clock = source("pump", name="clock", waveform={"kind": "pulse", "level": "1", "rise": "1u", "fall": "1u",
                                                   "width": "499u", "every": "1m"})  # fmt: skip
    drawn = asks("steady state", [*RC, pump, r("R2", "1k", "pump", "gnd")], [source("in", dc="1"), clock], begin="cold")
    result = run_check(drawn, "k", {})
    assert result.objection is not None
    assert "it would not stay in this period: what is small grows 2.7" in result.objection.message
    assert result.sentence == ""


def test_multipliers_say_whether_a_period_lasts() -> None:
    assert leaving(np.array([0.5, -0.999 + 0j]), False) is None
    turned = leaving(np.array([0.5, -1.3 + 0j]), False)
    assert turned is not None
    assert "every second period the other way" in turned.message
    # An oscillator has one at 1 whatever it does; another one beyond the circle counts.
    assert leaving(np.array([1.0005, 0.2 + 0j]), True) is None
    assert leaving(np.array([1.0005, 1.4 + 0j]), True) is not None


def test_an_oscillator_is_asked_whether_it_oscillates_and_how() -> None:
    """A Wien bridge with a gain of 3.05 ends at its rails, at nearly 1/(2π RC): 10 kΩ and 10 nF, 1.59 kHz."""
    bridge = [
        *(r("R1", "10k", "out", "x"), c("C1", "10n", "x", "p"), r("R2", "10k", "p", "gnd"), c("C2", "10n", "p", "gnd")),
        *(r("R3", "10k", "m", "gnd"), r("R4", "20.5k", "m", "out"), amplifier("U1", "p", "m", "out")),
    ]
    blank = board(bridge, RAILS, "operating point")
    circuit, check = pair(blank)
    [asked] = [each for each in questions(circuit, check) if each.kind is SteadyStateCheck]
    assert asked.words == "Does out oscillate by itself, and how?"
    fresh = fresh_check(blank, circuit, "steady state", check)
    of = [("frequency", "v(out)"), ("peak_to_peak", "v(out)")]
    drawn = asks("steady state", bridge, RAILS, *of, **fresh.analysis.model_dump(exclude={"kind"}, exclude_none=True))
    found = measured(drawn)
    # Clipping slows it down by a part of what the gain is above 3.
    assert found["frequency"] == pytest.approx(1 / (2 * np.pi * 1e-4), rel=0.01)
    assert 8.0 < found["peak-to-peak"] < 10.1


def test_what_does_not_oscillate_says_so() -> None:
    drawn = asks("steady state", STAGE, [*RAILS, source("in")], oscillates="out", period="1m", begin="cold")
    [result] = prepare(*pair(drawn), {}).rows()
    assert result.cause is Cause.NOT_SOLVED
    assert any("does not oscillate" in finding.message for finding in result.findings)
    with pytest.raises(CircuitError, match="does not begin to oscillate"):
        prepare(*pair(asks("steady state", STAGE, [*RAILS, source("in")], oscillates="out")), {})


@pytest.mark.parametrize("pin", ["U1.in-", "U1.out"])
def test_a_linear_circuit_has_the_loop_that_it_has_at_rest(pin: str) -> None:
    sine = source("in", waveform={"kind": "sine", "amplitude": "10m", "frequency": "50meg"})
    of = [("phase_margin", LOOP), ("crossover", LOOP)]
    switched = measured(asks("switched loop", STAGE, [*RAILS, sine], *of, around=pin))
    resting = measured(asks("loop", STAGE, [*RAILS, sine], *of, around="U1.out"))
    assert switched["crossover"] == pytest.approx(resting["crossover"], rel=2e-2)
    assert switched["phase-margin"] == pytest.approx(resting["phase-margin"], abs=1.5)


@pytest.mark.parametrize(
    ("key", "current", "words"),
    [
        ("step-down-diode", "1", "conducts continuously"),
        ("step-down-diode", "0.05", "conducts discontinuously"),
        ("step-down-synchronous", "0.05", "reverses"),
    ],
)
def test_a_converter_is_told_how_its_inductor_conducts(key: str, current: str, words: str) -> None:
    """The border lies at half the ripple (Erickson and Maksimovic, chapter 5); the parts are those for 1 A."""
    computed = compute(STAGES[key], {})
    bench = bench_of(STAGES[key], computed, {})
    assert bench is not None
    loaded = [f.model_copy(update={"resistance": f"{3.3 / float(current):g}"}) if f.kind == "load" else f
              for f in bench.check.fixtures]  # fmt: skip
    check = bench.check.model_copy(update={"fixtures": tuple(loaded)})
    result = run_check(
        Board(title="b", circuits=(Circuit(id="c", title="c", parts=computed.parts, checks=(check,)),)), "bench", {}
    )
    [found] = [finding.message for finding in result.findings if finding.message.startswith("L1")]
    assert words in found
