"""The closed loop of an op-amp with a gain of one: stability, slew rate, small step."""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.ac import logarithmic
from verdad_core.analyses.loop_gain import LoopGainResult, loop_gain
from verdad_core.analyses.operating_point import operating_point
from verdad_core.analyses.poles import poles
from verdad_core.analyses.transient import transient
from verdad_core.arrays import Complexes, Floats
from verdad_core.errors import Finding, MeasurementError, Severity
from verdad_core.qualification.amplifier import INSTANCE, MINUS, OUT, PLUS, follower, supplies
from verdad_core.qualification.experiment import Subject, where
from verdad_core.qualification.figures import Axis, Card, Outcome, curve
from verdad_core.units import format_value

#: Load capacitances in F that a follower is tried with.
LOADS = np.array([1e-15, 1e-11, 2.2e-11, 4.7e-11, 1e-10, 2.2e-10, 4.7e-10, 1e-9, 2.2e-9, 4.7e-9, 1e-8, 1e-7])

_WORDS = {"follower": "a follower", "inverter": "an inverter"}


def stability(subject: Subject, outcome: Outcome) -> None:
    """Phase margins as a follower and as an inverter, and over load capacitance."""
    f = logarithmic(10.0, 1e9, 20)
    load = {("cload", "capacitance"): LOADS}
    following = loop_gain(follower(subject), INSTANCE, MINUS, f, rows=load)
    inverting = loop_gain(
        subject.structure(
            *supplies(subject), f"vin {PLUS} mid 0", "vsignal signal mid 0", f"r1 signal {MINUS} 10k",
            f"r2 {MINUS} {OUT} 10k", f"cload {OUT} mid 1f",
        ), INSTANCE, MINUS, f, rows=load,
    )  # fmt: skip
    curves = []
    for word, result in (("follower", following), ("inverter", inverting)):
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
                outcome.measured("largest_load_capacitance", LOADS[-1], "the largest that is tried; stable with all")
        curves.append(curve(word, LOADS[1:], margins[1:]))
    outcome.cards.append(
        Card("phase-margin", "Phase margin over load capacitance", Axis("load capacitance", "F", logarithmic=True),
             Axis("phase margin", "°"), curves=tuple(curves), remark="gain of 1; below 0° the circuit oscillates")
    )  # fmt: skip


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
    unstable = poles(operating_point(follower(subject, *more)))[0].unstable
    if len(unstable):
        raise MeasurementError(f"the follower oscillates near {_near(unstable)}, so a step shows nothing")
    stop = 1e-6
    while True:
        pulse = f"pulse({before:.9g} {after:.9g} {stop / 20:.6g} {stop / 2000:.6g} {stop / 2000:.6g} {10 * stop:.6g})"
        structure = follower(subject, *more, drive=pulse)
        trace = transient(structure, stop, [(OUT, "mid")], most_points=2000, look=subject.look).require()
        volts = trace.values[0]
        late = np.abs(volts[trace.time > 0.5 * stop] - after) < 0.1 * abs(after - before)
        if np.all(late) or stop >= 0.1:
            return trace.time, volts
        stop *= 4.0


def _settled(time: Floats, distance: Floats, most: float) -> float:
    """When the distance last came below `most`, by straight lines between points; NaN where it never was above."""
    outside = np.flatnonzero(distance > most)
    if not len(outside):
        return math.nan
    last = int(outside[-1])
    part = (distance[last] - most) / (distance[last] - distance[last + 1])
    return float(time[last] + part * (time[last + 1] - time[last]))


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
            outcome.measured("settling_time", _settled(time, np.abs(volts - volts[-1]), 0.01 * size) - begin)
    outcome.cards.append(
        Card("small-step", "Small step as a follower", Axis("time", "s"), Axis("output", "V"), curves=tuple(curves))
    )
