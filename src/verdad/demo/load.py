"""Loading the demo into an empty database."""

from __future__ import annotations

from datetime import date

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from verdad.catalogue.listings import listings
from verdad.db.tables import BoardRow, RevisionRow
from verdad.demo.board import FAST, MODEL, MODEL_SOURCE, demo_board
from verdad.shelf.qualification import lines_as_json
from verdad.shelf.store import Chosen, Origin, store
from verdad_core.document.board import Board
from verdad_core.intake.bundle import bundle
from verdad_core.intake.reading import read_bundle
from verdad_core.qualification.bench import figure_types
from verdad_core.qualification.datasheet import read_csv


def load_demo(session: Session) -> bool:
    """Store the demo board and its models, unless there is a board already. Whether it was stored."""
    if session.scalar(select(func.count()).select_from(BoardRow)):
        return False
    keep(session, demo_board(on_shelf(session, MODEL), on_shelf(session, FAST)))
    return True


def keep(session: Session, board: Board) -> None:
    """Store a board as its first revision."""
    row = BoardRow(document=board.model_dump(mode="json"))
    session.add(row)
    session.flush()
    session.add(RevisionRow(board_id=row.id, revision=row.revision, document=row.document, what="demo loaded"))


def on_shelf(session: Session, slug: str) -> str:
    """Put a model of the catalogue onto the shelf; its identifier there."""
    listing = listings()[slug]
    files, _ = bundle(listing.files.items())
    entry = read_bundle(files, experiment=False).entry(listing.model)
    assert entry is not None
    sheet = read_csv(listing.data_sheet, figure_types(listing.kind))
    origin = Origin(MODEL_SOURCE, "", date.fromisoformat(listing.released), "")
    [model] = store(
        session, files, origin,
        [Chosen(entry.file, entry.name, listing.kind, entry.roles, entry.description, lines_as_json(sheet.lines))],
    )  # fmt: skip
    return model.id
