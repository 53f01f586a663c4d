"""The bench of a comparator: thresholds, levels, delay, supply current; an open collector has its load to v+."""

from __future__ import annotations

import math

import numpy as np

from verdad_core.analyses.dc_sweep import Swept, dc_sweep, up_and_down
from verdad_core.analyses.transient import transient
from verdad_core.intake.model import node_of
from verdad_core.qualification.experiment import Experiment, Subject, at, solved, where
from verdad_core.qualification.figures import Axis, Card, Curve, FigureType, Outcome, curve

PLUS, MINUS, HIGH, LOW, OUT = (node_of(role) for role in ("in+", "in-", "v+", "v-", "out"))


def _supplied(subject: Subject, drive: str) -> tuple[str, ...]:
    middle = (subject["high"] + subject["low"]) / 2
    return (
        f"vhigh {HIGH} 0 {subject['high']:g}", f"vlow {LOW} 0 {subject['low']:g}", f"vmid mid 0 {middle:g}",
        f"rload {OUT} {HIGH} {subject['load']:g}", f"vin {PLUS} mid {drive}", f"rin {MINUS} mid 1m",
    )  # fmt: skip


def thresholds(subject: Subject, outcome: Outcome) -> None:
    """The input is swept up and down; the thresholds lie where the output passes the middle of its levels."""
    structure = subject.structure(*_supplied(subject, "0"))
    far = solved(structure, {("vin", "dc"): [0.2, -0.2]})
    high, low = at(far, OUT)
    outcome.measured("output_high", float(high))
    outcome.measured("output_low", float(low))
    outcome.measured(
        "supply_current", -float(at(far, "i(vhigh)")[0]) - float((subject["high"] - high) / subject["load"])
    )
    fine = np.concatenate([np.linspace(-0.2, -0.021, 40), np.linspace(-0.02, 0.02, 801), np.linspace(0.021, 0.2, 40)])
    both = up_and_down(fine)
    volts = dc_sweep(structure, [Swept(("vin", "dc"), both)], [(OUT, "0")]).values[0, 0]
    middle, count = (high + low) / 2, len(fine)
    up = where(fine, volts[:count], middle)
    down = where(both[count - 1 :], volts[count - 1 :], middle)
    outcome.measured("threshold", (up + down) / 2)
    outcome.measured("hysteresis", abs(up - down))
    near = np.abs(fine) <= 0.02
    outcome.cards.append(
        Card("thresholds", "Output over input", Axis("input", "V"), Axis("output", "V"),
             curves=(curve("rising", fine[near], volts[:count][near]),
                     curve("falling", both[count - 1:][near[::-1]], volts[count - 1:][near[::-1]])))
    )  # fmt: skip


def delay(subject: Subject, outcome: Outcome) -> None:
    """From a step of the input that passes the threshold by the overdrive, to the middle of the output's levels."""
    static = Outcome()
    thresholds(subject, static)
    middle = (static.value("output_high") + static.value("output_low")) / 2
    centre, over, stop = static.value("threshold"), subject["overdrive"] + static.value("hysteresis") / 2, 1e-7
    curves: list[Curve] = []
    while True:
        begin = stop / 10
        found = []
        curves.clear()
        for sign, word in ((1, "rising"), (-1, "falling")):
            pulse = f"pulse({centre - sign * 0.1:.9g} {centre + sign * over:.9g} {begin:g} 1p 1p 1)"
            structure = subject.structure(*_supplied(subject, pulse))
            trace = transient(structure, stop, [(OUT, "0")], most_points=1000, look=subject.look).require()
            volts = trace.values[0]
            after = trace.time >= begin
            found.append(where(trace.time[after], volts[after], middle) - begin)
            curves.append(curve(word, trace.time, volts))
        if all(math.isfinite(value) for value in found) or stop > 1e-2:
            break
        stop *= 4.0
    for word, value in zip(("rising", "falling"), found, strict=True):
        outcome.measured(f"delay_{word}", value)
    outcome.cards.append(
        Card("delay", "Output after a step of the input", Axis("time", "s"), Axis("output", "V"), curves=tuple(curves))
    )


_F = FigureType
EXPERIMENTS = (
    Experiment("thresholds", (
        _F("threshold", "Threshold", "V", "mean of both ways", ("vos", "offset voltage"), 0.5, size=True),
        _F("hysteresis", "Hysteresis", "V", "distance of the thresholds", ("vhys",), 0.3),
        _F("output_high", "High level", "V", "load to v+", ("voh",), 0.1),
        _F("output_low", "Low level", "V", "load to v+", ("vol",), 0.1),
        _F("supply_current", "Supply current", "A", "output high, without the load's", ("iq", "icc", "is")),
    ), thresholds),
    Experiment("delay", (
        _F("delay_rising", "Delay, rising", "s", "with the overdrive", ("tplh", "propagation delay", "tpd"), 0.3),
        _F("delay_falling", "Delay, falling", "s", "with the overdrive", ("tphl",), 0.3),
    ), delay),
)  # fmt: skip
