"""Loading the demo into an empty database."""

from __future__ import annotations

import hashlib

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from verdad.db.tables import BoardRow, ModelFileRow, RevisionRow
from verdad.demo.board import MODEL_NAME, MODEL_SOURCE, demo_board, model_text
from verdad_core.intake.reading import read_models


def load_demo(session: Session) -> bool:
    """Store the demo board and its model, unless there is a board already. Whether it was stored."""
    if session.scalar(select(func.count()).select_from(BoardRow)):
        return False
    text = model_text()
    digest = hashlib.sha256(text.encode()).hexdigest()
    model = session.scalar(select(ModelFileRow).where(ModelFileRow.sha256 == digest))
    if model is None:
        roles = {
            subcircuit.name: [str(pin.role) for pin in subcircuit.pins] for subcircuit in read_models(text).subcircuits
        }
        model = ModelFileRow(
            id=f"ovenna-ovn4183-{digest[:8]}",
            name=MODEL_NAME,
            sha256=digest,
            text=text,
            source=MODEL_SOURCE,
            roles=roles,
        )
        session.add(model)
    board = BoardRow(document=demo_board(model.id).model_dump(mode="json"))
    session.add(board)
    session.flush()
    session.add(RevisionRow(board_id=board.id, revision=board.revision, document=board.document))
    return True
