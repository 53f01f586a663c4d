"""What a worker does: one block of a run's rows, from inputs that are plain JSON."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from verdad.runs.cluster import identity
from verdad_core.checks.elaborate import Models
from verdad_core.document.board import Board, MonteCarlo
from verdad_core.intake.bundle import Bundle, ModelText
from verdad_core.intake.model import Model
from verdad_core.studies.rows import run_rows

Inputs = dict[str, Any]


def pack(board: Board, study: MonteCarlo, models: Models) -> Inputs:
    """Everything a run needs, as JSON."""
    return {
        "board": board.model_dump(mode="json"),
        "study": study.id,
        "models": {key: pack_model(model) for key, model in models.items()},
    }


def unpack(inputs: Mapping[str, Any]) -> tuple[Board, MonteCarlo, Models]:
    """The opposite of `pack`."""
    board = Board.model_validate(inputs["board"])
    models = {key: unpack_model(packed) for key, packed in inputs["models"].items()}
    return board, board.study(inputs["study"]), models


def pack_model(model: Model) -> Inputs:
    """A model as JSON."""
    files = [asdict(file) for file in model.bundle.files]
    return {"files": files, "file": model.file, "name": model.name, "roles": list(model.roles)}


def unpack_model(packed: Mapping[str, Any]) -> Model:
    """The opposite of `pack_model`."""
    bundle = Bundle(tuple(ModelText(**file) for file in packed["files"]))
    return Model(bundle, packed["file"], packed["name"], tuple(packed["roles"]))


@dataclass(frozen=True)
class Computed:
    """A block: who computed it (cluster.py), values and causes of its rows in turn, and the seconds it took."""

    version: str
    values: list[float]
    causes: list[int]
    seconds: float


def compute_block(inputs: Inputs, start: int, stop: int) -> Computed:
    """Rows start..stop-1 of a run."""
    since = time.monotonic()
    board, study, models = unpack(inputs)
    table = run_rows(board, study, models, start, stop)
    values, causes = table.values.ravel().tolist(), table.causes.ravel().tolist()
    return Computed(identity(), values, causes, time.monotonic() - since)
