"""Amplifiers whose outputs are at a limit in a run: which one, at which rail, from when, and how much is missing.

An amplifier in negative feedback has lost control of its output where its inputs are apart while the output stands
still near a rail. What is missing there is the distance of its inputs by the share of the output that is fed back.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from verdad_core.arrays import Booleans, Floats
from verdad_core.checks.at_rest import APART, NEAR_RAILS
from verdad_core.checks.feedback import amplifiers, feedback
from verdad_core.checks.signals import Signals
from verdad_core.document.board import Circuit
from verdad_core.document.checks import Check
from verdad_core.errors import Finding, Place, Severity
from verdad_core.units import format_value

#: An output stands still at a limit where it is within this part of its whole swing from its farthest there, for this
#: part of the time that its inputs are apart. One that slews past moves all the time.
STILL, LONG = 0.03, 0.5
#: The least share of an output that is feedback.
_FED_BACK = 1e-3


@dataclass(frozen=True)
class Clipped:
    """An amplifier's output `out` at its limit towards the net `rail` ("" where it has no pin there).

    From `since` to `until` on the axis, where the output is `volts` and `missing` more would be wanted; `times` such
    stretches in all.
    """

    amplifier: str
    out: str
    rail: str
    volts: float
    since: float
    until: float
    missing: float
    times: int

    def words(self, unit: str) -> str:
        rail = f" towards {self.rail}" if self.rail else ""
        since, until = (format_value(place, unit, 3) for place in (self.since, self.until))
        several = f", {self.times} times" if self.times > 1 else ""
        return (
            f"{self.amplifier} clips{rail}: {self.out} stops at {format_value(self.volts, 'V', 3)} from {since} to "
            f"{until}{several}, and lacks {format_value(self.missing, 'V', 2)}"
        )


def clipped(circuit: Circuit, check: Check, signals: Signals) -> list[Clipped]:
    """Every amplifier at a limit, those that lack most first; none where nets that show it were not kept."""
    axis = signals.axis
    if axis is None or len(axis.values) < 3:
        return []
    kept = {"gnd", *signals.voltages}
    every = {name: nets for part in circuit.parts for name, nets in amplifiers(part).items()}
    seen = {name: nets for name, nets in every.items() if {nets[role] for role in ("in+", "in-", "out")} <= kept}
    shares = feedback(circuit, check.fixtures) if seen else {}
    found: list[Clipped] = []
    for name, nets in seen.items():
        share = shares[name][1] - shares[name][0]
        if share > _FED_BACK:
            found += _of(name, nets, share, axis.values, signals.voltages)
    return sorted(found, key=lambda each: -each.missing)


def findings(circuit: Circuit, check: Check, signals: Signals) -> list[Finding]:
    """The same, said of the parts."""
    unit = signals.axis.unit.name if signals.axis else ""
    parts = {name: part.designator for part in circuit.parts for name in amplifiers(part)}
    remedy = "Give it less signal, less gain, or a wider supply."
    return [
        Finding(Severity.WARNING, each.words(unit), Place(part=parts[each.amplifier], nodes=(each.out,)), remedy)
        for each in clipped(circuit, check, signals)
    ]


def _of(
    name: str, nets: Mapping[str, str], share: float, x: Floats, voltages: Mapping[str, object]
) -> Iterator[Clipped]:
    known = {
        role: np.zeros(len(x)) if net == "gnd" else np.asarray(voltages[net], float)
        for role, net in nets.items()
        if net == "gnd" or net in voltages
    }
    apart, volts = known["in+"] - known["in-"], known["out"]
    rails: dict[str, Floats] = {role: known[role] for role in ("v+", "v-") if role in known}
    span = np.abs(rails["v+"] - rails["v-"]) if len(rails) == 2 else None
    for sign, role in ((1.0, "v+"), (-1.0, "v-")):
        lost = sign * apart > APART
        if span is not None:
            lost &= np.abs(rails[role] - volts) < NEAR_RAILS * span
        stretches = list(_standing(x, sign * volts, lost))
        if not stretches:
            continue
        first, last = max(stretches, key=lambda ends: float(np.max(sign * apart[ends[0] : ends[1] + 1])))
        worst = first + int(np.argmax(sign * apart[first : last + 1]))
        yield Clipped(
            name, nets["out"], nets.get(role, ""), float(volts[worst]), float(x[first]), float(x[last]),
            float(abs(apart[worst])) / share, len(stretches),
        )  # fmt: skip


def _standing(x: Floats, volts: Floats, lost: Booleans) -> Iterator[tuple[int, int]]:
    """Stretches on which the output stands at its limit, by their first and last points; the limit is upwards."""
    swing = float(np.ptp(volts))
    edges = np.flatnonzero(np.diff(np.concatenate([[False], lost, [False]]).astype(int)))
    for start, stop in zip(edges[::2], edges[1::2] - 1, strict=True):
        own = volts[start : stop + 1]
        there = np.flatnonzero(own > np.max(own) - STILL * swing)
        first, last = int(start + there[0]), int(start + there[-1])
        whole, still = abs(x[stop] - x[start]), abs(x[last] - x[first])
        if last > first and still >= LONG * whole:
            yield first, last
