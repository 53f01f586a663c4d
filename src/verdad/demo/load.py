"""Loading the demo into an empty database."""

from __future__ import annotations

from datetime import date

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from verdad.catalogue.listings import listings
from verdad.db.tables import BoardRow, RevisionRow
from verdad.demo.board import MODEL, MODEL_SOURCE, demo_board
from verdad.shelf.qualification import lines_as_json
from verdad.shelf.store import Chosen, Origin, store
from verdad_core.intake.bundle import bundle
from verdad_core.intake.reading import read_bundle
from verdad_core.qualification.bench import figure_types
from verdad_core.qualification.datasheet import read_csv


def load_demo(session: Session) -> bool:
    """Store the demo board and its model, unless there is a board already. Whether it was stored."""
    if session.scalar(select(func.count()).select_from(BoardRow)):
        return False
    listing = listings()[MODEL]
    files, _ = bundle(listing.files.items())
    entry = read_bundle(files, experiment=False).entry(listing.model)
    assert entry is not None
    sheet = read_csv(listing.data_sheet, figure_types(listing.kind))
    origin = Origin(MODEL_SOURCE, "", date.fromisoformat(listing.released), "")
    [model] = store(
        session, files, origin,
        [Chosen(entry.file, entry.name, listing.kind, entry.roles, entry.description, lines_as_json(sheet.lines))],
    )  # fmt: skip
    board = BoardRow(document=demo_board(model.id).model_dump(mode="json"))
    session.add(board)
    session.flush()
    session.add(RevisionRow(board_id=board.id, revision=board.revision, document=board.document, what="demo loaded"))
    return True
