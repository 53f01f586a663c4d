"""Asking: what a circuit can be asked, fresh checks and studies, and what a source would do."""

from __future__ import annotations

import uuid
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from verdad.api.checks import CARD_POINTS, CurveView, curve_view
from verdad.api.context import InSession, circuit_of, load_board, load_models, models_used
from verdad.api.problems import problems
from verdad.shelf.qualification import lines_of
from verdad.shelf.store import rows_of
from verdad_core.checks.fresh import fresh_check, of_kind, questions
from verdad_core.checks.preview import waveform_trace
from verdad_core.document.board import Board
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import Source
from verdad_core.document.studies import Study
from verdad_core.schema import Slug, Title
from verdad_core.studies.fresh import fresh_study
from verdad_core.studies.variations import usual_amount, variable

router = APIRouter(prefix="/api", tags=["asking"])


class QuestionView(BaseModel):
    """A question that fits the circuit as it is drawn, or what is missing for it."""

    kind: str
    #: Its number among those of its kind.
    which: int
    title: str
    question: str
    missing: str


class FreshCheck(BaseModel):
    """A check to be made on a board: of which kind, with the fixture of which check, or in place of it."""

    board: Board
    circuit: Slug
    kind: Title
    check: Slug | None = None
    instead: bool = False
    which: Annotated[int, Field(ge=0, le=99)] = 0


@router.get("/boards/{board_id}/circuits/{circuit_id}/questions", responses=problems(404))
def get_questions(
    board_id: uuid.UUID, circuit_id: Slug, session: InSession, check: Slug | None = None
) -> list[QuestionView]:
    """What the circuit can be asked with the fixture of a check around it."""
    circuit = circuit_of(load_board(session, board_id), circuit_id)
    like = next((each for each in circuit.checks if each.id == check), None)
    return [
        QuestionView(
            kind=each.kind.key(), which=each.which, title=each.kind.title, question=each.words, missing=each.missing
        )
        for each in questions(circuit, like)
    ]


class VariableView(BaseModel):
    """A quantity that can have a spread besides the values of parts, and the circuit that it is found in.

    `amount` is what its spread begins with.
    """

    name: str
    text: str
    unit: str
    circuit: str
    amount: str


@router.get("/boards/{board_id}/variable", responses=problems(404))
def get_variable(board_id: uuid.UUID, session: InSession) -> list[VariableView]:
    """What of fixtures and models can vary on the board."""
    board = load_board(session, board_id)
    used = {model for circuit in board.circuits for model in models_used(circuit)}
    sheets = {model: lines_of(row) for model, row in rows_of(session, used).items()}
    return [
        VariableView(
            name=q.name, text=q.text, unit=q.unit, circuit=circuit.title, amount=usual_amount(circuit, q, sheets)
        )
        for circuit, q in variable(board, load_models(session, board))
    ]


@router.post("/fresh-check", responses=problems())
def make_check(fresh: FreshCheck) -> Check:
    """A check of a kind, with its settings proposed for the circuit; nothing is saved."""
    circuit = fresh.board.circuit(fresh.circuit)
    like = None if fresh.check is None else fresh.board.check(fresh.check)[1]
    if fresh.instead and like is not None:
        return of_kind(circuit, like, fresh.kind)
    return fresh_check(fresh.board, circuit, fresh.kind, like, fresh.which)


class FreshStudy(BaseModel):
    """A study to be made on a board: of which kind, of which check."""

    board: Board
    kind: Title
    check: Slug


@router.post("/fresh-study", responses=problems())
def make_study(fresh: FreshStudy) -> Study:
    """A study of a kind, with its settings proposed for a check; nothing is saved."""
    fresh.board.check(fresh.check)
    return fresh_study(fresh.board, fresh.kind, fresh.check)


@router.post("/waveform", responses=problems())
def show_waveform(source: Source) -> CurveView:
    """What a source does in time."""
    trace = waveform_trace(source)
    return CurveView(expression=source.name) if trace is None else curve_view(source.name, trace, CARD_POINTS)
