"""The same board with something else in a part's place: an ideal amplifier, its data sheet's figures, another model."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from verdad_core.checks.feedback import amplifiers
from verdad_core.document.board import Board, Circuit
from verdad_core.document.parts import Generic, Modelled, ModelReference, Part, nets_of
from verdad_core.errors import BoardError, Place
from verdad_core.intake.generic import GENERIC_PARTS
from verdad_core.qualification.datasheet import DataSheetLine
from verdad_core.units import parse_value, plain_value

#: The generic parts that stand for an amplifier without faults, and for one with those that a data sheet names.
IDEAL, FROM_FIGURES = "ideal-opamp", "opamp"

#: Which figure is which setting of it; gains in decibels become ratios.
_SETTINGS = {
    "open_loop_gain": "gain", "gain_bandwidth": "gbw", "second_pole": "pole2", "slew_rate_rising": "slew",
    "output_resistance": "rout", "voltage_noise": "en", "current_noise": "in", "bias_current": "ibias",
    "supply_current": "iq", "short_circuit_source": "imax",
}  # fmt: skip
#: What a data sheet does not speak of is no fault here.
_WITHOUT_FAULT = {"gain": "100meg", "slew": "1G", "swing": "0", "rout": "1", "imax": "1", "cin": "1f", "iq": "0"}


def amplifier_parts(circuit: Circuit) -> list[Part]:
    """The parts that an ideal amplifier can stand for: one amplifier each."""
    return [part for part in circuit.parts if list(amplifiers(part)) == [part.designator]]


def idealised(board: Board, circuit: Circuit, designator: str) -> Board:
    """The board with an ideal amplifier in a part's place. Raises BoardError where the part is none."""
    return _instead(board, circuit, designator, {"kind": "generic", "part": IDEAL}, _roles_of(IDEAL))


def from_figures(board: Board, circuit: Circuit, designator: str, lines: Iterable[DataSheetLine]) -> Board:
    """The board with no more than its data sheet's figures in an amplifier's place: two poles, slew rate, noise.

    Raises BoardError where the data sheet has no gain-bandwidth product.
    """
    settings = dict(_WITHOUT_FAULT)
    for line in lines:
        value = next((v for v in (line.typical, line.least, line.most) if v is not None), None)
        if value is not None and line.figure in _SETTINGS:
            ratio = 10.0 ** (value / 20.0) if line.figure == "open_loop_gain" else value
            settings[_SETTINGS[line.figure]] = plain_value(ratio)
    if "gbw" not in settings:
        raise BoardError(
            f"the data sheet of {designator} has no gain-bandwidth product", place=Place(part=designator),
            remedy="Enter its figures under Models.",
        )  # fmt: skip
    # A pole that nobody names lies far above.
    settings.setdefault("pole2", plain_value(100.0 * parse_value(settings["gbw"])))
    new = {"kind": "generic", "part": FROM_FIGURES, "settings": settings}
    return _instead(board, circuit, designator, new, _roles_of(FROM_FIGURES))


def with_model(
    board: Board, circuit: Circuit, designator: str, model: ModelReference, roles: Sequence[str]
) -> Board:  # fmt: skip
    """The board with another model in a part's place, pin by pin; `roles` are those of the model's nodes.

    Raises BoardError where the model has none of the part's pins, or lacks one that it cannot do without.
    """
    return _instead(board, circuit, designator, {"kind": "modelled", "model": model.model_dump()}, roles)


def _roles_of(generic: str) -> Sequence[str]:
    return GENERIC_PARTS[generic].pins


def _instead(board: Board, circuit: Circuit, designator: str, new: dict[str, Any], roles: Sequence[str]) -> Board:
    """The board with `new` in the part's place. What was attached where only the part was goes, as its supplies."""
    part = circuit.part(designator)
    if not isinstance(part, Modelled | Generic) or (isinstance(part, Modelled) and part.units > 1):
        raise BoardError(f"{designator} is no part that another one can stand for", place=Place(part=designator))
    missing = [role for role in ("in+", "in-", "out") if role in part.pins and role not in roles]
    if missing or not any(role in part.pins for role in roles):
        raise BoardError(
            f"the other part has no pin {missing[0] if missing else next(iter(part.pins))}",
            place=Place(part=designator),
            remedy="Choose one of the same kind.",
        )
    # A pin of its own that nothing is on stays alone.
    pins = {role: part.pins.get(role, f"{designator.lower()}-{role}".replace("+", "p")) for role in roles}
    own = {"designator": designator, "rating": part.rating, **new, "pins": pins}
    document = board.model_dump(mode="json")
    for told in document["circuits"]:
        if told["id"] == circuit.id:
            told["parts"] = [own if each["designator"] == designator else each for each in told["parts"]]
            # With the same pins it stands where the other one stood; otherwise it is for a look only.
            told["drawing"] = told["drawing"] if pins.keys() == dict(part.pins).keys() else None
            others = {net for each in circuit.parts if each is not part for net in nets_of(each)}
            bare = set(part.pins.values()) - set(pins.values()) - others
            for check, drawn in zip(told["checks"], circuit.checks, strict=True):
                check["fixtures"] = [
                    fixture for fixture in check["fixtures"]
                    if fixture["plus"] not in bare or fixture["name"] in drawn.analysis.drivers
                ]  # fmt: skip
    return Board.model_validate(document)
