"""Stress: what parts bear in all checks of a board, as a part of what their ratings allow."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from verdad_core.checks.burden import Burden, Burdens, Peak
from verdad_core.devices.trade import TRADE
from verdad_core.document.board import Board, Circuit
from verdad_core.document.derating import Derating
from verdad_core.document.parts import Generic, Modelled, Part, Statement
from verdad_core.errors import VerdadError
from verdad_core.intake.generic import GENERIC_PARTS
from verdad_core.studies.verdict import State
from verdad_core.units import parse_value

#: Which part of its ratings a kind of part is used up to, in per cent. As the published practice of the space industry
#: has it (ECSS-Q-ST-30-11C, from memory, rounded); other kinds are used as `OTHER`.
DERATING: dict[str, Derating] = {
    "resistor": Derating(power=50.0, voltage=80.0),
    "capacitor": Derating(voltage=60.0, current=80.0),
    "inductor": Derating(voltage=50.0, current=80.0),
    "diode": Derating(power=50.0, voltage=75.0, current=75.0),
    "bipolar": Derating(power=65.0, voltage=75.0, current=75.0),
    "mosfet": Derating(power=65.0, voltage=80.0, current=75.0),
    "regulator": Derating(power=80.0, voltage=90.0, current=80.0),
    "op-amp": Derating(power=80.0, voltage=90.0, current=80.0),
}
SOURCE = "ECSS-Q-ST-30-11C, from memory, rounded"
OTHER = Derating(power=80.0, voltage=80.0, current=80.0)

#: What is rated, with its unit.
RATED = {"power": "W", "voltage": "V", "current": "A"}


@dataclass(frozen=True)
class Use:
    """How much of one rating of a part is used: `borne` of `rated`, of which `allowed` per cent are used at most.

    `part_used` is 1 where all that is allowed is borne. In which check, and where along its axis; None at rest, and for
    what is a mean.
    """

    part: str
    circuit: str
    what: str
    unit: str
    rated: float
    allowed: float
    borne: float
    check: str
    axis: str
    axis_unit: str
    at: float | None
    part_used: float
    state: State


@dataclass(frozen=True)
class Stress:
    """All uses, the worst first; parts that have no rating, by circuit; checks that tell nothing, with why."""

    uses: tuple[Use, ...]
    unrated: Mapping[str, tuple[str, ...]]
    silent: Mapping[str, str]


def rules_of(board: Board) -> dict[str, Derating]:
    """What is allowed of each kind, the board's own rules in the place of the usual ones."""
    return {**DERATING, **board.derating}


def stress(board: Board, kinds: Mapping[str, str], burdens_of: Callable[[str], Burdens]) -> Stress:
    """What all rated parts bear. `kinds` says what the models on the shelf are; `burdens_of` runs a check, and raises a
    VerdadError where that tells nothing.
    """
    worst: dict[tuple[str, str], Use] = {}
    silent: dict[str, str] = {}
    for circuit, check in board.checks():
        if not any(part.rating for part in circuit.parts):
            continue
        try:
            found = burdens_of(check.id)
        except VerdadError as error:
            silent[f"{circuit.title}: {check.title}"] = error.message
            continue
        for part in circuit.parts:
            for use in _uses(board, circuit, part, check.title, found, kinds):
                key = (use.part, use.what)
                if key not in worst or use.part_used > worst[key].part_used:
                    worst[key] = use
    unrated = {
        circuit.title: tuple(p.designator for p in circuit.parts if p.rating is None and not isinstance(p, Statement))
        for circuit in board.circuits
    }
    ordered = sorted(worst.values(), key=lambda use: -use.part_used)
    return Stress(tuple(ordered), {title: parts for title, parts in unrated.items() if parts}, silent)


def kind_of_part(part: Part, kinds: Mapping[str, str]) -> str:
    """What a part is to a derating rule: its kind, or what its model is."""
    if isinstance(part, Modelled):
        return kinds.get(part.model.id, "other")
    if not isinstance(part, Generic):
        return part.kind
    family = GENERIC_PARTS[part.part].family
    return TRADE[family].kind if family in TRADE else "op-amp" if "opamp" in part.part else "other"


def _uses(
    board: Board, circuit: Circuit, part: Part, check: str, found: Burdens, kinds: Mapping[str, str]
) -> Iterator[Use]:
    """What a check says of the ratings of a part. As with limits, a use with too little margin is thin."""
    burden = found.parts.get(part.designator)
    if part.rating is None or burden is None:
        return
    rule = rules_of(board).get(kind_of_part(part, kinds), OTHER)
    axis = (found.axis.title, found.axis.unit.name) if found.axis is not None else ("", "")
    for what, unit in RATED.items():
        if (text := getattr(part.rating, what)) is None:
            continue
        rated, allowed, borne = parse_value(text), getattr(rule, what) or 100.0, _borne(burden, what)
        used = borne.value / (rated * allowed / 100.0)
        thin = used > 1.0 - board.thin_margin / 100.0
        state = State.BREAKS if used > 1.0 else State.THIN if thin else State.HOLDS
        yield Use(part.designator, circuit.title, what, unit, rated, allowed, borne.value, check, *axis, borne.at, used,
                  state)  # fmt: skip


def _borne(burden: Burden, what: str) -> Peak:
    if what == "power":
        return Peak(abs(burden.watts), None)
    return burden.volts if what == "voltage" else burden.amperes
