"""What the experiments on an op-amp share: its pins, its supplies, and the follower."""

from __future__ import annotations

from verdad_core.engine.structure import Structure
from verdad_core.intake.model import UNDER_TEST, node_of
from verdad_core.qualification.experiment import Subject
from verdad_core.qualification.figures import Axis

PLUS, MINUS, HIGH, LOW, OUT = (node_of(role) for role in ("in+", "in-", "v+", "v-", "out"))
INSTANCE = f"x{UNDER_TEST}"

FREQUENCY = Axis("frequency", "Hz", logarithmic=True)


def supplies(subject: Subject) -> list[str]:
    return [
        f"vhigh {HIGH} 0 {subject['high']:.9g}",
        f"vlow {LOW} 0 {subject['low']:.9g}",
        f"vmid mid 0 {(subject['high'] + subject['low']) / 2:.9g}",
        f"rload {OUT} mid {subject['load']:.9g}",
    ]


def follower(subject: Subject, *more: str, drive: str = "") -> Structure:
    """The op-amp as a follower of a source on mid-supply; the 0 V source in its feedback carries the input current."""
    return subject.structure(
        *supplies(subject), f"vin {PLUS} mid 0 {drive}", f"vfb {MINUS} {OUT} 0", f"cload {OUT} mid 1f", *more
    )
