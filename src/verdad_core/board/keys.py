"""Keys of results: a hash of all that a result depends on. Equal keys, equal numbers; another key, out of date."""

from __future__ import annotations

import hashlib
import json

from verdad_core import ENGINE_VERSION
from verdad_core.board.analyses import MOVING
from verdad_core.board.checks import Check
from verdad_core.board.document import Board, Circuit, MonteCarlo
from verdad_core.board.elaborate import Models
from verdad_core.board.fixtures import Fixture, Supply
from verdad_core.board.parts import Modelled, Part, Valued
from verdad_core.intake.model import Model
from verdad_core.schema import Document


def check_key(board: Board, check_id: str, models: Models) -> str:
    """The key of a check as drawn: its circuit's parts, their models with pin roles, and the check itself."""
    return _check_key(*board.check(check_id), models)


def _check_key(circuit: Circuit, check: Check, models: Models) -> str:
    return _hash({**_circuit(circuit, models), "check": _said(check)})


def _circuit(circuit: Circuit, models: Models) -> dict[str, object]:
    used = sorted({part.model.id for part in circuit.parts if isinstance(part, Modelled)})
    return {
        "engine": ENGINE_VERSION,
        "parts": [_said(part) for part in circuit.parts],
        "definitions": circuit.definitions,
        "models": [model_key(models[model]) for model in used if model in models],
    }


def shape_key(circuit: Circuit, check: Check, models: Models) -> str:
    """The key of a check's circuit, but for what `compiled.turned` puts into it."""
    content = {
        **_circuit(circuit, models),
        "parts": [_said(_valueless(part, "value")) for part in circuit.parts],
        "fixtures": [_said(_valueless(fixture, "volts")) for fixture in check.fixtures],
        "attached": [check.source, check.output],
        "moves": isinstance(check.analysis, MOVING),
    }
    return _hash(content)


def _valueless(piece: Part | Fixture, field: str) -> object:
    """A part or fixture whose value says no more than that it is given."""
    has = isinstance(piece, Valued | Supply) and getattr(piece, field)
    return piece.model_copy(update={field: "given"}) if has else piece


def study_key(board: Board, study: MonteCarlo, models: Models) -> str:
    """The key of a study: the check's, the spreads of its circuit's parts, seed and number of rows."""
    circuit, check = board.check(study.check)
    # What stands beside a number by hand changes no row.
    asked = tuple(measurement.model_copy(update={"hand": None}) for measurement in check.measurements)
    designators = {part.designator for part in circuit.parts}
    content = {
        "check": _check_key(circuit, check.model_copy(update={"measurements": asked}), models),
        "spreads": sorted(
            json.dumps(spread.model_dump(mode="json"), sort_keys=True)
            for spread in board.spreads
            if spread.part in designators
        ),
        "seed": study.seed,
        "rows": study.rows,
    }
    return _hash(content)


def model_key(model: Model) -> str:
    """The key of what a model does: its texts, which of them and what in it, and the roles of its nodes."""
    return _hash([ENGINE_VERSION, model.bundle.digest, model.file.lower(), model.name, list(model.roles)])


#: What no result depends on: how things are called, shown and rated.
_ASIDE = frozenset({"title", "cards", "rating"})


def _said(value: object) -> object:
    """A piece of the document as plain data, without what is left at its default: new fields change no key."""
    if isinstance(value, Document):
        fields = type(value).model_fields
        return {
            name: _said(getattr(value, name))
            for name, field in fields.items()
            if name == "kind" or (name not in _ASIDE and getattr(value, name) != field.default)
        }
    if isinstance(value, dict):
        return {name: _said(item) for name, item in value.items()}
    return [_said(item) for item in value] if isinstance(value, tuple) else value


def _hash(content: object) -> str:
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()
