"""The bench of diodes and clamps: both directions, capacitance, recovery."""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.ac import ac_at
from verdad_core.analyses.transient import transient
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.intake.model import node_of
from verdad_core.qualification.experiment import ROOM, Experiment, Subject, at, solved, where
from verdad_core.qualification.figures import Axis, Card, FigureType, Outcome, curve
from verdad_core.units import format_value

ANODE, CATHODE = node_of("anode"), node_of("cathode")

#: A diode that stands this many volts has no breakdown in its model; a capacitance below this (F) is none.
NO_BREAKDOWN, NO_CAPACITANCE = 5e3, 1e-16

#: Frequency of the capacitance in Hz, as data sheets give it (common practice, no source).
MEGAHERTZ = 1e6


def both_directions(subject: Subject, outcome: Outcome) -> None:
    """Volts at impressed currents, forward and reverse, cold and hot; the current at the reverse voltage."""
    driven = subject.structure(f"idrive 0 {ANODE} 0", f"rground {CATHODE} 0 1n", f"rleak {ANODE} 0 1e15")
    forward = np.geomspace(1e-9, 10 * subject["current"], 60)
    temperatures = (subject["cold"], ROOM, subject["hot"])
    curves = []
    for celsius in temperatures:
        point = solved(driven, {("idrive", "dc"): forward, AMBIENT_KEY: np.full(len(forward), celsius)})
        volts = at(point, ANODE)
        curves.append(curve(f"{celsius:g} °C", volts, forward))
        if celsius == ROOM:
            level = math.log10(subject["current"])
            outcome.measured("forward_voltage", float(np.interp(level, np.log10(forward), volts)))
    outcome.cards.append(
        Card("forward", "Forward current over voltage", Axis("forward voltage", "V"), Axis("current", "A", True),
             curves=tuple(curves))
    )  # fmt: skip
    breakdown = _breakdown(subject, outcome)
    reverse = _reverse(subject, breakdown)
    impressed = subject.structure(f"vreverse {CATHODE} 0 0", f"rground {ANODE} 0 1u")
    point = solved(impressed, {("vreverse", "dc"): [reverse]})
    outcome.measured("reverse_current", -float(at(point, "i(vreverse)")[0]), _below(subject, reverse))


def _reverse(subject: Subject, breakdown: float) -> float:
    """The reverse voltage, or four fifths of the breakdown voltage where that is less."""
    return min(subject["reverse"], 0.8 * breakdown)


def _below(subject: Subject, reverse: float) -> str:
    return "" if reverse == subject["reverse"] else f"at {format_value(reverse, 'V', 3)}, below the breakdown"


def _breakdown(subject: Subject, outcome: Outcome) -> float:
    """The voltage is raised, step by step, until the breakdown current flows; infinite where it never does."""
    structure = subject.structure(f"vreverse {CATHODE} 0 0", f"rground {ANODE} 0 1u")
    volts = np.concatenate([np.linspace(0.01, 10, 400), np.geomspace(10.01, NO_BREAKDOWN, 800)])
    point = solved(structure, {("vreverse", "dc"): volts})
    amperes = -at(point, "i(vreverse)")
    found = where(volts, np.log10(np.maximum(amperes, 1e-18)), math.log10(subject["breakdown"]))
    if not math.isfinite(found):
        outcome.absent("breakdown_voltage", f"no breakdown up to {NO_BREAKDOWN:g} V")
        shown = volts <= max(2 * subject["reverse"], 10.0)
    else:
        outcome.measured("breakdown_voltage", found)
        shown = (volts <= 1.1 * found) & (amperes < 100 * subject["breakdown"])
    outcome.cards.append(
        Card("reverse", "Reverse current over voltage", Axis("reverse voltage", "V"), Axis("current", "A", True),
             curves=(curve("reverse current", volts[shown], np.maximum(amperes[shown], 1e-15)),))
    )  # fmt: skip
    return found if math.isfinite(found) else math.inf


def capacitance(subject: Subject, outcome: Outcome) -> None:
    """The imaginary part of the admittance at 1 MHz, without bias and at the reverse voltage."""
    structure = subject.structure(f"vreverse {CATHODE} 0 0 ac 1", f"rground {ANODE} 0 1u")
    reverse = _reverse(subject, _breakdown(subject, Outcome()))
    volts = np.linspace(0.0, reverse, 41)
    point = solved(structure, {("vreverse", "dc"): volts})
    current = ac_at(point, np.array([MEGAHERTZ]), [("i(vreverse)", "0")]).values[:, 0, 0]
    farads = -current.imag / (2 * np.pi * MEGAHERTZ)
    if farads[0] < NO_CAPACITANCE:
        outcome.absent("zero_bias_capacitance", "the model has no capacitance")
        outcome.absent("reverse_capacitance", "the model has no capacitance")
        return
    outcome.measured("zero_bias_capacitance", float(farads[0]))
    outcome.measured("reverse_capacitance", float(farads[-1]), _below(subject, reverse))
    outcome.cards.append(
        Card("capacitance", "Capacitance over reverse voltage", Axis("reverse voltage", "V"), Axis("capacitance", "F"),
             curves=(curve("capacitance", volts, farads),))
    )  # fmt: skip


def recovery(subject: Subject, outcome: Outcome) -> None:
    """From forward current to as much reverse current through a resistor: until a tenth of it is left."""
    current, drive = subject["current"], min(10.0, 0.5 * _breakdown(subject, Outcome()))
    resistance = drive / current
    stop = 1e-9
    while True:
        pulse = f"pulse({drive + 0.8:g} {-drive:g} {stop / 10:.6g} 1p 1p 1)"
        structure = subject.structure(
            f"vdrive drive 0 {pulse}", f"rdrive drive {ANODE} {resistance:.9g}", f"vsense {CATHODE} 0 0"
        )
        trace = transient(structure, stop, [("i(vsense)", "0")], most_points=2000, look=subject.look).require()
        amperes = trace.values[0]
        back = np.flatnonzero(amperes < -0.1 * current)
        if (len(back) == 0 and stop > 1e-6) or (len(back) and trace.time[back[-1]] < 0.6 * stop) or stop > 1e-3:
            break
        stop *= 4.0
    if len(back) == 0:
        outcome.absent("recovery_time", "no current flows back: neither transit time nor capacitance in the model")
        return
    begin = where(trace.time, amperes, 0.0)
    outcome.measured("recovery_time", float(trace.time[back[-1]]) - begin)
    outcome.cards.append(
        Card("recovery", "Recovery", Axis("time", "s"), Axis("current", "A"),
             curves=(curve("current", trace.time, amperes),))
    )  # fmt: skip


_F = FigureType
EXPERIMENTS = (
    Experiment("both directions", (
        _F("forward_voltage", "Forward voltage", "V", "at the forward current", ("vf", "forward voltage drop"), 0.1),
        _F("reverse_current", "Reverse current", "A", "at the reverse voltage", ("ir", "leakage current"), 1.0),
        _F("breakdown_voltage", "Breakdown voltage", "V", "at the breakdown current",
           ("vbr", "bv", "vz", "zener voltage", "reverse breakdown voltage"), 0.1),
    ), both_directions),
    Experiment("capacitance", (
        _F("zero_bias_capacitance", "Capacitance at 0 V", "F", "at 1 MHz", ("cj0", "cjo", "ct")),
        _F("reverse_capacitance", "Capacitance in reverse", "F", "at the reverse voltage and 1 MHz",
           ("cd", "capacitance")),
    ), capacitance),
    Experiment("recovery", (
        _F("recovery_time", "Recovery time", "s", "from forward to equal reverse current, to a tenth of it",
           ("trr", "reverse recovery time"), 0.5),
    ), recovery),
)  # fmt: skip
