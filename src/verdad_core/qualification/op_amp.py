"""The bench of an op-amp.

As a follower it shows its errors, its speed and its stability. For the open loop, a huge inductor closes the loop for
the bias and opens it for signals, while a huge capacitor ties the inverting input to a source (common practice, no
source), so the bias is that of the closed loop.
"""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.ac import ac_at, logarithmic
from verdad_core.analyses.loop_gain import LoopGainResult, loop_gain
from verdad_core.analyses.noise import NoiseResult, noise
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import poles, zeros
from verdad_core.analyses.transient import transient
from verdad_core.arrays import Complexes, Floats
from verdad_core.engine.structure import Structure
from verdad_core.errors import Finding, MeasurementError, Severity
from verdad_core.intake.model import UNDER_TEST, node_of
from verdad_core.qualification.experiment import ROOM, Changes, Experiment, Subject, at, rows, solved, where
from verdad_core.qualification.figures import Axis, Card, FigureType, Outcome, curve
from verdad_core.units import format_value

PLUS, MINUS, HIGH, LOW, OUT = (node_of(role) for role in ("in+", "in-", "v+", "v-", "out"))
INSTANCE = f"x{UNDER_TEST}"

#: The coil (H) and the capacitor (F) of the open loop: they part signals from bias below a microhertz.
SERVO = 1e6
#: Poles and zeros (Hz) slower than this belong to them, faster ones matter to nobody.
SLOWEST, FASTEST = 1e-3, 1e10

#: Below these, something is as good as not there: V/√Hz, A/√Hz, A; above these, it is without limit: A, V/V.
NO_NOISE, NO_NOISE_CURRENT, NO_CURRENT, NO_LIMIT, NO_ERROR = 1e-10, 1e-17, 1e-9, 20.0, 1e8

#: Load capacitances in F that a follower is tried with.
LOADS = np.array([1e-15, 1e-11, 2.2e-11, 4.7e-11, 1e-10, 2.2e-10, 4.7e-10, 1e-9, 2.2e-9, 4.7e-9, 1e-8, 1e-7])

FREQUENCY = Axis("frequency", "Hz", logarithmic=True)


def _supplies(subject: Subject) -> list[str]:
    return [
        f"vhigh {HIGH} 0 {subject['high']:.9g}",
        f"vlow {LOW} 0 {subject['low']:.9g}",
        f"vmid mid 0 {(subject['high'] + subject['low']) / 2:.9g}",
        f"rload {OUT} mid {subject['load']:.9g}",
    ]


def _follower(subject: Subject, *more: str, drive: str = "") -> Structure:
    """The op-amp as a follower of a source on mid-supply; the 0 V source in its feedback carries the input current."""
    return subject.structure(
        *_supplies(subject), f"vin {PLUS} mid 0 {drive}", f"vfb {MINUS} {OUT} 0", f"cload {OUT} mid 1f", *more
    )


def quiescent(subject: Subject, outcome: Outcome) -> None:
    """Input errors and supply current as a follower, over temperature and over supply."""
    structure = _follower(subject)
    temperatures = np.unique(np.append(np.linspace(subject["cold"], subject["hot"], 12), ROOM))
    point = solved(structure, {("", "temperature"): temperatures})
    offset = at(point, OUT) - at(point, PLUS)
    plus, minus = -at(point, "i(vin)"), -at(point, "i(vfb)")
    high, low = -at(point, "i(vhigh)"), at(point, "i(vlow)")
    k = int(np.flatnonzero(temperatures == ROOM)[0])
    outcome.measured("offset_voltage", offset[k])
    outcome.measured("bias_current", (plus[k] + minus[k]) / 2)
    outcome.measured("offset_current", plus[k] - minus[k])
    _supply_current(outcome, high[k], low[k])
    drift = np.polyfit(temperatures, offset, 1)[0] if np.all(np.isfinite(offset)) else math.nan
    outcome.measured("offset_drift", drift)
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


def open_loop(subject: Subject, outcome: Outcome) -> None:
    """Gain, rejections and output resistance over frequency, and poles and zeros."""
    structure = subject.structure(
        *_supplies(subject), f"vp {PLUS} mid 0 ac 0", f"lservo {OUT} {MINUS} {SERVO:g}",
        f"cservo {MINUS} vn {SERVO:g}", "vn vn mid 0 ac 0", f"iout mid {OUT} 0 ac 0",
        "vone one 0 0 ac 1", "rone one 0 1",
    )  # fmt: skip
    drives: Changes = {("vp", "ac"): [0.5, 1, 0, 0, 0], ("vn", "ac"): [-0.5, 1, 0, 0, 0],
                       ("vhigh", "ac"): [0, 0, 1, 0, 0],
              ("vlow", "ac"): [0, 0, 0, 1, 0], ("iout", "ac"): [0, 0, 0, 0, 1]}  # fmt: skip
    point = operating_point(structure, rows(structure, drives))
    point.require()
    f = logarithmic(0.01, 1e9, 20)
    found = ac_at(point, f, [(OUT, "0")]).values[:, 0]
    gain, common, high, low, out = found
    _gain(outcome, f, gain)
    _natural(outcome, structure)
    _rejection(outcome, f, gain, common, "common_mode_rejection", "common-mode signals")
    _rejection(outcome, f, gain, high, "positive_supply_rejection", "the positive supply")
    _rejection(outcome, f, gain, low, "negative_supply_rejection", "the negative supply")
    # The load lies across the output: what remains is the op-amp's own.
    own = 1 / (1 / out - 1 / subject["load"])
    outcome.measured("output_resistance", float(np.real(own[np.argmin(np.abs(f - 1e3))])))
    outcome.cards += [
        Card("open-loop-gain", "Open-loop gain", FREQUENCY, Axis("gain", "dB"), Axis("phase", "°"),
             (curve("gain", f, _db(gain)), curve("phase", f, _phase(gain), second=True))),
        Card("rejection", "Rejection of common-mode signals and supplies", FREQUENCY, Axis("rejection", "dB"),
             curves=tuple(curve(title, f, _db(gain) - _db(other)) for title, other in
                          (("common mode", common), ("positive supply", high), ("negative supply", low)))),
        Card("output-impedance", "Output impedance, open loop", FREQUENCY,
             Axis("impedance", "Ω", logarithmic=True), curves=(curve("output impedance", f, np.abs(own)),)),
    ]  # fmt: skip


def _gain(outcome: Outcome, f: Floats, gain: Complexes) -> None:
    level, phase = _db(gain), _phase(gain)
    outcome.measured("open_loop_gain", level[0])
    crossing = where(np.log10(f), level, 0.0)
    outcome.measured(
        "unity_gain_frequency", 10**crossing, "" if math.isfinite(crossing) else "the gain never falls to 1"
    )
    decade = 40.0 if level[0] > 60 else max(level[0] - 20.0, 0.0)
    at_level = where(np.log10(f), level, decade)
    if math.isfinite(at_level):
        outcome.measured("gain_bandwidth", 10 ** (at_level + decade / 20))
    else:
        outcome.absent("gain_bandwidth", "the gain does not fall with frequency")
    second = where(np.log10(f), phase, -135.0)
    if math.isfinite(second) and math.isfinite(crossing) and second < crossing + 2:
        outcome.measured("second_pole", 10**second)
    else:
        outcome.absent("second_pole", "the phase does not fall below -135° where it matters")


def _natural(outcome: Outcome, structure: Structure) -> None:
    point = operating_point(structure)
    own_poles, own_zeros = poles(point)[0], zeros(point, "vp", (OUT, "0"))[0]
    table = []
    counts = {}
    for word, values in (("pole", own_poles.values), ("zero", own_zeros.values)):
        values = values[(np.abs(values) > 2 * np.pi * SLOWEST) & (np.abs(values) < 2 * np.pi * FASTEST)]
        counts[word] = int(np.sum(values.real > 1e-7 * np.abs(values)))
        for value in values[values.imag >= 0][:24]:
            side = "right" if value.real > 1e-7 * abs(value) else "left"
            quality = abs(value) / (2 * abs(value.real)) if value.imag and value.real else 0.5
            table.append((word, format_value(abs(value) / (2 * np.pi), "Hz"), side, f"{quality:.2f}"))
    outcome.measured("right_half_plane_poles", counts["pole"])
    outcome.measured("right_half_plane_zeros", counts["zero"])
    outcome.cards.append(
        Card("poles-zeros", "Poles and zeros, open loop", heading=("what", "frequency", "half-plane", "quality"),
             table=tuple(table))
    )  # fmt: skip


def _rejection(outcome: Outcome, f: Floats, gain: Complexes, other: Complexes, key: str, what: str) -> None:
    ratio = np.abs(gain[0]) / max(abs(other[0]), 1e-300)
    if ratio > NO_ERROR:
        outcome.absent(key, f"{what} have no effect on the output")
    else:
        outcome.measured(key, 20 * math.log10(ratio))


def stability(subject: Subject, outcome: Outcome) -> None:
    """Phase margins as a follower and as an inverter, and over load capacitance."""
    f = logarithmic(10.0, 1e9, 20)
    load = {("cload", "capacitance"): LOADS}
    follower = loop_gain(_follower(subject), INSTANCE, MINUS, f, rows=load)
    inverter = loop_gain(
        subject.structure(
            *_supplies(subject), f"vin {PLUS} mid 0", "vsignal signal mid 0", f"r1 signal {MINUS} 10k",
            f"r2 {MINUS} {OUT} 10k", f"cload {OUT} mid 1f",
        ), INSTANCE, MINUS, f, rows=load,
    )  # fmt: skip
    curves = []
    for word, result in (("follower", follower), ("inverter", inverter)):
        margins = np.array([_margin(result, row) for row in range(len(LOADS))])
        unstable = [row for row in range(len(LOADS)) if len(result.poles[row].unstable)]
        outcome.measured(
            f"phase_margin_{word}", margins[0], "" if math.isfinite(margins[0]) else "the loop gain never falls to 1"
        )
        if unstable[:1] == [0]:
            outcome.findings.append(_oscillates(word, result.poles[0].unstable))
        if word == "follower":
            if unstable:
                outcome.measured("largest_load_capacitance", LOADS[unstable[0] - 1] if unstable[0] else 0.0)
            else:
                outcome.absent("largest_load_capacitance", f"stable with up to {format_value(LOADS[-1], 'F')}")
        curves.append(curve(word, LOADS[1:], margins[1:]))
    outcome.cards.append(
        Card("phase-margin", "Phase margin over load capacitance", Axis("load capacitance", "F", logarithmic=True),
             Axis("phase margin", "°"), curves=tuple(curves), remark="gain of 1; below 0° the circuit oscillates")
    )  # fmt: skip


_WORDS = {"follower": "a follower", "inverter": "an inverter"}


def _oscillates(word: str, unstable: Complexes) -> Finding:
    return Finding(
        Severity.WARNING,
        f"as {_WORDS[word]} with a gain of 1 this model oscillates near {_near(unstable)}, without load capacitance",
        remedy="Compare with the data sheet: a part that is stable at unity gain needs another model.",
    )


def _near(unstable: Complexes) -> str:
    return format_value(float(np.max(np.abs(unstable))) / (2 * np.pi), "Hz", 3)


def _margin(result: LoopGainResult, row: int) -> float:
    worst = result.margins(row).phase_margin
    return worst.margin if worst else math.nan


def slew(subject: Subject, outcome: Outcome) -> None:
    """Slew rate both ways between 10 % and 90 % of a large step; a smaller step must be as steep."""
    half = (subject["high"] - subject["low"]) / 2
    curves, rates = [], {}
    for share in (0.5, 0.125):
        size = share * half
        for sign, way in ((1, "rising"), (-1, "falling")):
            time, volts = _step(subject, -sign * size, sign * size)
            # What the edge itself pushes through to the output comes before the last crossing of 10 %.
            a = where(time, sign * volts, -0.8 * size, last=True)
            b = where(time[time > a], sign * volts[time > a], 0.8 * size)
            rates[share, way] = 1.6 * size / (b - a) if b > a else math.nan
            if share == 0.5:
                curves.append(curve(way, time, volts))
    for way in ("rising", "falling"):
        large, small = rates[0.5, way], rates[0.125, way]
        if large > 2.5 * small:
            outcome.absent(f"slew_rate_{way}", "a step four times larger is four times steeper: no limit in the model")
        else:
            outcome.measured(f"slew_rate_{way}", large)
    outcome.cards.append(
        Card("large-step", "Large step as a follower", Axis("time", "s"), Axis("output", "V"), curves=tuple(curves))
    )


def _step(subject: Subject, before: float, after: float, *more: str) -> tuple[Floats, Floats]:
    """The follower's output against mid-supply after a step: long enough to have come to rest, or for 0.1 s.

    Raises MeasurementError where the follower does not stay at its operating point.
    """
    unstable = poles(operating_point(_follower(subject, *more)))[0].unstable
    if len(unstable):
        raise MeasurementError(f"the follower oscillates near {_near(unstable)}, so a step shows nothing")
    stop = 1e-6
    while True:
        pulse = f"pulse({before:.9g} {after:.9g} {stop / 20:.6g} {stop / 2000:.6g} {stop / 2000:.6g} {10 * stop:.6g})"
        structure = _follower(subject, *more, drive=pulse)
        trace = transient(structure, stop, [(OUT, "mid")], most_points=2000, look=subject.look).require()
        volts = trace.values[0]
        late = np.abs(volts[trace.time > 0.5 * stop] - after) < 0.1 * abs(after - before)
        if np.all(late) or stop >= 0.1:
            return trace.time, volts
        stop *= 4.0


def small_step(subject: Subject, outcome: Outcome) -> None:
    """Overshoot and settling of a small step, without load and with 100 pF."""
    size = min(0.02 * (subject["high"] - subject["low"]), 0.05)
    curves = []
    for title, capacitor in (("no load capacitance", ""), ("100 pF", f"cmore {OUT} mid 100p")):
        time, volts = _step(subject, 0.0, size, *([capacitor] if capacitor else []))
        curves.append(curve(title, time, volts))
        if not capacitor:
            begin = time[-1] / 20
            outcome.measured("overshoot", max(100 * (float(np.max(volts)) / size - 1), 0.0))
            outside = np.flatnonzero(np.abs(volts - volts[-1]) > 0.01 * size)
            outcome.measured("settling_time", float(time[outside[-1]]) - begin if len(outside) else math.nan)
    outcome.cards.append(
        Card("small-step", "Small step as a follower", Axis("time", "s"), Axis("output", "V"), curves=tuple(curves))
    )


def output(subject: Subject, outcome: Outcome) -> None:
    """How close the output comes to either supply, and the current into a short circuit."""
    half = (subject["high"] - subject["low"]) / 2
    drive = [f"vp {PLUS} mid 0", f"vn {MINUS} mid 0"]
    apart = {("vp", "dc"): [0.1 * half, -0.1 * half]}
    point = solved(subject.structure(*_supplies(subject), *drive), apart)
    high, low = at(point, OUT)
    for key, level, rail, room in (
        ("output_high", high, "v+", subject["high"] - high),
        ("output_low", low, "v-", low - subject["low"]),
    ):
        if room < -0.05 * half:
            outcome.absent(key, f"driven hard, the output goes to {format_value(level, 'V')}, beyond {rail}")
        else:
            outcome.measured(key, room)
    point = solved(subject.structure(*_supplies(subject), *drive, f"vshort {OUT} mid 0"), apart)
    for key, amperes in zip(("short_circuit_source", "short_circuit_sink"), at(point, "i(vshort)"), strict=True):
        if abs(amperes) > NO_LIMIT:
            outcome.absent(key, f"{format_value(abs(amperes), 'A')} flow into a short circuit: no limit in the model")
        else:
            outcome.measured(key, abs(amperes))
    currents = np.linspace(-1, 1, 41) * max(2 * half / subject["load"], 0.03)
    structure = subject.structure(*_supplies(subject), *drive, f"iload {OUT} mid 0")
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
    structure = subject.structure(*_supplies(subject), "vin in mid 0", f"rsource in {PLUS} 1m", f"vfb {MINUS} {OUT} 0")
    f = logarithmic(0.01, 1e6, 20)
    result = noise(structure, f, [(OUT, "0")], matrix=rows(structure, {("rsource", "resistance"): [1e-3, resistance]}))
    result.operating_point.require()
    own = result.total[:, 0] - _part(result, "rload")
    voltage = own[0]
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
    left = own[1] - _part(result, "rsource")[1] - voltage
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


def _db(values: Complexes) -> Floats:
    return np.asarray(20 * np.log10(np.maximum(np.abs(values), 1e-15)))


def _phase(values: Complexes) -> Floats:
    """Degrees, going on from a first one within ±90°, so that an inverting model shows -180° and not its sum."""
    return np.degrees(np.unwrap(np.angle(values)))


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
