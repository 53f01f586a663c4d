"""A part or a fixture called otherwise: what speaks of it by its name goes along."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from pydantic import TypeAdapter, ValidationError

from verdad_core.document.board import Board
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import FixtureName
from verdad_core.document.parts import Statement
from verdad_core.errors import BoardError, Place
from verdad_core.measure.expressions import with_names
from verdad_core.schema import Designator, Document, fields_that_choose

#: Letters of the statements whose text names elements: by whose current they are controlled, and what they couple.
NAMING = "FHKW"

_DESIGNATOR: TypeAdapter[str] = TypeAdapter(Designator)
_FIXTURE_NAME: TypeAdapter[str] = TypeAdapter(FixtureName)


def renamed(board: Board, old: str, new: str) -> Board:
    """The board with part `old` called `new`, in its drawing, spreads, checks and the statements that speak of it.

    Raises BoardError for a part that is not there, a name that another one has, and what is no designator.
    """
    new = new.strip().upper()
    try:
        _DESIGNATOR.validate_python(new)
    except ValidationError:
        raise BoardError(
            f"'{new}' is no designator", place=Place(part=old), remedy="Write one to three letters and a number: R7."
        ) from None
    taken = {each.designator: circuit.title for circuit in board.circuits for each in circuit.parts}
    if new != old and new in taken:
        raise BoardError(f"a part of '{taken[new]}' is called {new} already", remedy="Take another name.")
    circuit = next((each for each in board.circuits if any(p.designator == old for p in each.parts)), None)
    if circuit is None:
        raise BoardError(f"there is no part {old} on this board")
    part = circuit.part(old)
    if isinstance(part, Statement) and new[:1].lower() != old[:1].lower():
        raise BoardError(
            f"{old} is a statement, whose first letter says what it is", place=Place(part=old),
            remedy=f"Give it a name that begins with {old[0]}.",
        )  # fmt: skip
    document: dict[str, Any] = board.model_dump(mode="json")
    [own] = [each for each in document["circuits"] if each["id"] == circuit.id]
    name, text = _name_of(old, new), _probes_of(old, new)
    for each in own["parts"]:
        each["designator"] = new if each["designator"] == old else each["designator"]
        if each["kind"] == "statement":
            controlled = each["designator"][0] in NAMING
            each["text"] = _words_of(old, new)(each["text"]) if controlled else text(each["text"])
    if (drawing := own["drawing"]) is not None:
        drawing["symbols"] = {name(symbol): pose for symbol, pose in drawing["symbols"].items()}
        for wire in drawing["wires"]:
            wire["ends"] = [name(end) for end in wire["ends"]]
    for check in own["checks"]:
        _in_check(check, circuit.check(check["id"]), name, text)
    for study, told in zip(board.studies, document["studies"], strict=True):
        _chosen_renamed(study, told, name)
    for spread in document["spreads"]:
        spread["of"] = name(spread["of"])
    return Board.model_validate(document)


def fixture_renamed(board: Board, check_id: str, old: str, new: str) -> Board:
    """The board with fixture `old` of a check called `new`, wherever the check or a study of it speaks of it.

    Raises BoardError for a fixture that is not there, a name that another one has, and what is no name of a fixture.
    """
    new = new.strip().lower()
    circuit, check = board.check(check_id)
    if check.fixture(old) is None:
        raise BoardError(f"there is no fixture {old} at '{check.title}'")
    if new != old and check.fixture(new) is not None:
        raise BoardError(f"another fixture is called {new} already", remedy="Take another name.")
    try:
        _FIXTURE_NAME.validate_python(new)
    except ValidationError:
        raise BoardError(
            f"'{new}' is no name of a fixture", place=Place(part=old),
            remedy="Begin with a letter; letters, digits and dashes may follow.",
        ) from None  # fmt: skip
    document: dict[str, Any] = board.model_dump(mode="json")
    [home] = [each for each in document["circuits"] if each["id"] == circuit.id]
    [own] = [each for each in home["checks"] if each["id"] == check_id]
    for fixture in own["fixtures"]:
        fixture["name"] = new if fixture["name"] == old else fixture["name"]
    _in_check(own, check, _name_of(old, new), _probes_of(old, new))
    for study, told in zip(board.studies, document["studies"], strict=True):
        if check_id in study.checks:
            _chosen_renamed(study, told, _name_of(old, new))
    if not any(other.fixture(old) for _, other in board.checks() if other.id != check_id):
        for spread in document["spreads"]:
            spread["of"] = _name_of(old, new)(spread["of"])
    return Board.model_validate(document)


def _in_check(told: dict[str, Any], check: Check, name: Callable[[str], str], text: Callable[[str], str]) -> None:
    """What a check says of something, by `name`, and its expressions by `text`."""
    _chosen_renamed(check.analysis, told["analysis"], name)
    for measurement in told["measurements"]:
        measurement["of"] = text(measurement["of"])
        if measurement["hand"]:
            measurement["hand"]["formula"] = with_names(measurement["hand"]["formula"], name)
    for card in told["cards"] or ():
        for curve in card["curves"]:
            curve["expression"] = text(curve["expression"])
    for fixture in told["fixtures"]:
        if "text" in fixture:
            fixture["text"] = text(fixture["text"])


def _chosen_renamed(piece: Document, told: dict[str, Any], name: Callable[[str], str]) -> None:
    """Settings that name what drives, a pin or a quantity."""
    for field in fields_that_choose(piece, "quantity", "swept", "driver", "pin"):
        if told[field]:
            told[field] = name(told[field])


def _name_of(old: str, new: str) -> Callable[[str], str]:
    """Of the thing itself, a part's units and pins (U1, U1.a, U1.a.out), and its quantities."""

    def of(name: str) -> str:
        return new + name[len(old) :] if name == old or name.startswith(f"{old}.") else name

    return of


def _probes_of(old: str, new: str) -> Callable[[str], str]:
    """Of an expression: where it looks at a current or a power, i(R1), i(R1.2) and p(R1); v(R1) is a net."""
    probe = re.compile(rf"\b([ip]\s*\(\s*){re.escape(old)}(?=\s*\)|\.)", re.IGNORECASE)
    return lambda text: probe.sub(rf"\g<1>{new}", text)


def _words_of(old: str, new: str) -> Callable[[str], str]:
    """Of the text of a statement that names other elements, and no nets."""
    word = re.compile(rf"(?<![\w.]){re.escape(old)}(?![\w.])", re.IGNORECASE)
    return lambda text: word.sub(new, text)
