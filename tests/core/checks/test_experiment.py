"""Checks of every kind against JOB.md's check values and closed forms."""

import math
from typing import Any

import numpy as np
import pytest

from tests.core.boards import RAILS, amplifier, board, c, generic, r, run_rows, source, spread, supply, two
from verdad_core.checks.run import CheckResult, run_check
from verdad_core.document.board import Board
from verdad_core.errors import BoardError, ConvergenceError
from verdad_core.measure.expressions import read_expression
from verdad_core.measure.trace import Trace
from verdad_core.sheet.review import review

LOW_PASS = [r("R1", "1k", "in", "out"), c("C1", "1u", "out", "gnd")]
HIGH_PASS = [c("C1", "1u", "in", "out"), r("R1", "1k", "out", "gnd")]


def run(of: Board, *metered: str) -> CheckResult:
    return run_check(of, "k", {}, metered)


def trace(result: CheckResult, expression: str) -> Trace:
    assert result.signals is not None
    return result.signals.evaluate(read_expression(expression))


def response(parts: list[dict[str, Any]], key: str, **check: Any) -> float:
    measurement = {"id": "m", "key": key}
    fixtures = check.pop("fixtures", [source("in")])
    of = board(parts, fixtures, "frequency response", output="out", source="vin", measurements=[measurement], **check)
    return run(of).measured[0].value


@pytest.mark.parametrize(("farads", "hertz"), [("1u", 159.155), ("10n", 15915.5)])
def test_an_rc_cuts_off_at_159_hz_and_15_9_khz(farads: str, hertz: float) -> None:
    """1/(2πRC); common practice, no source. Cubic interpolation at 50 points a decade is good to 1e-5."""
    low = [LOW_PASS[0], LOW_PASS[1] | {"value": farads}]
    high = [HIGH_PASS[0] | {"value": farads}, HIGH_PASS[1]]
    assert response(low, "upper_cutoff") == pytest.approx(hertz, rel=1e-4)
    # A decade above the pole the pass band is level to 0.5 %, so a wider sweep is asked for.
    assert response(high, "lower_cutoff", analysis={"stop": "10meg"}) == pytest.approx(hertz, rel=1e-4)


def test_a_capacitance_multiplier_moves_1591_hz_to_1_6_hz() -> None:
    """100 pF times 1 MΩ / 1 kΩ behind 1 MΩ (JOB.md): the follower drives R2 in step with the capacitor's node."""
    plain = [r("R1", "1meg", "in", "out"), c("C1", "100p", "out", "gnd")]
    assert response(plain, "upper_cutoff") == pytest.approx(1591.5, rel=1e-3)
    parts = [r("R1", "1meg", "in", "a"), c("C1", "100p", "a", "gnd"), amplifier("U1", "a", "out", "out"),
             r("R2", "1k", "out", "in")]  # fmt: skip
    fixtures = [source("drive") | {"name": "vin"}, *RAILS]
    parts.append(r("R3", "1meg", "drive", "in"))
    # Seen from `in`, R2 to the follower takes 1000 times the current that R1 does.
    found = run(
        board(parts, fixtures, "frequency response", output="in", source="vin",
              measurements=[{"id": "m", "key": "upper_cutoff"}], analysis={"start": "1m", "stop": "10k"})
    ).measured[0].value  # fmt: skip
    assert found == pytest.approx(1.59, rel=0.02)


def test_a_divider_and_its_buffer_at_rest() -> None:
    """5.1 V over 10.2 kΩ and 18.7 kΩ: 3.300 V (JOB.md), which a follower repeats into 1 kΩ."""
    parts = [r("R1", "10.2k", "top", "half"), r("R2", "18.7k", "half", "gnd"), amplifier("U1", "half", "out", "out"),
             r("R3", "1k", "out", "gnd")]  # fmt: skip
    wanted = {"a": "v(half)", "b": "v(out)", "i": "i(R3.1)", "p": "p(R3)"}
    measurements = [{"id": id_, "key": "value", "of": of} for id_, of in wanted.items()]
    result = run(board(parts, [supply("top", "5.1"), *RAILS], "operating point", measurements=measurements))
    half, out, amperes, watts = (m.value for m in result.measured)
    assert half == pytest.approx(5.1 * 18.7 / 28.9, rel=1e-6)
    assert out == pytest.approx(half, abs=100e-6)
    assert (amperes, watts) == pytest.approx((out / 1e3, out**2 / 1e3), rel=1e-9)
    assert [m.unit for m in result.measured] == ["V", "V", "A", "W"]


def test_a_divider_with_tempco_is_swept_over_temperature() -> None:
    """A sweep of the temperature holds the nominal among its points: 27 °C (JOB.md asks for it)."""
    parts = [r("R1", "10k", "top", "out"), r("R2", "20k", "out", "gnd")]
    analysis = {"over": "temperature", "start": "0", "stop": "100", "points": 101}
    result = run(board(parts, [supply("top", "12")], "dc sweep", analysis=analysis))
    found = trace(result, "v(out)")
    assert found.axis is not None
    assert found.axis.unit.name == "°C"
    assert np.allclose(found.values, 8.0)


def test_a_dc_sweep_of_an_amplifier_runs_into_its_rails() -> None:
    parts = [amplifier("U1", "in", "fb", "out"), r("R1", "9k", "out", "fb"), r("R2", "1k", "fb", "gnd")]
    result = run(board(parts, [source("in"), *RAILS], "dc sweep", analysis={"and_back": True}))
    out = trace(result, "v(out)")
    assert out.axis is not None
    assert "vin over -5 V to 5 V" in result.scale
    middle = np.abs(out.axis.values) < 0.2
    assert np.allclose(out.values[middle], 10 * out.axis.values[middle], rtol=1e-3, atol=1e-3)
    assert -5 <= out.values.min() < -3
    assert 3 < out.values.max() <= 5
    assert len(out.values) == 401


def test_a_step_charges_a_capacitor() -> None:
    """1 - e^(-t/RC); the run is chosen as ten time constants after the step."""
    step = source("in", waveform={"kind": "step", "level": "1"})
    result = run(
        board(LOW_PASS, [step], "transient", measurements=[{"id": "m", "key": "rise_time", "of": "v(out)"}]), "R1.1"
    )
    out, time = trace(result, "v(out)"), trace(result, "time")
    assert "10 times the slowest time constant, 1 ms" in result.scale
    assert time.values[-1] == pytest.approx(10e-3)
    # The engine's relative tolerance is 1e-3.
    assert np.allclose(out.values, 1 - np.exp(-time.values / 1e-3), atol=1e-3)
    assert np.allclose(trace(result, "i(R1.1)").values[1:], (1 - out.values[1:]) / 1e3, atol=1e-6)
    assert result.measured[0].value == pytest.approx(1e-3 * math.log(9), rel=1e-3)


def test_a_current_source_and_loads_of_every_kind() -> None:
    """1 mA into 1 kΩ beside a load that draws 0.4 mA: 0.6 V; its corner with 1 µF at 159 Hz in V/A."""
    drive = source("out", quantity="current", dc="1m", ac="2m")
    load = {"kind": "load", "name": "load", "plus": "out", "capacitance": "1u", "current": "0.4m"}
    parts = [r("R1", "1k", "out", "gnd")]
    rest = run(
        board(parts, [drive, load], "operating point", measurements=[{"id": "m", "key": "value", "of": "v(out)"}])
    )
    assert rest.measured[0].value == pytest.approx(0.6, rel=1e-9)
    measurements = [{"id": "g", "key": "passband_gain"}, {"id": "f", "key": "upper_cutoff"}]
    ac = run(board(parts, [drive, load], "frequency response", output="out", source="vin", measurements=measurements))
    assert [m.value for m in ac.measured] == pytest.approx([1e3, 159.155], rel=1e-4)
    assert [m.unit for m in ac.measured] == ["Ω", "Hz"]


def test_a_cold_run_begins_where_a_statement_says() -> None:
    """2 V on the capacitor, e^(-t/RC)."""
    charged = {"kind": "statement", "designator": "C1", "pins": ["out", "gnd"], "text": "1u ic=2"}
    cold = {"begin": "cold", "stop": "3m"}
    result = run(board([r("R1", "1k", "in", "out"), charged], [source("in")], "transient", analysis=cold))
    out, time = trace(result, "v(out)"), trace(result, "time")
    assert np.allclose(out.values[1:], 2 * np.exp(-time.values[1:] / 1e-3), atol=2e-3)


@pytest.mark.parametrize("kind", ["operating point", "dc sweep", "transient"])
def test_a_circuit_that_cannot_stay_at_rest_is_told_of(kind: str) -> None:
    """A trigger between its thresholds rests on the top of a hill; a follower has nothing to tell."""
    trigger = [amplifier("U1", "thr", "in", "out"), r("R1", "30k", "out", "thr"), r("R2", "10k", "thr", "gnd")]
    follower = [amplifier("U1", "in", "out", "out"), r("R1", "30k", "out", "gnd")]
    said = [
        [f.message for f in run(board(parts, [source("in"), *RAILS], kind)).findings] for parts in (trigger, follower)
    ]
    assert "unstable: 1 pole" in said[0][0]
    assert "will not stay here" in said[0][0]
    assert said[1] == []


def test_a_cold_run_tells_nothing_of_a_rest_that_it_does_not_begin_at() -> None:
    """The trigger above, which a designer may have meant to swing."""
    trigger = [amplifier("U1", "thr", "in", "out"), r("R1", "30k", "out", "thr"), r("R2", "10k", "thr", "gnd")]
    fixtures = [source("in"), *RAILS]
    rest, cold = (
        run(board(trigger, fixtures, "transient", analysis={"begin": begin, "stop": "1m"}))
        for begin in ("operating point", "cold")
    )
    assert "will not stay here" in rest.findings[0].message
    assert cold.findings == ()


def test_a_port_drives_behind_its_impedance() -> None:
    port = {"kind": "port", "name": "port", "plus": "in", "impedance": "50"}
    load = {"kind": "load", "name": "load", "plus": "out", "resistance": "50"}
    of = board([r("R1", "1m", "in", "out")], [port, load], "frequency response", output="out", source="port",
               measurements=[{"id": "m", "key": "passband_gain"}])  # fmt: skip
    assert run(of).measured[0].value == pytest.approx(0.5, rel=1e-4)


def test_noise_rides_on_the_direct_value() -> None:
    noise = source("out", dc="2", waveform={"kind": "noise", "rms": "10m", "interval": "1u"})
    result = run(board([r("R1", "1k", "out", "gnd")], [noise], "transient", analysis={"stop": "1m"}))
    found = trace(result, "v(out)").values
    assert np.mean(found) == pytest.approx(2.0, abs=2e-3)
    # Points lie on the draws: a thousand of them know their deviation to 2 %.
    assert np.std(found) == pytest.approx(10e-3, rel=0.08)


def test_a_table_of_frequencies_that_is_only_nearly_followed_is_told_of() -> None:
    """As at the command line; decibels and degrees that do not quite belong together."""
    rough = {"kind": "statement", "designator": "E1", "pins": ["out", "gnd"],
             "text": "freq {v(in)} = (1k,0,0) (10k,-20,-90) (100k,-40,-90)"}  # fmt: skip
    of = board([r("R1", "1k", "in", "gnd"), rough], [source("in")], "transient", analysis={"stop": "1m"})
    found = [finding for finding in run(of).findings if "table of frequencies" in finding.message]
    assert [finding.place.part for finding in found] == ["E1"]


def test_a_run_that_is_ended_keeps_what_it_has() -> None:
    def look(done: float) -> None:
        if done > 0.3:
            raise ConvergenceError("somebody ended it")

    sine = source("in", waveform={"kind": "sine", "frequency": "1k"})
    result = run_check(board(LOW_PASS, [sine], "transient", analysis={"stop": "1"}), "k", {}, look=look)
    assert result.objection is not None
    assert 0.2 < trace(result, "time").values[-1] < 1


def test_names_are_found_whatever_their_case_and_near_ones_are_offered() -> None:
    result = run(board(LOW_PASS, [source("in")], "frequency response", output="out", source="vin"), "R1.1", "vin")
    assert np.allclose(trace(result, "v(OUT)").values, trace(result, "v(out)").values)
    assert np.allclose(trace(result, "i(r1)").values, -trace(result, "i(vin)").values)
    with pytest.raises(Exception, match="there is no net oute") as caught:
        trace(result, "v(oute)")
    assert "out" in str(caught.value)


def test_a_response_without_source_is_refused() -> None:
    with pytest.raises(ValueError, match="no source"):
        board(LOW_PASS, [], "frequency response", output="out", source="vin")
    with pytest.raises(ValueError, match="has no response"):
        board(LOW_PASS, [source("in")], "transient", measurements=[{"id": "m", "key": "passband_gain"}])
    silent = source("in", quantity="current", ac="0")
    with pytest.raises(BoardError, match="no AC magnitude"):
        run(board([*LOW_PASS, r("R2", "1k", "out", "gnd")], [silent], "frequency response", output="out", source="vin"))


def of_divider(waveform: dict[str, Any], stop: str, *measurements: dict[str, str]) -> list[float]:
    """Measured on two resistors of 1 kΩ."""
    parts = [r("R1", "1k", "in", "out"), r("R2", "1k", "out", "gnd")]
    asked = [{"id": f"m{k}", **each} for k, each in enumerate(measurements)]
    drive = source("in", waveform=waveform)
    result = run(board(parts, [drive], "transient", analysis={"stop": stop}, measurements=asked))
    return [m.value for m in result.measured]


def test_a_long_run_is_measured_on_all_of_its_steps() -> None:
    """A thousand periods of 100 kHz: rms, mean power, mean of a pulse train and the peak of a spectrum."""
    sine = {"kind": "sine", "amplitude": "2", "frequency": "100k"}
    found = of_divider(
        sine, "10m", {"key": "rms", "of": "v(out)"}, {"key": "mean", "of": "p(R1)"},
        {"key": "maximum_place", "of": "fft(v(out))"},
    )  # fmt: skip
    # 24 chords a turn of the sine lie inside of it by half a per cent.
    assert found == pytest.approx([math.sqrt(0.5), 0.5e-3, 1e5], rel=1.2e-2)
    pulses = {"kind": "pulse", "level": "1", "width": "0.9u", "every": "10u"}
    assert of_divider(pulses, "20m", {"key": "mean", "of": "v(in)"}) == pytest.approx([0.09], rel=1e-2)


@pytest.mark.parametrize("quality", [10.0, 20.0, 50.0, 500.0])
def test_the_peak_of_a_resonance_is_found_between_the_points(quality: float) -> None:
    """A series circuit's voltage over its capacitor: Q / sqrt(1 - 1 / 4Q²) at the peak."""
    ohms = math.sqrt(1e-3 / 1e-9) / quality
    parts = [r("R1", f"{ohms:.6g}", "in", "a"), two("inductor", "L1", "1m", "a", "out"), c("C1", "1n", "out", "gnd")]
    result = run(
        board(parts, [source("in", ac="1")], "frequency response", output="out", source="vin",
              measurements=[{"id": "g", "key": "passband_gain"}])
    )  # fmt: skip
    assert result.measured[0].value == pytest.approx(quality / math.sqrt(1 - 1 / (4 * quality**2)), rel=1e-3)


def test_settling_and_cut_off_with_everything_left_open() -> None:
    """Ln 1000 time constants to 0.1 %; a high-pass at 1 kHz."""
    step = source("in", waveform={"kind": "step", "level": "1"})
    asked = [{"id": "s", "key": "settling_time", "of": "v(out)", "settings": {"band": "0.1"}}]
    result = run(board(LOW_PASS, [step], "transient", measurements=asked))
    assert result.measured[0].value == pytest.approx(1e-3 * math.log(1000), rel=2e-3)
    parts = [c("C1", "1u", "in", "out"), r("R1", "159.154943", "out", "gnd")]
    result = run(
        board(parts, [source("in", ac="1")], "frequency response", output="out", source="vin",
              measurements=[{"id": "f", "key": "lower_cutoff"}])
    )  # fmt: skip
    assert result.measured[0].value == pytest.approx(1e3, rel=2e-4)


def test_a_run_that_was_chosen_too_short_is_made_longer() -> None:
    """A slew of 10 V/ms to 3 V takes much longer than the poles say; it settles all the same."""
    step = source("in", waveform={"kind": "step", "level": "3"})
    slow = generic("U1", "opamp", {"in+": "in", "in-": "out", "v+": "+5V", "v-": "-5V", "out": "out"}, slew="10k")
    asked = [{"id": "t", "key": "rise_time", "of": "v(out)"}]
    parts = [slow, r("R1", "10k", "out", "gnd"), c("C1", "1n", "out", "gnd")]
    result = run(board(parts, [step, *RAILS], "transient", measurements=asked))
    assert result.measured[0].value == pytest.approx(0.8 * 3.0 / 1e4, rel=0.05)


def test_ends_of_a_temperature_sweep_have_values() -> None:
    parts = [r("R1", "10k", "top", "out"), r("R2", "20k", "out", "gnd")]
    analysis = {"over": "temperature", "start": "-40", "stop": "85"}
    asked = [{"id": f"v{at}", "key": "value", "of": "v(out)", "settings": {"place": at}} for at in ("-40", "85")]
    result = run(board(parts, [supply("top", "12")], "dc sweep", analysis=analysis, measurements=asked))
    assert [m.value for m in result.measured] == pytest.approx([8.0, 8.0])


def test_the_delay_of_a_line_is_followed_though_phase_turns_far_between_points() -> None:
    line = {"kind": "statement", "designator": "T1", "pins": ["in", "gnd", "out", "gnd"], "text": "z0=50 td=1u"}
    parts = [line, r("R1", "50", "out", "gnd")]
    analysis = {"start": "10k", "stop": "10meg", "points_per_decade": 10}
    asked = [{"id": "d", "key": "value", "of": "delay(v(out))", "settings": {"place": "5meg"}}]
    result = run(
        board(parts, [source("in", ac="1")], "frequency response", output="out", source="vin", analysis=analysis,
              measurements=asked)
    )  # fmt: skip
    assert result.measured[0].value == pytest.approx(1e-6, rel=1e-3)


@pytest.mark.parametrize("of", ["delay(response)", "delay(v(out)/v(in))", "delay(-2*(v(out)-v(gnd)))"])
@pytest.mark.parametrize("quality", [0.7071, 20.0])
def test_group_delay_is_that_of_the_solution_however_few_the_points(of: str, quality: float) -> None:
    """Of 1 / (1 - u² + ju/Q), u = f/f0, it is (1 + u²) / (Q ω0 ((1 - u²)² + u²/Q²)); two points a decade here."""
    ohms = math.sqrt(1e-3 / 1e-9) / quality
    parts = [r("R1", f"{ohms:.9g}", "in", "a"), two("inductor", "L1", "1m", "a", "out"), c("C1", "1n", "out", "gnd")]
    natural = 1 / (2 * math.pi * math.sqrt(1e-12))
    analysis = {"start": f"{natural / 10}", "stop": f"{natural * 10}", "points_per_decade": 2}
    drawn = board(parts, [source("in", ac="1")], "frequency response", output="out", source="vin", analysis=analysis)
    signals = run_check(drawn, "k", {}).signals
    assert signals is not None
    found = signals.evaluate(read_expression(of))
    u = found.along().values / natural
    exact = (1 + u**2) / (quality * 2 * math.pi * natural * ((1 - u**2) ** 2 + (u / quality) ** 2))
    # Solutions a millionth apart lose six of the engine's digits.
    assert found.values == pytest.approx(exact, rel=1e-6)


def test_what_a_mean_was_taken_over_is_said() -> None:
    sine = {"kind": "sine", "amplitude": "2", "frequency": "1k"}
    asked = [{"id": "m", "key": "rms", "of": "v(in)"}, {"id": "p", "key": "maximum", "of": "v(out)"}]
    drive = source("in", waveform=sine)
    result = run(board(LOW_PASS, [drive], "transient", analysis={"stop": "10.3m"}, measurements=asked))
    assert [measured.said for measured in result.measured] == ["over 9 periods of 1 ms", ""]


def test_each_row_of_a_study_runs_until_it_has_settled() -> None:
    """The capacitor of ± 20 % is drawn anew in each row; of a slewing stage no pole tells how long that takes."""
    step = source("in", waveform={"kind": "step", "level": "3"})
    slow = generic("U1", "opamp", {"in+": "in", "in-": "out", "v+": "+5V", "v-": "-5V", "out": "out"}, slew="10k")
    parts = [slow, r("R1", "10k", "out", "gnd"), c("C1", "1n", "out", "gnd")]
    asked = [{"id": "t", "key": "rise_time", "of": "v(out)"}]
    drawn = board(parts, [step, *RAILS], "transient", measurements=asked)
    study = {"kind": "monte carlo", "id": "s", "title": "s", "checks": ["k"], "rows": 10}
    drawn = Board.model_validate({**drawn.model_dump(mode="json"), "spreads": [spread("R1", 20)], "studies": [study]})
    table = run_rows(drawn, drawn.studies[0], {}, 0, 3).values
    assert table[:, 0] == pytest.approx([0.8 * 3.0 / 1e4] * 3, rel=0.05)


@pytest.mark.parametrize("kind", ["frequency response", "transient"])
def test_what_floats_for_direct_current_is_held_and_said(kind: str) -> None:
    """Two equal capacitors halve what moves (Kirchhoff), whatever holds the net between them at rest."""
    waveform = {"kind": "pulse", "level": "1", "delay": "1u", "rise": "1n", "width": "1", "every": None}
    parts = [c("C1", "1n", "in", "mid"), c("C2", "1n", "mid", "gnd")]
    fixtures, analysis = [source("in", ac="1", waveform=waveform)], {"stop": "10u"} if kind == "transient" else {}
    drawn = board(parts, fixtures, kind, output="mid", source="vin", analysis=analysis)
    message = "no direct-current path leads to ground from mid; 1 pS holds it there"
    assert review(*drawn.check("k"), {}, {}) == []
    result = run_check(drawn, "k", {})
    assert [finding.message for finding in result.findings] == [message]
    assert result.signals is not None
    assert abs(result.signals.voltages["mid"][-1]) == pytest.approx(0.5, rel=1e-6)
