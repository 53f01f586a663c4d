"""Boards to files and back: with their models, which find their places on the shelf again."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from verdad.db.tables import ModelRow
from verdad.shelf.qualification import lines_as_json, lines_of
from verdad.shelf.store import Chosen, Origin, rows_of, store
from verdad_core.document.board import Board
from verdad_core.document.parts import Modelled
from verdad_core.intake.symbols import Symbol
from verdad_core.interchange.board_file import BoardFile, Bundled, ShelvedModel, TextFile


def file_of(session: Session, board: Board) -> BoardFile:
    """The file of a board: its models that are on the shelf go along."""
    used = {part.model.id for circuit in board.circuits for part in circuit.parts if isinstance(part, Modelled)}
    rows = sorted(rows_of(session, used).values(), key=lambda row: row.id)
    bundles = {
        row.bundle.id: Bundled(
            id=row.bundle.id, files=tuple(TextFile(**file) for file in row.bundle.files), source=row.bundle.source,
            link=row.bundle.link, obtained_on=row.bundle.obtained_on, obtained_by=row.bundle.obtained_by,
        )
        for row in rows
    }  # fmt: skip
    return BoardFile(board=board, bundles=tuple(bundles.values()), models=tuple(map(_shelved, rows)))


def _shelved(row: ModelRow) -> ShelvedModel:
    return ShelvedModel(
        id=row.id, bundle=row.bundle.id, file=row.file, name=row.name, kind=row.kind, roles=tuple(row.roles),
        description=row.description, symbol=Symbol.model_validate(row.symbol), data_sheet=tuple(lines_of(row)),
        conditions=dict(row.conditions),
    )  # fmt: skip


def taken_in(session: Session, file: BoardFile) -> Board:
    """The board of a file, its models on the shelf: those that are there stay as they are.

    Baselines name revisions of the board where it came from, and stay behind.
    """
    bundles = {each.id: each for each in file.bundles}
    named: dict[str, str] = {}
    for model in file.models:
        own = bundles[model.bundle]
        origin = Origin(own.source or "a board's file", own.link, own.obtained_on, own.obtained_by)
        chosen = Chosen(
            model.file, model.name, model.kind, model.roles, model.description, lines_as_json(model.data_sheet),
            model.conditions, model.symbol,
        )  # fmt: skip
        [row] = store(session, own.bundle, origin, [chosen])
        named[model.id] = row.id
    document = file.board.model_dump(mode="json") | {"baselines": []}
    for circuit in document["circuits"]:
        circuit["parts"] = [_renamed(part, named) for part in circuit["parts"]]
    return Board.model_validate(document)


def _renamed(part: dict[str, Any], named: Mapping[str, str]) -> dict[str, Any]:
    """A part with what its model is called on this shelf."""
    model = part.get("model")
    if not isinstance(model, dict) or model["id"] not in named:
        return part
    return part | {"model": model | {"id": named[model["id"]]}}
