"""What an assignment of pins does: one sentence from a quick experiment, so that a wrong order shows by its effect."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from verdad_core.analyses.operating_point import OperatingPoint, operating_point
from verdad_core.analyses.transient import transient
from verdad_core.errors import ConvergenceError, VerdadError
from verdad_core.intake.kinds import KINDS
from verdad_core.intake.model import Model, node_of
from verdad_core.units import format_value

#: Supplies and the step of the follower's input in V; the follower is watched for this long, in s.
SUPPLY, STEP, WATCHED = 6.0, 0.5, 1e-3

#: Seconds that a quick experiment may take.
PATIENCE = 3.0

#: Amperes into the supplies of an amplifier that cannot be right.
TOO_MUCH = 0.3


@dataclass(frozen=True)
class Effect:
    """Whether the model behaves as its kind should, and what it does."""

    right: bool
    sentence: str


def effect(model: Model, kind: str) -> Effect | None:
    """The effect of a model's roles, or None where the kind has no quick experiment or a role is missing."""
    method = _METHODS.get(kind)
    if method is None or any(role not in model.roles for role in KINDS[kind].roles):
        return None
    try:
        return method(model)
    except VerdadError as error:
        return Effect(False, f"with this assignment nothing could be computed: {error.message}")


def _hanging(model: Model, *known: str) -> list[str]:
    """Every pin that the experiment does not name hangs weakly."""
    return [f"r_other{k} {node_of(role)} 0 1e9" for k, role in enumerate(model.roles) if role not in known]


def _amplifier(model: Model) -> Effect:
    plus, minus, high, low, out = (node_of(role) for role in KINDS["op-amp"].roles)
    supplies = [f"vhigh {high} 0 {SUPPLY}", f"vlow {low} 0 {-SUPPLY}", f"rload {out} 0 10k", f"vfb {minus} {out} 0",
                *_hanging(model, *KINDS["op-amp"].roles)]  # fmt: skip
    structure = model.structure([*supplies, f"vin {plus} 0 pulse(0 {STEP} 1u 1n 1n 1)"])
    point = operating_point(structure)
    point.require()
    drawn = max(abs(point.value("i(vhigh)")), abs(point.value("i(vlow)")))
    if drawn > TOO_MUCH:
        return Effect(False, f"with this assignment {format_value(drawn, 'A', 3)} flow into the supply pins")
    trace = transient(structure, WATCHED, [(out, "0")], most_points=500, look=_patience()).trace()
    end = trace.values[0][-max(len(trace.time) // 5, 1) :]
    volts = float(np.mean(end))
    if np.ptp(end) > 0.1:
        return Effect(
            True, "with this assignment the follower oscillates: the pins may be right, the model is not stable"
        )
    if trace.failure is not None:
        return Effect(
            False, f"with this assignment the follower could not be watched to its end: {trace.failure.message}"
        )
    if abs(volts - STEP) < 0.05:
        return Effect(
            True,
            f"with this assignment the follower follows: {STEP:g} V in, {format_value(volts, 'V', 3)} out, "
            f"{format_value(drawn, 'A', 3)} from the supplies",
        )
    if abs(volts) > 0.4 * SUPPLY:
        rail = "positive" if volts > 0 else "negative"
        return Effect(
            False, f"with this assignment the follower sits at the {rail} rail, {format_value(volts, 'V', 3)}"
        )
    return Effect(False, f"with this assignment the follower gives {format_value(volts, 'V', 3)} for {STEP:g} V")


def _comparator(model: Model) -> Effect:
    plus, minus, high, low, out = (node_of(role) for role in KINDS["comparator"].roles)
    roles = KINDS["comparator"].roles
    levels = [
        _point(model, roles, f"vhigh {high} 0 {SUPPLY}", f"vlow {low} 0 {-SUPPLY}", f"rload {out} {high} 10k",
               f"v1 {plus} 0 {volts}", f"v2 {minus} 0 0").value(out)
        for volts in (0.1, -0.1)
    ]  # fmt: skip
    words = f"{format_value(levels[0], 'V', 3)} with in+ above in-, {format_value(levels[1], 'V', 3)} with in+ below"
    right = SUPPLY + 0.5 > levels[0] > levels[1] + 1.0 and levels[1] > -SUPPLY - 0.5
    return Effect(right, f"with this assignment the output is at {words}" + ("" if right else ": it does not compare"))


def _patience() -> Callable[[float], None]:
    """Ends a transient that takes longer than somebody waits for an answer, counted from its first steps on."""
    looks: list[float] = []

    def look(_: float) -> None:
        looks.append(time.monotonic())
        if len(looks) > 1 and looks[-1] - looks[1] > PATIENCE:
            raise ConvergenceError(f"it was ended after {PATIENCE:g} s")

    return look


def _point(model: Model, roles: tuple[str, ...], *statements: str) -> OperatingPoint:
    point = operating_point(model.structure([*statements, *_hanging(model, *roles)]))
    point.require()
    return point


def _diode(model: Model) -> Effect:
    anode, cathode = node_of("anode"), node_of("cathode")
    roles = KINDS["diode"].roles
    forward = _point(model, roles, f"i1 0 {anode} 1m", f"r1 {cathode} 0 1m", f"r2 {anode} 0 1meg").value(anode)
    backward = _point(model, roles, f"i1 0 {cathode} 1m", f"r1 {anode} 0 1m", f"r2 {cathode} 0 1meg").value(cathode)
    right = forward < backward
    return Effect(
        right,
        f"with this assignment 1 mA from anode to cathode takes {format_value(forward, 'V', 3)}, "
        f"and {format_value(backward, 'V', 3)} the other way" + ("" if right else ": the ends look exchanged"),
    )


def _bipolar(model: Model) -> Effect:
    collector, base, emitter = (node_of(role) for role in KINDS["bipolar"].roles)
    best = (0.0, 1)
    for sign in (1, -1):
        point = _point(model, KINDS["bipolar"].roles, f"vc {collector} 0 {5 * sign}", f"ib 0 {base} {sign}e-5",
                       f"re {emitter} 0 1m")  # fmt: skip
        best = max(best, (-sign * point.value("i(vc)") / 1e-5, sign))
    gain, sign = best
    what = "an NPN" if sign > 0 else "a PNP"
    return Effect(
        15 < gain < 5000, f"with this assignment it is {what} transistor with a current gain of {gain:.3g} at 10 µA"
    )


def _mosfet(model: Model) -> Effect:
    drain, gate, source = (node_of(role) for role in KINDS["mosfet"].roles)
    roles = KINDS["mosfet"].roles
    found: dict[int, tuple[float, float]] = {}
    for sign in (1, -1):
        amperes = [
            sign * -_point(model, roles, f"vd {drain} 0 {0.1 * sign}", f"vg {gate} 0 {volts * sign}",
                           f"rs {source} 0 1m").value("i(vd)")
            for volts in (10, 0)
        ]  # fmt: skip
        found[sign] = (amperes[0], amperes[1])
    sign = max(found, key=lambda s: found[s][0] - found[s][1])
    on, off = found[sign]
    right = on > 10 * max(off, 1e-9)
    channel = "N" if sign > 0 else "P"
    if not right:
        return Effect(False, "with this assignment the gate decides over nothing")
    return Effect(True, f"with this assignment it is an {channel}-channel: {format_value(0.1 / on, 'Ω', 3)} when on")


def _three_terminal(model: Model) -> Effect:
    source, out, ground = (node_of(role) for role in KINDS["regulator"].roles)
    volts = [
        _point(model, KINDS["regulator"].roles, f"vin {source} 0 {level}", f"rload {out} 0 10k",
               f"rg {ground} 0 1m").value(out)
        for level in (12, 15)
    ]  # fmt: skip
    steady = 0.3 < volts[0] < 11.5 and abs(volts[1] - volts[0]) < 0.05 * volts[0]
    words = f"{format_value(volts[0], 'V')} out at 12 V in, {format_value(volts[1], 'V')} at 15 V"
    return Effect(steady, f"with this assignment {words}" + ("" if steady else ": it does not regulate"))


_METHODS: dict[str, Callable[[Model], Effect]] = {
    "op-amp": _amplifier, "comparator": _comparator, "diode": _diode, "clamp": _diode, "bipolar": _bipolar,
    "mosfet": _mosfet, "reference": _three_terminal, "regulator": _three_terminal,
}  # fmt: skip
