"""Whether an amplifier with five known pins is a comparator: its output only sinks, or nothing slows it down."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from verdad_core.analyses.ac import ac_at
from verdad_core.analyses.operating_point import operating_point
from verdad_core.errors import VerdadError
from verdad_core.intake.bundle import Bundle
from verdad_core.intake.model import Model, node_of

#: Supplies and how far the inputs are driven apart, in V.
SUPPLY, APART = 6.0, 0.1

#: No amplifier that is made to be fed back still follows at this frequency, in Hz; common practice, no source.
TOO_FAST = 1e10


def compares(bundle: Bundle, file: str, name: str, roles: Sequence[str]) -> str:
    """Why it is a comparator; empty where it need not be one, or nothing could be computed."""
    model = Model(bundle, file, name, tuple(roles))
    try:
        if _only_sinks(model):
            return "its output sinks current and gives none"
        if _is_not_slowed(model):
            return "nothing slows it down, so it is not made to be fed back"
    except VerdadError:
        return ""
    return ""


def _around(model: Model, load: str) -> list[str]:
    high, low, out = (node_of(role) for role in ("v+", "v-", "out"))
    return [f"vhigh {high} 0 {SUPPLY}", f"vlow {low} 0 {-SUPPLY}", f"rload {out} {load} 10k"]


def _only_sinks(model: Model) -> bool:
    """With a load towards the lower supply the output stays there, with one towards the upper it moves."""
    plus, minus, high, low, out = (node_of(role) for role in ("in+", "in-", "v+", "v-", "out"))

    def swing(load: str) -> float:
        levels = []
        for volts in (APART, -APART):
            point = operating_point(model.structure([*_around(model, load), f"v1 {plus} 0 {volts}", f"v2 {minus} 0 0"]))
            point.require()
            levels.append(point.value(out))
        return abs(levels[0] - levels[1])

    return swing(low) < 0.5 < SUPPLY < swing(high)


def _is_not_slowed(model: Model) -> bool:
    """Whether a follower still follows where no amplifier does, though the model has capacitances."""
    plus, minus, out = (node_of(role) for role in ("in+", "in-", "out"))
    # What repeats the output keeps the inputs' own capacitance from passing the signal by.
    structure = model.structure([*_around(model, "0"), f"vin {plus} 0 dc 0 ac 1", f"efb {minus} 0 {out} 0 1"])
    if not any(element.family == "capacitor" for element in structure.elements):
        return False
    point = operating_point(structure)
    point.require()
    [[[follows]]] = ac_at(point, np.array([TOO_FAST]), [(out, "0")]).values
    return bool(0.5 < abs(follows) < 2.0)
