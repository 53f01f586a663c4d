"""Comparing: the same check with another part in a place, or on the board as it once was."""

from __future__ import annotations

import math
import uuid
from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter
from pydantic import BaseModel, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from verdad.api.checks import CheckTrial, CheckView, board_with, view_of
from verdad.api.context import Context, InContext, InSession, models_used, released
from verdad.api.presence import Gone
from verdad.api.problems import ProblemError, problems
from verdad.db.tables import ModelRow, RevisionRow
from verdad.shelf.qualification import lines_of
from verdad.shelf.store import model_of, rows_of
from verdad_core.checks.compensation import compensated, ways_for
from verdad_core.checks.feedback import amplifiers
from verdad_core.checks.keys import check_key, digest
from verdad_core.checks.kind import kind_of
from verdad_core.checks.variants import amplifier_parts, from_figures, idealised, with_model
from verdad_core.document.board import Board, Circuit
from verdad_core.document.checks import Check
from verdad_core.document.parts import Modelled, ModelReference
from verdad_core.errors import BoardError, Severity, VerdadError
from verdad_core.schema import Designator, Slug
from verdad_core.studies.table import Column
from verdad_core.studies.verdict import State, judge

router = APIRouter(prefix="/api/boards/{board_id}/checks", tags=["checks"])


class Variant(BaseModel):
    """What is compared with the board as it is: a part as ideal or from its data sheet's figures, another model in its
    place, a way to give the loop that a check opens more margin, or a revision of the board.
    """

    how: Literal["ideal", "figures", "model", "compensation", "revision"]
    part: Designator | None = None
    model: Slug | None = None
    way: Slug | None = None
    check: Slug | None = None
    revision: int | None = None


class VariantEntry(BaseModel):
    """Something that can be compared, in words, and what it belongs to; `hint` says more of it."""

    group: str
    title: str
    hint: str = ""
    variant: Variant


class Asked(BaseModel):
    variants: Annotated[list[Variant], Field(max_length=12)]


class ComparedView(BaseModel):
    """A check's result on a variant, and what it says of the limits on its measurements; or why there is none.

    `said` is what was put into the circuit, where that was found by trying.
    """

    result: CheckView | None
    said: str = ""
    states: dict[str, State] = {}
    problem: str = ""


@router.get("/{check_id}/variants", responses=problems(404))
def get_variants(board_id: uuid.UUID, check_id: str, session: InSession) -> list[VariantEntry]:
    """What a check can be compared with."""
    board = board_with(session, board_id, check_id)
    circuit, check = board.check(check_id)
    earlier = [(each.title, Variant(how="revision", revision=each.revision)) for each in board.baselines]
    kept = [VariantEntry(group="Baselines", title=title, variant=variant) for title, variant in earlier]
    rows = rows_of(session, {part.model.id for part in circuit.parts if isinstance(part, Modelled)})
    others: list[VariantEntry] = []
    ideal = {part.designator for part in amplifier_parts(circuit)}
    for part in circuit.parts:
        name = part.designator
        if name in ideal:
            others.append(VariantEntry(group=name, title="ideal amplifier", variant=Variant(how="ideal", part=name)))
        if not isinstance(part, Modelled) or part.units > 1 or (row := rows.get(part.model.id)) is None:
            continue
        if amplifiers(part) and any(line.figure == "gain_bandwidth" for line in lines_of(row)):
            entry = Variant(how="figures", part=name)
            others.append(VariantEntry(group=name, title="its data sheet's figures only", variant=entry))
        alike = session.scalars(select(ModelRow).where(ModelRow.kind == row.kind).order_by(ModelRow.name))
        others += [
            VariantEntry(group=name, title=other.name.upper(), variant=Variant(how="model", part=name, model=other.id))
            for other in alike
            if other.id != row.id and set(part.pins) >= {"in+", "in-", "out"} & set(other.roles)
        ]
    return [*kept, *others, *_more_margin(circuit, check)]


def _more_margin(circuit: Circuit, check: Check) -> list[VariantEntry]:
    """The ways to give the loop that a check opens more margin."""
    loop = kind_of(check).loop
    return [
        VariantEntry(
            group="More margin", title=way.title, hint=way.meaning,
            variant=Variant(how="compensation", way=way.key, check=check.id),
        )
        for way in (ways_for(circuit, loop[0]) if loop else [])
    ]  # fmt: skip


@router.post("/{check_id}/compared", responses=problems(404, 409))
def compare(
    board_id: uuid.UUID, check_id: str, asked: Asked, session: InSession, context: InContext, gone: Gone
) -> list[ComparedView]:
    """Run a check on each variant; nothing is saved."""
    board = board_with(session, board_id, check_id)
    found = []
    for variant in asked.variants:
        try:
            other, said = _varied(context, session, board_id, board, check_id, variant)
            view = view_of(context, session, other, check_id, CheckTrial(), gone)
        except VerdadError as error:
            found.append(ComparedView(result=None, problem=f"{error.message}. {error.remedy}".strip()))
            continue
        found.append(ComparedView(result=view, said=said, states=_states(board, check_id, view)))
    return found


class Taking(BaseModel):
    """A variant that is to stand on a board, and the check that it was compared in."""

    board: Board
    variant: Variant


@router.post("/{check_id}/taken", responses=problems(404))
def take_variant(
    board_id: uuid.UUID, check_id: str, taking: Taking, session: InSession, context: InContext
) -> Board:  # fmt: skip
    """The board with a variant in it; nothing is stored."""
    if all(check.id != check_id for _, check in taking.board.checks()):
        raise ProblemError(404, "There is no such check on this board.")
    return _varied(context, session, board_id, taking.board, check_id, taking.variant)[0]


def _varied(
    context: Context, session: Session, board_id: uuid.UUID, board: Board, check_id: str, variant: Variant
) -> tuple[Board, str]:  # fmt: skip
    """The board with a variant in it, and what that is in words where it had to be found."""
    if variant.how != "compensation":
        return _known(session, board_id, board, board.check(check_id)[0], variant), ""
    opens = variant.check or check_id
    circuit, check = board.check(opens)
    around, wanted = kind_of(check).loop or ("", 0.0)
    models = {key: model_of(row) for key, row in rows_of(session, models_used(circuit)).items()}
    released(session)
    # It is a change of the whole board: what stands elsewhere on it goes along.
    key = digest([board.model_dump(mode="json"), check_key(board, opens, models), variant.way])
    found = context.mended.get(key) or context.mended.keep(
        key, compensated(board, opens, around, wanted, variant.way or "", models)
    )
    return found.board, found.words


def _known(session: Session, board_id: uuid.UUID, board: Board, circuit: Circuit, variant: Variant) -> Board:
    if variant.how == "revision":
        row = session.get(RevisionRow, (board_id, variant.revision)) if 0 < (variant.revision or 0) < 2**31 else None
        if row is None:
            raise BoardError("that revision of the board is not kept here", remedy="Keep another baseline.")
        return Board.model_validate(row.document)
    name = variant.part or ""
    if variant.how == "ideal":
        return idealised(board, circuit, name)
    part = circuit.part(name)
    if variant.how == "figures":
        own = rows_of(session, [part.model.id] if isinstance(part, Modelled) else [])
        lines = [line for row in own.values() for line in lines_of(row)]
        return from_figures(board, circuit, name, lines)
    model = rows_of(session, [variant.model or ""]).get(variant.model or "")
    if model is None:
        raise BoardError("that model is not on the shelf any more", remedy="Choose another one.")
    return with_model(board, circuit, name, ModelReference(id=model.id, name=model.name), model.roles)


def _states(board: Board, check_id: str, view: CheckView) -> dict[str, State]:
    """What the numbers say of the limits that the board holds now; those of an unstable circuit prove nothing."""
    evidence = not any(finding.severity is Severity.ERROR for finding in view.findings)
    states = {}
    for measured in view.measured:
        for limit in board.limits:
            if (limit.check, limit.measurement) == (check_id, measured.id):
                value = math.nan if measured.value is None else measured.value
                cell = judge(limit, Column.of(np.array([value])), board.thin_margin)
                states[measured.id] = cell.state if evidence else State.UNPROVEN
    return states
