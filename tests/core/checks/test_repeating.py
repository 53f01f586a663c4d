"""Checks around a periodic steady state, on circuits that are solved by hand."""

from typing import Any

import numpy as np
import pytest

from tests.core.boards import RAILS, STAGE, board, c, pair, r, source
from verdad_core.checks.cause import Cause
from verdad_core.checks.experiment import prepare
from verdad_core.checks.kinds.loop import LOOP
from verdad_core.checks.run import run_check
from verdad_core.document.board import Board, Circuit
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
