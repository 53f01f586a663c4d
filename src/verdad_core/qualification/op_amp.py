"""The bench of an op-amp: its errors, its output, its noise; open_loop.py and closed_loop.py hold the rest."""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.ac import logarithmic
from verdad_core.analyses.noise import NoiseResult, noise
from verdad_core.arrays import Floats
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.qualification.amplifier import FREQUENCY, MINUS, OUT, PLUS, follower, supplies
from verdad_core.qualification.closed_loop import slew, small_step, stability
from verdad_core.qualification.experiment import ROOM, Experiment, Subject, at, rows, solved
from verdad_core.qualification.figures import Axis, Card, FigureType, Outcome, curve
from verdad_core.qualification.open_loop import open_loop
from verdad_core.units import format_value

#: An offset (V) and input currents (A) below these are rounding, and GMIN's.
NO_OFFSET, NO_BIAS = 1e-10, 1e-17

#: Below these, something is as good as not there: V/√Hz, A/√Hz, A; above the last one, in A, it is without limit.
NO_NOISE, NO_NOISE_CURRENT, NO_CURRENT, NO_LIMIT = 1e-10, 1e-17, 1e-9, 20.0


def quiescent(subject: Subject, outcome: Outcome) -> None:
    """Input errors and supply current as a follower, over temperature and over supply."""
    structure = follower(subject)
    temperatures = np.unique(np.append(np.linspace(subject["cold"], subject["hot"], 12), ROOM))
    point = solved(structure, {AMBIENT_KEY: temperatures})
    offset = at(point, OUT) - at(point, PLUS)
    plus, minus = -at(point, "i(vin)"), -at(point, "i(vfb)")
    high, low = -at(point, "i(vhigh)"), at(point, "i(vlow)")
    k = int(np.flatnonzero(temperatures == ROOM)[0])
    drift = np.polyfit(temperatures, offset, 1)[0] if np.all(np.isfinite(offset)) else math.nan
    for key, value, least, what in (
        ("offset_voltage", offset[k], NO_OFFSET, "an offset"),
        ("bias_current", (plus[k] + minus[k]) / 2, NO_BIAS, "input currents"),
        ("offset_current", plus[k] - minus[k], NO_BIAS, "a difference between the input currents"),
        ("offset_drift", drift, NO_OFFSET / 100, "a drift of the offset"),
    ):
        if abs(value) < least:
            outcome.absent(key, f"the model does not have {what}")
        else:
            outcome.measured(key, value)
    _supply_current(outcome, high[k], low[k])
    temperature = Axis("temperature", "°C")
    outcome.cards += [
        Card("offset-temperature", "Offset voltage and bias current over temperature", temperature,
             Axis("offset voltage", "V"), Axis("bias current", "A"),
             (curve("offset voltage", temperatures, offset), curve("bias current", temperatures, (plus + minus) / 2,
                                                                   second=True))),
        Card("supply-temperature", "Supply current over temperature", temperature, Axis("supply current", "A"),
             curves=(curve("supply current", temperatures, high),)),
    ]  # fmt: skip
    span = np.linspace(0.3, 1.2, 13)
    middle = (subject["high"] + subject["low"]) / 2
    half = (subject["high"] - subject["low"]) / 2
    point = solved(structure, {("vhigh", "dc"): middle + half * span, ("vlow", "dc"): middle - half * span})
    supply = 2 * half * span
    outcome.cards.append(
        Card("over-supply", "Offset voltage and supply current over supply", Axis("supply voltage, in all", "V"),
             Axis("offset voltage", "V"), Axis("supply current", "A"),
             (curve("offset voltage", supply, at(point, OUT) - at(point, PLUS)),
              curve("supply current", supply, -at(point, "i(vhigh)"), second=True)))
    )  # fmt: skip


def _supply_current(outcome: Outcome, high: float, low: float) -> None:
    most = max(abs(high), abs(low))
    if most < NO_CURRENT:
        outcome.absent("supply_current", "the model draws nothing from its supplies")
    elif abs(high - low) > 0.1 * most:
        outcome.absent(
            "supply_current",
            f"{format_value(high, 'A')} enter at v+, {format_value(low, 'A')} leave at v-: the rest flows from ground",
        )
    else:
        outcome.measured("supply_current", high)


def output(subject: Subject, outcome: Outcome) -> None:
    """How close the output comes to either supply, and the current into a short circuit."""
    half = (subject["high"] - subject["low"]) / 2
    drive = [f"vp {PLUS} mid 0", f"vn {MINUS} mid 0"]
    apart = {("vp", "dc"): [0.1 * half, -0.1 * half]}
    point = solved(subject.structure(*supplies(subject), *drive), apart)
    high, low = at(point, OUT)
    for key, level, rail, room in (
        ("output_high", high, "v+", subject["high"] - high),
        ("output_low", low, "v-", low - subject["low"]),
    ):
        if room < -0.05 * half:
            outcome.absent(key, f"driven hard, the output goes to {format_value(level, 'V')}, beyond {rail}")
        else:
            outcome.measured(key, room)
    point = solved(subject.structure(*supplies(subject), *drive, f"vshort {OUT} mid 0"), apart)
    for key, amperes in zip(("short_circuit_source", "short_circuit_sink"), at(point, "i(vshort)"), strict=True):
        if abs(amperes) > NO_LIMIT:
            outcome.absent(key, f"{format_value(abs(amperes), 'A')} flow into a short circuit: no limit in the model")
        else:
            outcome.measured(key, abs(amperes))
    currents = np.linspace(-1, 1, 41) * max(2 * half / subject["load"], 0.03)
    structure = subject.structure(*supplies(subject), *drive, f"iload {OUT} mid 0")
    curves = []
    for title, sign in (("driven high", 1), ("driven low", -1)):
        pull = currents[currents * sign >= 0]
        point = solved(structure, {("vp", "dc"): np.full(len(pull), 0.1 * half * sign), ("iload", "dc"): pull})
        volts = at(point, OUT)
        # Beyond its limit the output is pulled to the other side.
        held = sign * (volts - (subject["high"] + subject["low"]) / 2) > 0
        order = np.argsort(np.abs(pull[held]))
        curves.append(curve(title, np.abs(pull[held])[order], volts[held][order]))
    outcome.cards.append(
        Card("output-swing", "Output swing over output current", Axis("output current", "A"), Axis("output", "V"),
             curves=tuple(curves))
    )  # fmt: skip


def noise_densities(subject: Subject, outcome: Outcome) -> None:
    """Voltage noise as a follower of a short circuit, current noise from what a megohm at the input adds."""
    resistance = 1e6
    structure = subject.structure(*supplies(subject), "vin in mid 0", f"rsource in {PLUS} 1m", f"vfb {MINUS} {OUT} 0")
    f = logarithmic(0.01, 1e6, 20)
    sources = rows(structure, {("rsource", "resistance"): [1e-3, resistance]})
    result = noise(structure, f, [(OUT, "0")], "vin", sources)
    result.operating_point.require()
    assert result.gain is not None
    passed = np.abs(result.gain[:, 0]) ** 2
    own = result.total[:, 0] - _part(result, "rload")
    voltage = own[0] / passed[0]
    k = int(np.argmin(np.abs(np.log(f / subject["noise"]))))
    density = math.sqrt(max(voltage[k], 0.0))
    if density < NO_NOISE:
        outcome.absent("voltage_noise", f"only {format_value(density, 'V')}/√Hz: noise is not modelled")
        outcome.absent("noise_corner", "noise is not modelled")
    else:
        outcome.measured("voltage_noise", density)
        flicker = f[0] * (voltage[0] / voltage[k] - 1)
        if flicker < 0.02:
            outcome.absent("noise_corner", "the noise does not rise towards low frequencies")
        else:
            outcome.measured("noise_corner", flicker)
    # The op-amp's own voltage does not pass the resistor, its current does.
    left = (own[1] - _part(result, "rsource")[1] - own[0]) / passed[1]
    current = math.sqrt(max(left[k], 0.0)) / resistance
    if current < NO_NOISE_CURRENT or left[k] < 1e-6 * voltage[k]:
        outcome.absent("current_noise", "the inputs' noise current is not modelled")
    else:
        outcome.measured("current_noise", current)
    outcome.cards.append(
        Card("noise", "Input voltage noise density", FREQUENCY, Axis("density", "V/√Hz", logarithmic=True),
             curves=(curve("voltage noise", f, np.sqrt(np.maximum(voltage, 1e-30))),))
    )  # fmt: skip


def _part(result: NoiseResult, part: str) -> Floats:
    """What a part adds to the output's density [rows, F]."""
    return np.asarray(result.contributions[:, 0, [name == part for name, _ in result.contributors]].sum(axis=1))


_F = FigureType
EXPERIMENTS = (
    Experiment("errors and supply current", (
        _F("offset_voltage", "Offset voltage", "V", "output less input, as a follower", ("vos", "input offset voltage"),
           size=True, share=0.5),
        _F("bias_current", "Input bias current", "A", "mean current into the inputs", ("ib", "iib", "bias current"),
           size=True, share=0.5),
        _F("offset_current", "Input offset current", "A", "difference of the currents into the inputs", ("ios",),
           size=True, share=0.5),
        _F("supply_current", "Supply current", "A", "into the positive supply, without load",
           ("iq", "icc", "idd", "is", "quiescent current")),
        _F("offset_drift", "Offset drift", "V/°C", "slope of the offset over temperature", ("tcvos", "dvos/dt"),
           size=True, share=0.5),
    ), quiescent),
    Experiment("open loop", (
        _F("open_loop_gain", "Open-loop gain", "dB", "at 0.01 Hz", ("aol", "avol", "large-signal voltage gain")),
        _F("gain_bandwidth", "Gain-bandwidth product", "Hz", "gain times frequency where the gain is 40 dB",
           ("gbw", "gbp", "gain bandwidth")),
        _F("unity_gain_frequency", "Unity-gain frequency", "Hz", "where the open-loop gain is 1",
           ("ft", "unity gain bandwidth")),
        _F("second_pole", "Second pole", "Hz", "where the open-loop phase is -135°", ("second pole frequency",)),
        _F("right_half_plane_poles", "Right-half-plane poles", "", "of the open loop"),
        _F("right_half_plane_zeros", "Right-half-plane zeros", "", "of the open-loop gain"),
        _F("common_mode_rejection", "Common-mode rejection", "dB", "at 0.01 Hz", ("cmrr",)),
        _F("positive_supply_rejection", "Rejection of the positive supply", "dB", "at 0.01 Hz",
           ("psrr", "psrr+", "supply rejection")),
        _F("negative_supply_rejection", "Rejection of the negative supply", "dB", "at 0.01 Hz", ("psrr-",)),
        _F("output_resistance", "Output resistance", "Ω", "open loop, at 1 kHz", ("ro", "rout", "zo")),
    ), open_loop),
    Experiment("stability", (
        _F("phase_margin_follower", "Phase margin as a follower", "°", "gain of 1, without load capacitance",
           ("phase margin", "pm"), share=0.15),
        _F("phase_margin_inverter", "Phase margin as an inverter", "°", "gain of -1 with 10 kΩ", share=0.15),
        _F("largest_load_capacitance", "Largest load capacitance", "F", "as a follower, that is still stable",
           ("capacitive load", "capacitive load drive"), share=1.0),
    ), stability),
    Experiment("slew rate", (
        _F("slew_rate_rising", "Slew rate, rising", "V/s", "10 % to 90 % of half the supply",
           ("sr", "slew rate", "sr+"), size=True),
        _F("slew_rate_falling", "Slew rate, falling", "V/s", "10 % to 90 % of half the supply", ("sr-",), size=True),
    ), slew),
    Experiment("small step", (
        _F("overshoot", "Overshoot", "%", "small step as a follower", share=0.5),
        _F("settling_time", "Settling time", "s", "small step as a follower, to 1 %", ("settling",), share=0.5),
    ), small_step),
    Experiment("output", (
        _F("output_high", "Output swing from v+", "V", "room to the supply when driven high",
           ("voh", "output swing high", "output voltage swing")),
        _F("output_low", "Output swing from v-", "V", "room to the supply when driven low",
           ("vol", "output swing low")),
        _F("short_circuit_source", "Short-circuit current, sourcing", "A", "into mid-supply",
           ("isc", "short-circuit current", "isc+"), size=True),
        _F("short_circuit_sink", "Short-circuit current, sinking", "A", "out of mid-supply", ("isc-",), size=True),
    ), output),
    Experiment("noise", (
        _F("voltage_noise", "Voltage noise density", "V/√Hz", "as a follower of a short circuit",
           ("en", "input voltage noise density", "voltage noise")),
        _F("noise_corner", "Noise corner", "Hz", "where 1/f noise equals white noise", ("1/f corner",), share=0.5),
        _F("current_noise", "Current noise density", "A/√Hz", "from what 1 MΩ at the input adds",
           ("in", "input current noise density"), share=0.5),
    ), noise_densities),
)  # fmt: skip
