"""The bench of bipolar transistors, of either polarity: gain, base voltage, saturation, capacitances, speed."""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.ac import ac_at, logarithmic
from verdad_core.analyses.operating_point import operating_point
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.intake.model import node_of
from verdad_core.qualification.experiment import ROOM, Experiment, Subject, at, rows, solved, where
from verdad_core.qualification.figures import Axis, Card, FigureType, Outcome, curve

COLLECTOR, BASE, EMITTER = (node_of(role) for role in ("collector", "base", "emitter"))


def polarity(subject: Subject) -> float:
    """1 for an NPN transistor, -1 for a PNP one: the way in which the base's junction conducts."""
    structure = subject.structure(f"vbase {BASE} 0 0", f"rground {EMITTER} 0 1m", f"rcollector {COLLECTOR} 0 1m")
    up, down = -at(solved(structure, {("vbase", "dc"): [0.6, -0.6]}), "i(vbase)")
    return 1.0 if abs(up) > abs(down) else -1.0


def curves(subject: Subject, outcome: Outcome) -> None:
    """Gain and base voltage over collector current, cold and hot, and output curves."""
    sign, volts = polarity(subject), subject["voltage"]
    structure = subject.structure(f"vc {COLLECTOR} 0 {sign * volts:g}", f"vb {BASE} 0 0", f"re {EMITTER} 0 1u")
    gains, transfers = [], []
    for celsius in (subject["cold"], ROOM, subject["hot"]):
        # Up to where the collector current is ten times what was asked for.
        base = np.linspace(0.2, 1.6, 281)
        point = solved(structure, {("vb", "dc"): sign * base, AMBIENT_KEY: np.full(len(base), celsius)})
        collector, drawn = -sign * at(point, "i(vc)"), -sign * at(point, "i(vb)")
        good = (collector > 1e-9) & (drawn > 0) & (collector < 10 * subject["current"])
        gains.append(curve(f"{celsius:g} °C", collector[good], collector[good] / drawn[good]))
        transfers.append(curve(f"{celsius:g} °C", base[good], collector[good]))
        if celsius == ROOM:
            level = math.log10(subject["current"])
            logs = np.log10(np.maximum(collector, 1e-15))
            outcome.measured("current_gain", float(10 ** np.interp(level, logs, np.log10(np.abs(collector / drawn)))))
            outcome.measured("base_voltage", where(base, logs, level))
    outcome.cards += [
        Card("current-gain", "Current gain over collector current", Axis("collector current", "A", True),
             Axis("current gain", ""), curves=tuple(gains)),
        Card("transfer", "Collector current over base voltage", Axis("base-emitter voltage", "V"),
             Axis("collector current", "A", True), curves=tuple(transfers)),
    ]  # fmt: skip
    _output_curves(subject, outcome, sign)


def _output_curves(subject: Subject, outcome: Outcome, sign: float) -> None:
    gain = outcome.value("current_gain")
    if not gain > 0:
        return
    structure = subject.structure(f"vc {COLLECTOR} 0 0", f"ib 0 {BASE} 0", f"re {EMITTER} 0 1u")
    volts = np.concatenate([np.linspace(0, 1, 41), np.linspace(1.1, max(2 * subject["voltage"], 2), 40)])
    shown = []
    for share in (0.25, 0.5, 0.75, 1.0):
        base = sign * share * subject["current"] / gain
        point = solved(structure, {("vc", "dc"): sign * volts, ("ib", "dc"): np.full(len(volts), base)})
        shown.append(curve(f"base {abs(base) * 1e6:.3g} µA", volts, -sign * at(point, "i(vc)")))
    outcome.cards.append(
        Card("output", "Output curves", Axis("collector-emitter voltage", "V"), Axis("collector current", "A"),
             curves=tuple(shown))
    )  # fmt: skip
    structure = subject.structure(f"ic 0 {COLLECTOR} 0", f"ib 0 {BASE} 0", f"re {EMITTER} 0 1u")
    drive = {("ic", "dc"): [sign * subject["current"]], ("ib", "dc"): [sign * subject["current"] / 10]}
    outcome.measured("saturation_voltage", sign * float(at(solved(structure, drive), COLLECTOR)[0]))


def dynamics(subject: Subject, outcome: Outcome) -> None:
    """Transition frequency at the collector current, and the capacitances of the two junctions in reverse."""
    sign = polarity(subject)
    structure = subject.structure(
        f"vc {COLLECTOR} 0 {sign * subject['voltage']:g}", f"re {EMITTER} 0 1u", f"vb {BASE} 0 0 ac 1"
    )
    base = np.linspace(0.3, 1.4, 221)
    collector = -sign * at(solved(structure, {("vb", "dc"): sign * base}), "i(vc)")
    bias = where(base, np.log10(np.maximum(collector, 1e-15)), math.log10(subject["current"]))
    if math.isfinite(bias):
        point = operating_point(structure, rows(structure, {("vb", "dc"): [sign * bias]}))
        f = logarithmic(1e3, 1e12, 10)
        out = ac_at(point, f, [("i(vc)", "0"), ("i(vb)", "0")]).values[0]
        gain = np.abs(out[0] / out[1])
        crossing = where(np.log10(f), np.log10(gain), 0.0)
        if math.isfinite(crossing) and gain[-1] < 0.5 * gain[0]:
            # The usual extrapolation from where the gain falls by 20 dB a decade: gain times frequency at a gain of 10.
            level = where(np.log10(f), np.log10(gain), min(1.0, math.log10(gain[0]) - 0.5))
            outcome.measured("transition_frequency", 10 ** (level + min(1.0, math.log10(gain[0]) - 0.5)))
        else:
            outcome.absent("transition_frequency", "the gain does not fall: no transit time in the model")
        outcome.cards.append(
            Card("gain-frequency", "Current gain over frequency", Axis("frequency", "Hz", True),
                 Axis("current gain", "", True), curves=(curve("current gain", f, gain),))
        )  # fmt: skip
    for key, driven, other, volts in (
        ("collector_capacitance", COLLECTOR, EMITTER, subject["voltage"]),
        ("emitter_capacitance", EMITTER, COLLECTOR, 0.5),
    ):
        reverse = subject.structure(
            f"vdrive {driven} 0 {sign * volts:g} ac 1", f"rbase {BASE} 0 1m", f"rother {other} 0 1e9"
        )
        current = ac_at(operating_point(reverse), np.array([1e6]), [("i(vdrive)", "0")]).values[0, 0, 0]
        farads = -current.imag / (2e6 * np.pi)
        if farads > 1e-16:
            outcome.measured(key, float(farads))
        else:
            outcome.absent(key, "the model has no such capacitance")


_F = FigureType
EXPERIMENTS = (
    Experiment("static curves", (
        _F("current_gain", "Current gain", "", "at the collector current", ("hfe", "beta", "dc current gain"), 0.4),
        _F("base_voltage", "Base-emitter voltage", "V", "at the collector current", ("vbe", "vbe(on)"), 0.1, size=True),
        _F("saturation_voltage", "Saturation voltage", "V", "with a tenth of the collector current into the base",
           ("vcesat", "vce(sat)"), 0.5, size=True),
    ), curves),
    Experiment("dynamics", (
        _F("transition_frequency", "Transition frequency", "Hz", "at the collector current", ("ft",)),
        _F("collector_capacitance", "Collector-base capacitance", "F", "at the collector voltage, 1 MHz",
           ("ccb", "cob", "cobo")),
        _F("emitter_capacitance", "Emitter-base capacitance", "F", "at 0.5 V in reverse, 1 MHz",
           ("ceb", "cib", "cibo")),
    ), dynamics),
)  # fmt: skip
