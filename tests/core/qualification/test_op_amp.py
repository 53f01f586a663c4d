"""The bench of op-amps against design equations, closed forms and python-control."""

from __future__ import annotations

import math

import control
import numpy as np
import pytest

from tests.core.qualification.subjects import from_catalogue, model, on_the_bench, value
from verdad.catalogue import op_amps
from verdad.catalogue.recipes.numbers import THERMAL
from verdad.catalogue.recipes.op_amp import C2, IS, OpAmp, boyle
from verdad_core.intake.kinds import KINDS
from verdad_core.qualification.bench import measure
from verdad_core.qualification.figures import Standing

ROLES = KINDS["op-amp"].roles

BUILT = {"ovn4183": op_amps.OVN4183, "ovn2201": op_amps.OVN2201, "ovn7702": op_amps.OVN7702, "ovn9001": op_amps.OVN9001}


@pytest.mark.parametrize(("slug", "figures"), BUILT.items())
def test_boyles_design_equations_predict_the_bench(slug: str, figures: OpAmp) -> None:
    """Boyle, Cohn, Pederson, Solomon, IEEE J. Solid-State Circuits 9, 1974: gain-bandwidth 1 / (2π RC1 C2), slew rate
    2 IC1 / C2, bias current IC1 / β, limit of the output current by the clamp's voltage.

    Tolerances: the second pole takes a few per cent off the gain-bandwidth at 40 dB; the slewing edge carries the
    current of the tail's capacitance; the limit is soft by the diodes' kT/q.
    """
    values, measured = boyle(figures), on_the_bench(slug)
    each = values.tail / (1 + 1 / values.beta) / 2
    assert value(measured, "gain_bandwidth") == pytest.approx(1 / (2 * math.pi * values.collector * C2), rel=0.02)
    assert value(measured, "slew_rate_rising") == pytest.approx(2 * each / C2, rel=0.03)
    assert value(measured, "slew_rate_falling") == pytest.approx(2 * each / C2, rel=0.03)
    assert value(measured, "bias_current") == pytest.approx(each / values.beta, rel=0.01)
    assert value(measured, "open_loop_gain") == pytest.approx(20 * math.log10(figures.gain), abs=0.3)
    assert value(measured, "supply_current") == pytest.approx(figures.supply, rel=0.01)
    assert value(measured, "common_mode_rejection") == pytest.approx(20 * math.log10(figures.rejection), abs=1.0)
    limit = 1e3 * figures.short_circuit - THERMAL * math.log(1e-6 / IS)
    # The clamp conducts once 1 kΩ times the current exceeds its voltage by that of a diode.
    assert value(measured, "short_circuit_source") == pytest.approx(
        (limit + THERMAL * math.log(1e-6 / IS)) / 1e3, rel=0.05
    )
    assert value(measured, "output_resistance") == pytest.approx(0.4 * figures.resistance, rel=0.02)


@pytest.mark.parametrize("slug", ["ovn2201", "ovn7702", "ovn9001", "ovn3310"])
def test_noise_follows_the_recipe(slug: str) -> None:
    """Density at 1 kHz: en² (1 + fc / f). What the recipe leaves out (base currents, R2) adds a few per cent."""
    figures: OpAmp = getattr(op_amps, slug.upper())
    expected = figures.noise * math.sqrt(1 + figures.corner / 1e3)
    assert value(on_the_bench(slug), "voltage_noise") == pytest.approx(expected, rel=0.06)
    # Shot noise of the bias current, sqrt(2 q I) (Schottky 1918), for the bipolar ones.
    if slug != "ovn3310":
        assert value(on_the_bench(slug), "current_noise") == pytest.approx(
            math.sqrt(2 * 1.602176634e-19 * figures.bias), rel=0.02
        )


def two_pole(gain: float, gbw: float, second: float, zero: float = 0.0) -> str:
    """Ideal stages: A(s) = A0 (1 - s/z) / ((1 + s/p1)(1 + s/p2)), no noise, no limits."""
    first = gbw / gain
    lines = [
        ".subckt amp inp inn vcc vee out", "g1 0 a inp inn 1m", f"r1 a 0 {gain / 1e-3!r}",
        f"c1 a 0 {1 / (2 * math.pi * first * gain / 1e-3)!r}", "e2 b 0 a 0 1", "r2 b c 1k",
        f"c2 c 0 {1 / (2 * math.pi * second * 1e3)!r}", "rq vcc vee 10k",
    ]  # fmt: skip
    if zero:
        # 2 lowpass - input: an all-pass, whose pole comes with the zero.
        lines += ["r3 d e 1k", f"c3 e 0 {1 / (2 * math.pi * zero * 1e3)!r}", "e3 d 0 c 0 1",
                  "e4 f 0 poly(2) (e,0) (d,0) 0 2 -1"]  # fmt: skip
    return "\n".join([*lines, f"e9 g 0 {'f' if zero else 'c'} 0 1", "ro g out 10", ".ends"])


@pytest.mark.parametrize(("second", "zero"), [(8e6, 0.0), (2e6, 0.0), (20e6, 8e6)])
def test_margins_poles_and_zeros_agree_with_python_control(second: float, zero: float) -> None:
    """python-control's margin() of the same transfer function. Both refine the crossing, to 1e-3 of a degree here:
    the bench loads the output (10 Ω against 10 kΩ), which takes 0.1 % of the gain.
    """
    gain, gbw = 1e5, 5e6
    measured = measure(model(two_pole(gain, gbw, second, zero), "amp", *ROLES), "op-amp")
    s = control.tf("s")
    w1, w2 = 2 * math.pi * gbw / gain, 2 * math.pi * second
    loop = gain * (10e3 / 10010) / ((1 + s / w1) * (1 + s / w2))
    if zero:
        wz = 2 * math.pi * zero
        loop = loop * (1 - s / wz) / (1 + s / wz)
    _, follower, _, _ = control.margin(loop)
    _, inverter, _, _ = control.margin(loop / 2)
    assert value(measured, "phase_margin_follower") == pytest.approx(follower, abs=0.02)
    assert value(measured, "phase_margin_inverter") == pytest.approx(inverter, abs=0.05)
    assert value(measured, "right_half_plane_zeros") == (1 if zero else 0)
    assert value(measured, "right_half_plane_poles") == 0
    if not zero:
        # Phase -135° where atan(f/p1) + atan(f/p2) = 135°: the second pole itself, to p1/p2.
        assert value(measured, "second_pole") == pytest.approx(second, rel=2e-3)


def test_a_small_step_overshoots_as_a_second_order_system_does() -> None:
    """exp(-π ζ / sqrt(1 - ζ²)) with ω0² = ωt ωp2, 2 ζ ω0 = ωp2 (any text on control; the dc gain's error is 1e-5)."""
    gbw, second = 5e6, 5e6
    measured = measure(model(two_pole(1e6, gbw, second), "amp", *ROLES), "op-amp")
    zeta = 0.5 * math.sqrt(second / gbw)
    expected = 100 * math.exp(-math.pi * zeta / math.sqrt(1 - zeta**2))
    # The edge takes a two-thousandth of the record, and the transient's points hit the peak to a per cent.
    assert value(measured, "overshoot") == pytest.approx(expected, abs=0.4)


def test_errors_and_rejections_are_the_ratios_of_the_transconductances() -> None:
    """Every error of an ideal stage is a transconductance beside that of the inputs, 1 mS: offset 2 mV by 2 µA, bias
    currents as impressed, rejections gm / g (the definition of each); 1e-3 for the finite gain and the load.
    """
    errors = (
        "ios 0 a 2u\nib1 inp 0 30n\nib2 inn 0 20n\ngps 0 a vcc 0 0.1u\ngos a 0 vone 0 0.5u\nvone vone 0 1\n"
        "gms 0 a vee 0 0.5u\ngoc a 0 vtwo 0 2.5u\nvtwo vtwo 0 -1\ngc1 0 a inp 0 0.5u\ngc2 0 a inn 0 0.5u\nro g out 10"
    )
    text = two_pole(1e5, 5e6, 50e6).replace("ro g out 10", errors)
    measured = measure(model(text, "amp", *ROLES), "op-amp")
    assert value(measured, "offset_voltage") == pytest.approx(2e-3, rel=0.02)
    assert value(measured, "bias_current") == pytest.approx(25e-9, rel=1e-3)
    assert value(measured, "offset_current") == pytest.approx(10e-9, rel=1e-3)
    assert value(measured, "supply_current") == pytest.approx(10 / 10e3, rel=1e-3)
    assert value(measured, "positive_supply_rejection") == pytest.approx(80.0, abs=0.01)
    assert value(measured, "negative_supply_rejection") == pytest.approx(20 * math.log10(2000), abs=0.01)
    assert value(measured, "common_mode_rejection") == pytest.approx(60.0, abs=0.01)
    assert value(measured, "output_resistance") == pytest.approx(10.0, rel=1e-3)


def test_one_pole_settles_to_a_hundredth_in_ln_100_time_constants() -> None:
    """T = ln(100) / (2π f1), as of any first-order system; the edge takes 1/100 of it, points are 1 % apart."""
    measured = measure(model(two_pole(1e6, 5e6, 5e9), "amp", *ROLES), "op-amp")
    assert value(measured, "settling_time") == pytest.approx(math.log(100) / (2 * math.pi * 5e6), rel=0.05)
    assert value(measured, "overshoot") == pytest.approx(0.0, abs=0.1)


@pytest.mark.parametrize("frequency", [1e3, 1e5])
def test_noise_is_that_of_the_inputs_at_any_frequency(frequency: float) -> None:
    """1 kΩ in series has sqrt(4kTR) (Johnson and Nyquist 1928). With 1 MΩ before 5 pF the current's noise falls from
    32 kHz on at the output; referred to the input it must not.
    """
    own = "rn inp sense 1k\nin inp 0 0 density=1p\ncin inp 0 5p\ng1 0 a sense inn 1m"
    text = two_pole(1e5, 50e6, 500e6).replace("g1 0 a inp inn 1m", own)
    measured = measure(model(text, "amp", *ROLES), "op-amp", {"noise": frequency})
    assert value(measured, "voltage_noise") == pytest.approx(math.sqrt(4 * 1.380649e-23 * 300.15 * 1e3), rel=0.01)
    assert value(measured, "current_noise") == pytest.approx(1e-12, rel=0.01)


def test_what_a_model_leaves_out_is_absent_and_not_good() -> None:
    measured = measure(model(two_pole(1e5, 5e6, 8e6), "amp", *ROLES), "op-amp")
    standing = {figure.key: figure.standing for figure in measured.figures}
    for key in ("offset_voltage", "bias_current", "offset_current", "offset_drift"):
        assert standing[key] is Standing.ABSENT, key
    for key in ("slew_rate_rising", "output_high", "short_circuit_source", "voltage_noise", "noise_corner"):
        assert standing[key] is Standing.ABSENT, key
    assert standing["common_mode_rejection"] is Standing.ABSENT
    assert standing["gain_bandwidth"] is Standing.MEASURED


def test_supply_current_from_ground_is_said() -> None:
    text = two_pole(1e5, 5e6, 8e6).replace("rq vcc vee 10k", "rq vcc 0 10k")
    figure = measure(model(text, "amp", *ROLES), "op-amp").figure("supply_current")
    assert figure is not None
    assert figure.standing is Standing.ABSENT
    assert "from ground" in figure.remark


def test_a_data_sheet_that_says_stable_is_contradicted_by_right_half_plane_zeros() -> None:
    measured = on_the_bench("ovn6050")
    assert value(measured, "right_half_plane_zeros") == 1
    assert value(measured, "phase_margin_follower") < 0
    assert value(measured, "phase_margin_inverter") < 0
    messages = [finding.message for finding in measured.findings]
    assert any("as an inverter with a gain of 1 this model oscillates" in message for message in messages)
    assert any("slew rate: the follower oscillates" in message for message in messages)


def test_pins_in_the_wrong_order_leave_a_finding_each_and_no_exception() -> None:
    wrong = from_catalogue("ovn4183")
    swapped = model(wrong.bundle.files[0].text, "ovn4183", "out", "v+", "in+", "in-", "v-")
    measured = measure(swapped, "op-amp")
    assert measured.figure("open_loop_gain") is not None
    named = model(wrong.bundle.files[0].text, "ovn4183", "in+", "in-", "v+", "v-", "output")
    measured = measure(named, "op-amp")
    assert not measured.figures
    assert "needs the pin out" in measured.findings[0].message


def test_a_bench_is_left_when_nobody_waits_and_told_where_it_is() -> None:
    class LeaveError(Exception):
        pass

    seen = []

    def progress(done: int, experiments: int, doing: str) -> None:
        seen.append((done, experiments, doing))
        if doing == "stability":
            raise LeaveError

    with pytest.raises(LeaveError):
        measure(from_catalogue("ovn4183"), "op-amp", {}, progress)
    assert seen[0] == (0, 7, "errors and supply current")


def test_curves_are_finite_and_bounded() -> None:
    for card in on_the_bench("ovn4183").cards:
        for line in card.curves:
            assert len(line.x) == len(line.y) <= 700
            assert np.all(np.isfinite([*line.x, *line.y]))
