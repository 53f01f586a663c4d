"""Measured responses: taken from files or the virtual analyser to lie over a check; S-parameters handed out."""

from __future__ import annotations

import uuid
from typing import Annotated

from fastapi import APIRouter, Response, UploadFile
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from verdad.api.checks import board_with
from verdad.api.computing import nominal
from verdad.api.context import Context, InContext, InSession, models_used, released
from verdad.api.presence import Gone
from verdad.api.problems import problems
from verdad.shelf.store import model_of, rows_of
from verdad_core.checks.analyser import as_measured, network_of
from verdad_core.checks.overlaid import with_overlay, without_overlay
from verdad_core.document.board import Board
from verdad_core.document.checks import Check
from verdad_core.errors import BoardError, Finding
from verdad_core.intake.touchstone import NetworkData, write_touchstone
from verdad_core.interchange.measured import overlay_of, read_measured

router = APIRouter(prefix="/api/boards/{board_id}/checks/{check_id}", tags=["checks"])


class OverlaidView(BaseModel):
    """The check with a measured response over it, and what was done to the file; nothing is stored."""

    check: Check
    findings: list[Finding]


class Analyser(BaseModel):
    """The instrument: trace noise in dB of the full wave, and the length of its connectors in metres."""

    noise: Annotated[float, Field(ge=-200.0, le=0.0)] = -90.0
    length: Annotated[float, Field(ge=0.0, le=10.0)] = 0.0


@router.post("/overlays", responses=problems(404))
def take_measured(
    board_id: uuid.UUID, check_id: str, file: UploadFile, session: InSession, context: InContext
) -> OverlaidView:
    """Read a Touchstone file, or a table of frequencies with gain and phase, to lie over a check."""
    circuit, check = board_with(session, board_id, check_id).check(check_id)
    released(session)
    found = context.apart.read(read_measured, file.filename or "measured", file.file.read(), check)
    return OverlaidView(check=with_overlay(circuit, check, found.overlay), findings=list(found.findings))


@router.post("/analyser", responses=problems(404))
def measure(
    board_id: uuid.UUID, check_id: str, analyser: Analyser, session: InSession, context: InContext, gone: Gone
) -> OverlaidView:
    """Sweep the ports of a check with the virtual analyser, and lay what it shows over the check."""
    board = board_with(session, board_id, check_id)
    circuit, check = board.check(check_id)
    network = as_measured(_network(context, session, board, check_id, gone), analyser.noise, analyser.length)
    return OverlaidView(check=with_overlay(circuit, check, overlay_of("analyser", network, check)), findings=[])


@router.get("/overlays/{name}/without", responses=problems(404))
def take_away(board_id: uuid.UUID, check_id: str, name: str, session: InSession) -> Check:
    """The check without a measured response and its curves; nothing is stored."""
    return without_overlay(board_with(session, board_id, check_id).check(check_id)[1], name)


@router.get(
    "/touchstone", response_class=Response, responses=problems(404) | {200: {"content": {"text/plain": {}}}}
)  # fmt: skip
def get_touchstone(board_id: uuid.UUID, check_id: str, session: InSession, context: InContext, gone: Gone) -> Response:
    """The S-parameters between the ports of a check as drawn: a Touchstone file, 1.1 where all ports are alike."""
    board = board_with(session, board_id, check_id)
    network = _network(context, session, board, check_id, gone)
    text = write_touchstone(network, f"{board.title}: {board.check(check_id)[1].title}")
    name = f"{check_id}.s{network.ports}p"
    return Response(text, media_type="text/plain", headers={"Content-Disposition": f'attachment; filename="{name}"'})


def _network(context: Context, session: Session, board: Board, check_id: str, gone: Gone) -> NetworkData:
    circuit, check = board.check(check_id)
    models = {key: model_of(row) for key, row in rows_of(session, models_used(circuit)).items()}
    released(session)
    result = nominal(context, board, check_id, models, gone=gone)[1]
    if result.signals is None or result.objection is not None:
        why = result.objection.message if result.objection is not None else "it has no result"
        raise BoardError(f"its S-parameters are no evidence: {why}", remedy="Mend the circuit first.")
    return network_of(check, result.signals)
