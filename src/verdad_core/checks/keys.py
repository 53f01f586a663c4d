"""Keys of results: a hash of all that a result depends on. Equal keys, equal numbers; another key, out of date."""

from __future__ import annotations

import hashlib
import json

from verdad_core import ENGINE_VERSION
from verdad_core.checks.elaborate import Models
from verdad_core.document.board import Board, Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Fixture, Supply
from verdad_core.document.parts import Modelled, Part, Valued
from verdad_core.intake.model import Model
from verdad_core.schema import Document


def check_key(board: Board, check_id: str, models: Models) -> str:
    """The key of a check as drawn: its circuit's parts, their models with pin roles, and the check itself."""
    return key_of(*board.check(check_id), models)


def key_of(circuit: Circuit, check: Check, models: Models) -> str:
    return digest({**_circuit(circuit, models), "check": said(check)})


def _circuit(circuit: Circuit, models: Models) -> dict[str, object]:
    used = sorted({part.model.id for part in circuit.parts if isinstance(part, Modelled)})
    return {
        "engine": ENGINE_VERSION,
        "parts": [said(part) for part in circuit.parts],
        "definitions": circuit.definitions,
        "models": [model_key(models[model]) for model in used if model in models],
    }


def shape_key(circuit: Circuit, check: Check, models: Models) -> str:
    """The key of a check's circuit, but for what `compiled.turned` puts into it."""
    content = {
        **_circuit(circuit, models),
        "parts": [said(_valueless(part, "value")) for part in circuit.parts],
        "fixtures": [said(_valueless(fixture, "volts")) for fixture in check.fixtures],
        "analysis": said(check.analysis),
    }
    return digest(content)


def _valueless(piece: Part | Fixture, field: str) -> object:
    """A part or fixture whose value says no more than that it is given."""
    has = isinstance(piece, Valued | Supply) and getattr(piece, field)
    return piece.model_copy(update={field: "given"}) if has else piece


def model_key(model: Model) -> str:
    """The key of what a model does: its texts, which of them and what in it, and the roles of its nodes."""
    return digest([ENGINE_VERSION, model.bundle.digest, model.file.lower(), model.name, list(model.roles)])


#: What no result depends on: how things are called, shown and rated.
_ASIDE = frozenset({"title", "cards", "rating"})


def said(value: object) -> object:
    """A piece of the document as plain data, without what is left at its default: new fields change no key."""
    if isinstance(value, Document):
        fields = type(value).model_fields
        return {
            name: said(getattr(value, name))
            for name, field in fields.items()
            if name == "kind" or (name not in _ASIDE and getattr(value, name) != field.default)
        }
    if isinstance(value, dict):
        return {name: said(item) for name, item in value.items()}
    return [said(item) for item in value] if isinstance(value, tuple) else value


def digest(content: object) -> str:
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()
