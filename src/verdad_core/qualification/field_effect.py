"""The benches of MOSFETs and JFETs, of either polarity: transfer and output curves, gate charge, capacitances."""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.ac import ac_at
from verdad_core.analyses.marcher import Accuracy, Rule
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.transient import Trace, transient
from verdad_core.arrays import Floats
from verdad_core.intake.model import node_of
from verdad_core.qualification.experiment import ROOM, Experiment, Subject, at, solved, where
from verdad_core.qualification.figures import Axis, Card, FigureType, Outcome, curve

DRAIN, GATE, SOURCE = (node_of(role) for role in ("drain", "gate", "source"))
_GATE_VOLTAGE, _DRAIN_VOLTAGE = Axis("gate-source voltage", "V"), Axis("drain-source voltage", "V")


def polarity(subject: Subject, drive: float) -> float:
    """1 for an N channel, -1 for a P channel: the gate voltage with which more current flows."""
    structure = subject.structure(f"vd {DRAIN} 0 0", f"vg {GATE} 0 0", f"rs {SOURCE} 0 1u")
    point = solved(structure, {("vd", "dc"): [0.1, -0.1], ("vg", "dc"): [drive, -drive]})
    up, down = np.abs(at(point, "i(vd)"))
    return 1.0 if up > down else -1.0


def _drain_current(subject: Subject, sign: float, gate: Floats, drain: Floats, celsius: float = ROOM) -> Floats:
    structure = subject.structure(f"vd {DRAIN} 0 0", f"vg {GATE} 0 0", f"rs {SOURCE} 0 1u")
    changes = {("vd", "dc"): sign * drain, ("vg", "dc"): sign * gate, ("", "temperature"): np.full(len(gate), celsius)}
    return np.asarray(-sign * at(solved(structure, changes), "i(vd)"))


def mosfet_curves(subject: Subject, outcome: Outcome) -> None:
    """Threshold, on-resistance, transfer curves cold and hot, output curves."""
    drive = subject["drive"]
    sign = polarity(subject, drive)
    gate = np.linspace(0.0, drive, 401)
    curves = []
    for celsius in (subject["cold"], ROOM, subject["hot"]):
        amperes = _drain_current(subject, sign, gate, np.full(len(gate), subject["voltage"]), celsius)
        shown = (amperes > 1e-9) & (amperes < 20 * subject["current"])
        curves.append(curve(f"{celsius:g} °C", gate[shown], amperes[shown]))
    same = _drain_current(subject, sign, gate, gate)
    logs = np.log10(np.maximum(same, 1e-15))
    outcome.measured("threshold_voltage", where(gate, logs, math.log10(subject["threshold"])))
    structure = subject.structure(f"id 0 {DRAIN} 0", f"vg {GATE} 0 {sign * drive:g}", f"rs {SOURCE} 0 1u")
    volts = sign * float(at(solved(structure, {("id", "dc"): [sign * subject["current"]]}), DRAIN)[0])
    outcome.measured("on_resistance", volts / subject["current"])
    outcome.cards.append(
        Card("transfer", "Drain current over gate voltage", _GATE_VOLTAGE, Axis("drain current", "A", True),
             curves=tuple(curves))
    )  # fmt: skip
    threshold = outcome.value("threshold_voltage")
    if math.isfinite(threshold):
        _output_curves(
            subject, outcome, sign, [threshold + share * (drive - threshold) for share in (0.15, 0.3, 0.5, 1)]
        )


def _output_curves(subject: Subject, outcome: Outcome, sign: float, gates: list[float]) -> None:
    drain = np.concatenate([np.linspace(0, 1, 31), np.linspace(1.1, max(subject["voltage"], 2.0), 50)])
    curves = tuple(
        curve(f"gate {gate:.3g} V", drain, _drain_current(subject, sign, np.full(len(drain), gate), drain))
        for gate in gates
    )
    outcome.cards.append(Card("output", "Output curves", _DRAIN_VOLTAGE, Axis("drain current", "A"), curves=curves))


def gate_charge(subject: Subject, outcome: Outcome) -> None:
    """A constant current charges the gate while a resistor carries the drain current from the drain voltage."""
    drive, volts = subject["drive"], subject["voltage"]
    sign = polarity(subject, drive)
    into, stop = 1e-3, 1e-8
    while True:
        trace = _charged(subject, sign, into, stop)
        gate, drain = sign * trace.values[0], sign * trace.values[1]
        if trace.failure is None and gate[-1] >= drive:
            break
        if stop > 10:
            break
        stop *= 3.0
    if trace.failure is not None:
        raise trace.failure
    # The current rises during the first hundredth.
    charge = into * np.where(trace.time > stop / 100, trace.time - stop / 200, trace.time**2 / (stop / 50))
    total = where(charge, gate, drive)
    if math.isnan(total):
        for key in ("gate_charge", "gate_drain_charge"):
            outcome.failed(key, "a current of 1 mA does not bring the gate to its drive")
        return
    if total < 1e-13:
        for key in ("gate_charge", "gate_drain_charge"):
            outcome.absent(key, "the gate takes no charge worth mentioning")
        return
    outcome.measured("gate_charge", total)
    first, last = (where(charge, drain, share * volts) for share in (0.9, 0.1))
    outcome.measured("gate_drain_charge", last - first)
    shown = gate <= 1.05 * drive
    outcome.cards.append(
        Card("gate-charge", "Gate charge", Axis("charge", "C"), _GATE_VOLTAGE,
             Axis("drain-source voltage", "V"), (curve("gate", charge[shown], gate[shown]),
                                                 curve("drain", charge[shown], drain[shown], second=True)))
    )  # fmt: skip


def _charged(subject: Subject, sign: float, into: float, stop: float) -> Trace:
    """The gate's and the drain's voltage while `into` flows into the gate, which rises in the first hundredth.

    Inductive leads on all three pins make equations that the trapezoidal rule may not get through; Gear's often does.
    """
    structure = subject.structure(
        f"vd supply 0 {sign * subject['voltage']:g}",
        f"rd supply {DRAIN} {subject['voltage'] / subject['current']:.9g}", f"rs {SOURCE} 0 1u",
        f"ig 0 {GATE} pulse(0 {sign * into:g} 0 {stop / 100:g} 1p 1)", f"rg {GATE} 0 1e9",
    )  # fmt: skip
    outputs = [(GATE, "0"), (DRAIN, "0")]
    for rule in (Rule.EXTRAPOLATED, Rule.GEAR):
        found = transient(
            structure, stop, outputs, most_points=2000, look=subject.look, accuracy=Accuracy(rule=rule)
        ).trace()
        if found.failure is None:
            break
    return found


def capacitances(subject: Subject, outcome: Outcome) -> None:
    """Input, output and reverse capacitance over drain voltage with the gate at the source, at 1 MHz."""
    sign = polarity(subject, subject["drive"])
    drain = np.linspace(0.0, subject["voltage"], 41)
    omega = 2e6 * np.pi
    found = {}
    for key, drain_ac, gate_ac in (("input", 0, 1), ("output", 1, 0)):
        structure = subject.structure(
            f"vd {DRAIN} 0 0 ac {drain_ac}", f"vg {GATE} 0 0 ac {gate_ac}", f"rs {SOURCE} 0 1u"
        )
        point = solved(structure, {("vd", "dc"): sign * drain})
        currents = ac_at(point, np.array([1e6]), [("i(vd)", "0"), ("i(vg)", "0")]).values[:, :, 0]
        found[key] = -currents[:, 1 if gate_ac else 0].imag / omega
        if drain_ac:
            found["reverse"] = currents[:, 1].imag / omega
    for key, farads in found.items():
        if abs(farads[-1]) < 1e-16:
            outcome.absent(f"{key}_capacitance", "the model has no such capacitance")
        else:
            outcome.measured(f"{key}_capacitance", float(farads[-1]))
    outcome.cards.append(
        Card("capacitances", "Capacitances over drain voltage", _DRAIN_VOLTAGE, Axis("capacitance", "F", True),
             curves=tuple(curve(key, drain, np.maximum(farads, 1e-16)) for key, farads in found.items()))
    )  # fmt: skip


def jfet_curves(subject: Subject, outcome: Outcome) -> None:
    """Saturation current, cut-off voltage, transconductance, cold and hot."""
    structure = subject.structure(f"vd {DRAIN} 0 0", f"vg {GATE} 0 0", f"rs {SOURCE} 0 1u")
    # The gate's junction conducts towards the channel: up in an N channel.
    up, down = np.abs(at(solved(structure, {("vg", "dc"): [0.6, -0.6]}), "i(vg)"))
    sign = 1.0 if up > down else -1.0
    gate = -np.geomspace(1e-3, 30.0, 400)[::-1]
    gate = np.append(gate, 0.0)
    curves = []
    for celsius in (subject["cold"], ROOM, subject["hot"]):
        amperes = _drain_current(subject, sign, gate, np.full(len(gate), subject["voltage"]), celsius)
        if celsius == ROOM:
            outcome.measured("saturation_current", float(amperes[-1]))
            cutoff = where(gate, np.log10(np.maximum(amperes, 1e-15)), math.log10(subject["cutoff"]), last=True)
            outcome.measured("cutoff_voltage", sign * cutoff)
            outcome.measured("transconductance", float((amperes[-1] - amperes[-2]) / (gate[-1] - gate[-2])))
        shown = amperes > 1e-4 * amperes[-1]
        curves.append(curve(f"{celsius:g} °C", gate[shown], amperes[shown]))
    outcome.cards.append(
        Card("transfer", "Drain current over gate voltage", _GATE_VOLTAGE, Axis("drain current", "A"),
             curves=tuple(curves))
    )  # fmt: skip
    if math.isfinite(cutoff):
        _output_curves(subject, outcome, sign, [share * cutoff for share in (0.6, 0.4, 0.2, 0.0)])
    for key, driven, grounded in (("input_capacitance", GATE, DRAIN),):
        fixture = subject.structure(f"vg {driven} 0 0 ac 1", f"rd {grounded} 0 1m", f"rs {SOURCE} 0 1m")
        current = ac_at(operating_point(fixture), np.array([1e6]), [("i(vg)", "0")]).values[0, 0, 0]
        farads = float(-current.imag / (2e6 * np.pi))
        if farads > 1e-16:
            outcome.measured(key, farads)
        else:
            outcome.absent(key, "the model has no such capacitance")


_F = FigureType
MOSFET = (
    Experiment("static curves", (
        _F("threshold_voltage", "Threshold voltage", "V", "gate and drain together, at the threshold current",
           ("vgs(th)", "vth", "vt"), 0.3, size=True),
        _F("on_resistance", "On-resistance", "Ω", "at the drain current, with the gate drive",
           ("rds(on)", "rdson"), 0.3),
    ), mosfet_curves),
    Experiment("gate charge", (
        _F("gate_charge", "Gate charge", "C", "from 0 to the gate drive", ("qg", "total gate charge")),
        _F("gate_drain_charge", "Gate-drain charge", "C", "while the drain falls from 90 % to 10 %",
           ("qgd", "miller charge"), 0.4),
    ), gate_charge),
    Experiment("capacitances", (
        _F("input_capacitance", "Input capacitance", "F", "at the drain voltage, 1 MHz", ("ciss",)),
        _F("output_capacitance", "Output capacitance", "F", "at the drain voltage, 1 MHz", ("coss",)),
        _F("reverse_capacitance", "Reverse capacitance", "F", "at the drain voltage, 1 MHz",
           ("crss", "reverse transfer capacitance"), 0.4),
    ), capacitances),
)  # fmt: skip
JFET = (
    Experiment("static curves", (
        _F("saturation_current", "Saturation current", "A", "gate at the source", ("idss",), 0.4, size=True),
        _F("cutoff_voltage", "Cut-off voltage", "V", "at the drain current at cut-off",
           ("vgs(off)", "vp", "pinch-off voltage"), 0.4, size=True),
        _F("transconductance", "Transconductance", "A/V", "gate at the source", ("gm", "gfs", "yfs"), 0.3),
        _F("input_capacitance", "Input capacitance", "F", "no bias, 1 MHz", ("ciss",)),
    ), jfet_curves),
)  # fmt: skip
