"""What a worker does: one block of a run's rows, from inputs that are plain JSON."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from verdad_core.board.document import Board, MonteCarlo
from verdad_core.board.elaborate import ModelFile, ModelFiles
from verdad_core.board.run import run_rows

Inputs = dict[str, Any]


def pack(board: Board, study: MonteCarlo, models: ModelFiles) -> Inputs:
    """Everything a run needs, as JSON."""
    return {
        "board": board.model_dump(mode="json"),
        "study": study.id,
        "models": {
            key: {"name": file.name, "text": file.text, "roles": {k: list(v) for k, v in file.roles.items()}}
            for key, file in models.items()
        },
    }


def unpack(inputs: Mapping[str, Any]) -> tuple[Board, MonteCarlo, ModelFiles]:
    """The opposite of `pack`."""
    board = Board.model_validate(inputs["board"])
    models = {
        key: ModelFile(file["name"], file["text"], {k: tuple(v) for k, v in file["roles"].items()})
        for key, file in inputs["models"].items()
    }
    return board, board.study(inputs["study"]), models


def compute_block(inputs: Inputs, start: int, stop: int) -> list[float]:
    """The measurements of rows start..stop-1, row by row; NaN where a row gave none."""
    board, study, models = unpack(inputs)
    values: list[float] = run_rows(board, study, models, start, stop).ravel().tolist()
    return values
