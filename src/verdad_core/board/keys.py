"""Keys of results: a hash of all that a result depends on. Equal keys, equal numbers; another key, out of date."""

from __future__ import annotations

import hashlib
import json

from verdad_core import ENGINE_VERSION
from verdad_core.board.document import Board, MonteCarlo
from verdad_core.board.elaborate import ModelFiles
from verdad_core.board.parts import Modelled


def check_key(board: Board, check_id: str, models: ModelFiles) -> str:
    """The key of a check as drawn: its circuit's parts, their models with pin roles, and the check itself."""
    circuit, check = board.check(check_id)
    files = sorted({part.model.file for part in circuit.parts if isinstance(part, Modelled)})
    content = {
        "engine": ENGINE_VERSION,
        "parts": [part.model_dump(mode="json") for part in circuit.parts],
        "check": check.model_dump(mode="json", exclude={"title"}),
        "models": [
            {"text": models[file].text, "roles": {name: list(roles) for name, roles in models[file].roles.items()}}
            for file in files
            if file in models
        ],
    }
    return _hash(content)


def study_key(board: Board, study: MonteCarlo, models: ModelFiles) -> str:
    """The key of a study: the check's, the spreads of its circuit's parts, seed and number of rows."""
    circuit, _ = board.check(study.check)
    designators = {part.designator for part in circuit.parts}
    content = {
        "check": check_key(board, study.check, models),
        "spreads": sorted(
            json.dumps(spread.model_dump(mode="json"), sort_keys=True)
            for spread in board.spreads
            if spread.part in designators
        ),
        "seed": study.seed,
        "rows": study.rows,
    }
    return _hash(content)


def _hash(content: object) -> str:
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()
