"""Quantities of a check by name, to turn, sweep and look up: "R3", "geophone.resistance", "U1.gain", "temperature".

A part's name stands for its value and a fixture's for its main field; after a dot stands a fixture's field, one of its
waveform's, or a part's setting.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from math import isfinite
from types import MappingProxyType
from typing import Any

from pydantic import ValidationError

from verdad_core.checks.elaborate import Models, value_key
from verdad_core.checks.error_sources import error_key, errors_of
from verdad_core.devices.base import AMBIENT_KEY
from verdad_core.document.board import Board, Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Written
from verdad_core.document.parts import PART_UNITS, WARMTH, Generic, Modelled, Part, Valued
from verdad_core.document.waveforms import ITS_OWN
from verdad_core.errors import BoardError, NetlistError, Place, ValueTextError, VerdadError
from verdad_core.intake.generic import GENERIC_PARTS
from verdad_core.schema import Document, unit_of
from verdad_core.units import PER_DEGREE, parse_value, plain_value

TEMPERATURE = "temperature"


@dataclass(frozen=True)
class Quantity:
    """One quantity: its name, its present text, and its unit where it is known."""

    name: str
    text: str
    unit: str
    #: Whether it can take one value after the other at rest.
    swept: bool = False

    @property
    def value(self) -> float:
        return self.read(self.text)

    def read(self, text: str) -> float:
        """What a text means for it: "100ppm" of a temperature coefficient are 1e-4. Raises ValueTextError."""
        return parse_value(text, self.unit if self.unit.startswith(PER_DEGREE) else "")


def quantity(circuit: Circuit, check: Check, name: str, models: Models = MappingProxyType({})) -> Quantity:
    """The quantity of that name; with `models`, also a parameter that a part leaves to its model.

    Raises BoardError for one that is not there, or has no value.
    """
    if name == TEMPERATURE:
        return Quantity(name, check.temperature, "°C")
    first, _, field = name.partition(".")
    found = None
    if (fixture := check.fixture(first)) is not None:
        found = _of_fixture(fixture, name, field)
    elif (part := next((part for part in circuit.parts if part.designator == first), None)) is not None:
        found = _of_part(part, name, field)
        if isinstance(part, Modelled) and not (found and found.text):
            found = next((each for each in _of_model(part, models) if each.name == name), None)
    if found is None or not found.text:
        raise BoardError(
            f"there is no value called '{name}' here", place=Place(part=first),
            remedy="Name a part such as R3, a fixture's quantity such as geophone.resistance, or temperature.",
        )  # fmt: skip
    return found


def _of_fixture(fixture: Fixture, name: str, field: str) -> Quantity | None:
    field = field or fixture.main
    holders = [piece for piece in (fixture, getattr(fixture, "waveform", None)) if piece is not None]
    holder = next((piece for piece in holders if field in type(piece).model_fields), None)
    text = getattr(holder, field, None)
    unit = unit_of(holder, field) if holder is not None else ""
    if not unit or not isinstance(text, str):
        return None
    own = "A" if getattr(fixture, "quantity", "voltage") == "current" else "V"
    return Quantity(name, text, own if unit == ITS_OWN else unit)


def _of_part(part: Part, name: str, setting: str) -> Quantity | None:
    if setting in WARMTH and hasattr(part, setting):
        # What nobody gave is none.
        return Quantity(name, getattr(part, setting) or "0", WARMTH[setting][0])
    if isinstance(part, Valued):
        return None if setting else Quantity(name, part.value, PART_UNITS[part.kind])
    if not isinstance(part, Modelled | Generic):
        return None
    if isinstance(part, Modelled) and setting in (errors := errors_of(part)):
        return Quantity(name, (part.errors or {}).get(setting, "0"), errors[setting].unit)
    known = {s.name: s for s in GENERIC_PARTS[part.part].settings} if isinstance(part, Generic) else {}
    default = known.get(setting)
    text = part.settings.get(setting, default.default if default else "")
    return Quantity(name, text, default.unit if default else "")


def quantities(circuit: Circuit, check: Check, models: Models) -> list[Quantity]:
    """All quantities of a check that have a value: parts, settings that parts have, fixtures, the temperature.

    Each by its shortest name, as in `quantity`: a part's value and a fixture's main field have none of their own.
    """
    names: list[str] = []
    for part in circuit.parts:
        names += [f"{part.designator}.{name}" for name in WARMTH if getattr(part, name, None)]
        if isinstance(part, Valued):
            names.append(part.designator)
        elif isinstance(part, Modelled):
            names += [f"{part.designator}.{name}" for name in part.errors or ()]
        elif isinstance(part, Generic):
            names += [f"{part.designator}.{setting.name}" for setting in GENERIC_PARTS[part.part].settings]
    for fixture in check.fixtures:
        wave = getattr(fixture, "waveform", None)
        own = [*type(fixture).model_fields, *(type(wave).model_fields if wave is not None else ())]
        names += [fixture.name if field == fixture.main else f"{fixture.name}.{field}" for field in own]
    found = [each for name in (*names, TEMPERATURE) if (each := _known(circuit, check, name)) is not None]
    found = [replace(each, swept=_is_swept(circuit, check, each.name)) for each in found]
    return found + [each for part in circuit.parts if isinstance(part, Modelled) for each in _of_model(part, models)]


def _is_swept(circuit: Circuit, check: Check, name: str) -> bool:
    try:
        engine_key(circuit, check, name)
    except BoardError:
        return False
    return True


def _known(circuit: Circuit, check: Check, name: str) -> Quantity | None:
    try:
        found = quantity(circuit, check, name)
        return found if isfinite(found.value) else None
    except (BoardError, ValueTextError):
        return None


def _of_model(part: Modelled, models: Models) -> Iterator[Quantity]:
    """The parameters of a part's model, as it has them."""
    model = models.get(part.model.id)
    try:
        own = model.settings() if model is not None else {}
    except NetlistError:
        return
    for name, value in own.items():
        if isfinite(value):
            yield Quantity(f"{part.designator}.{name}", part.settings.get(name, plain_value(value)), "")


def with_quantity(board: Board, check_id: str, name: str, text: str) -> Board:
    """The board with another value of a quantity. Raises BoardError where it cannot have it."""
    circuit, check = board.check(check_id)
    if not _is_setting(circuit, name):
        quantity(circuit, check, name)
    first, _, field = name.partition(".")
    if name == TEMPERATURE:
        checks = _replaced(circuit.checks, check, {"temperature": text})
        return _with(board, circuit, {"checks": checks})
    if (fixture := check.fixture(first)) is not None:
        changed = _fixture_with(fixture, field, text)
        fixtures = [changed if each is fixture else each.model_dump() for each in check.fixtures]
        return _with(board, circuit, {"checks": _replaced(circuit.checks, check, {"fixtures": fixtures})})
    part = circuit.part(first)
    change: dict[str, Any] = {field: text} if field in WARMTH else {"value": text}
    if isinstance(part, Modelled) and field in errors_of(part):
        change = {"errors": {**(part.errors or {}), field: text}}
    elif isinstance(part, Modelled | Generic) and field not in WARMTH:
        change = {"settings": {**part.settings, field: text}}
    return _with(board, circuit, {"parts": _replaced(circuit.parts, part, change)})


def with_errors_given(board: Board, check_id: str, names: Collection[str]) -> Board:
    """The board with those of some quantities that are errors of parts given as none, so that they can be turned."""
    circuit, check = board.check(check_id)
    for part in circuit.parts:
        own = errors_of(part) if isinstance(part, Modelled) else ()
        for name in own:
            of = f"{part.designator}.{name}"
            if of in names and isinstance(part, Modelled) and name not in (part.errors or ()):
                board = with_quantity(board, check_id, of, quantity(circuit, check, of).text)
    return board


def _is_setting(circuit: Circuit, name: str) -> bool:
    """Whether the name is a setting of a part with a model, which may have any that its model has."""
    first, _, setting = name.partition(".")
    return bool(setting) and any(isinstance(p, Modelled) and p.designator == first for p in circuit.parts)


def _fixture_with(fixture: Fixture, field: str, text: str) -> dict[str, Any]:
    document = fixture.model_dump()
    field = field or fixture.main
    (document if field in document else document["waveform"])[field] = text
    return document


def _replaced(items: tuple[Document, ...], item: Document, change: dict[str, Any]) -> list[dict[str, Any]]:
    return [each.model_dump() | (change if each is item else {}) for each in items]


def _with(board: Board, circuit: Circuit, change: dict[str, Any]) -> Board:
    circuits = [each.model_dump() | (change if each is circuit else {}) for each in board.circuits]
    try:
        return Board.model_validate(board.model_dump() | {"circuits": circuits})
    except ValidationError as error:
        cause = error.errors()[0].get("ctx", {}).get("error")
        if isinstance(cause, VerdadError):
            raise BoardError(cause.message, remedy=cause.remedy) from None
        raise BoardError(error.errors()[0]["msg"], remedy="Write another value.") from None


def engine_key(circuit: Circuit, check: Check, name: str) -> tuple[str, str]:
    """The element and parameter that hold a quantity, for a sweep. Raises BoardError for one that has none."""
    if name == TEMPERATURE:
        return AMBIENT_KEY
    quantity(circuit, check, name)
    first, _, field = name.partition(".")
    fixture = check.fixture(first)
    if fixture is not None and not isinstance(fixture, Written):
        field = field or fixture.main
        keys = {
            "volts": (first, "dc"), "dc": (first, "dc"), "resistance": _resistance(fixture, first),
            "impedance": (f"{first}:resistance", "resistance"), "current": (f"{first}:current", "dc"),
        }  # fmt: skip
        if field in keys:
            return keys[field]
    part = next((part for part in circuit.parts if part.designator == first), None)
    if isinstance(part, Valued):
        return (first, WARMTH[field][1]) if field in WARMTH else value_key(part)
    if isinstance(part, Modelled) and field in (part.errors or ()):
        return error_key(part, field)
    if isinstance(part, Generic) and field not in WARMTH and GENERIC_PARTS[part.part].family and field:
        return first, field
    raise BoardError(
        f"'{name}' cannot be swept at rest", place=Place(part=first),
        remedy="Sweep a part's value, a supply, a source's direct value, a load or the temperature.",
    )  # fmt: skip


def _resistance(fixture: Fixture, name: str) -> tuple[str, str]:
    return (name if fixture.kind == "load" else f"{name}:resistance", "resistance")
