"""What a worker does: one block of a run's rows, from inputs that are plain JSON."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from verdad.runs.cluster import identity
from verdad_core.checks.elaborate import Models
from verdad_core.checks.prepared import Look
from verdad_core.document.board import Board
from verdad_core.document.studies import Study
from verdad_core.intake.bundle import Bundle, ModelText
from verdad_core.intake.model import Model
from verdad_core.studies.rows import Rows
from verdad_core.studies.table import NOTHING, Found

Inputs = dict[str, Any]


def pack(board: Board, study: Study, models: Models) -> Inputs:
    """Everything a run needs, as JSON."""
    return {
        "board": board.model_dump(mode="json"),
        "study": study.id,
        "models": {key: pack_model(model) for key, model in models.items()},
    }


def unpack(inputs: Mapping[str, Any]) -> tuple[Board, Study, Models]:
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
class Task:
    """Rows of one check whose columns are wanted, by their keys."""

    rows_key: str
    check: str
    columns: tuple[str, ...]


@dataclass(frozen=True)
class Computed:
    """A block: who computed it (cluster.py), values and causes of its rows by column, and the seconds it took."""

    version: str
    values: dict[str, list[float]]
    causes: dict[str, list[int]]
    seconds: float


#: What a worker keeps ready between blocks: the checks that it ran last.
_READY: dict[Task, Rows] = {}
_MOST_READY = 4


def _rows(inputs: Inputs, task: Task) -> Rows:
    ready = _READY.pop(task, None)
    if ready is None:
        board, study, models = unpack(inputs)
        ready = Rows(board, study, task.check, models, task.columns)
    _READY[task] = ready
    while len(_READY) > _MOST_READY:
        del _READY[next(iter(_READY))]
    return ready


def compute_block(
    inputs: Inputs, task: Task, start: int, stop: int, look: Look = lambda _: None, found: Found = NOTHING
) -> Computed:
    """Rows start..stop-1 of a task, after what was `found` before; `look` is called as they go on, and what it raises
    ends them.
    """
    since = time.monotonic()
    rows = _rows(inputs, task)
    table = rows.table(start, stop, look, found)
    keys = list(rows.measurements)
    return Computed(
        identity(),
        {key: table.values[:, k].tolist() for k, key in enumerate(keys)},
        {key: table.causes[:, k].tolist() for k, key in enumerate(keys)},
        time.monotonic() - since,
    )
