"""What the sheet asks for: what a typed line means, ready stages, netlists both ways, the electrical review."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field, StringConstraints
from sqlalchemy import select
from sqlalchemy.orm import Session

from verdad.api.context import InContext, InSession, circuit_of, load_board, load_models, models_used, released
from verdad.api.models import model_row
from verdad.api.problems import ProblemError, problems
from verdad.db.tables import ModelRow
from verdad.shelf.findings import model_findings
from verdad.shelf.store import Chosen as ShelfChosen
from verdad.shelf.store import Origin, model_of, rows_of, store
from verdad_core.checks.quantities import with_quantity
from verdad_core.document.board import Board, Circuit
from verdad_core.document.checks import Check
from verdad_core.document.fixtures import FixtureName
from verdad_core.document.parts import ModelReference, Part
from verdad_core.errors import Finding
from verdad_core.intake.bundle import MAX_NAME, bundle
from verdad_core.intake.reading import read_bundle
from verdad_core.intake.symbols import Symbol
from verdad_core.interchange.from_netlist import ShelfModel, from_netlist, placed_models
from verdad_core.interchange.to_netlist import to_netlist
from verdad_core.netlist.lines import MAX_TEXT
from verdad_core.netlist.titles import as_model_file, read_pasted
from verdad_core.placing.typed import Choice, ShelfEntry, read_typed
from verdad_core.schema import Designator, Name, Slug, Title, shown_title
from verdad_core.sheet.renamed import fixture_renamed, renamed
from verdad_core.sheet.review import Remark, review
from verdad_core.stages import STAGES, compute
from verdad_core.stages.bench import Bench, bench_of
from verdad_core.stages.stage import Chosen, Reached

router = APIRouter(prefix="/api", tags=["sheet"])


class GoalView(BaseModel):
    """A figure that a stage asks for."""

    symbol: str
    title: str
    unit: str
    default: str


class StageView(BaseModel):
    """A ready stage."""

    key: str
    title: str
    group: str
    purpose: str
    source: str
    goals: list[GoalView]


class StageGoals(BaseModel):
    """Goals as they were typed, and the model that takes the place of the generic op-amp."""

    goals: Annotated[dict[Name, Annotated[str, StringConstraints(max_length=32)]], Field(max_length=20)] = {}
    op_amp: Slug | None = None


class StageComputed(BaseModel):
    """A stage with its values: parts on nets of the stage's own, closed forms, and what they come to."""

    parts: list[Part]
    chosen: list[Chosen]
    reached: list[Reached]
    input: str
    output: str
    #: What stands around it on a blank sheet; none for a stage that is shown otherwise.
    bench: Bench | None


class Pasted(BaseModel):
    """A netlist, with other texts that it includes; the first one is drawn. Without a title it gives its own."""

    title: Title | None = None
    text: Annotated[str, StringConstraints(max_length=MAX_TEXT)]
    more: Annotated[
        dict[
            Annotated[str, StringConstraints(max_length=MAX_NAME)],
            Annotated[str, StringConstraints(max_length=MAX_TEXT)],
        ],
        Field(max_length=50),
    ] = {}


class PastedView(BaseModel):
    """The circuit of a netlist, not yet on the board; `names` says what is called otherwise now."""

    circuit: Circuit
    names: dict[str, str]
    findings: list[Finding]


class ReviewView(BaseModel):
    """The electrical review of a circuit, and what must be said of its models."""

    remarks: list[Remark]
    findings: list[Finding]


@router.get("/typed", responses=problems())
def typed(text: Annotated[str, StringConstraints(max_length=200), Query()], session: InSession) -> list[Choice]:
    """What can be placed by typing this."""
    return read_typed(text, _shelf(session))


class Renaming(BaseModel):
    """A part of a board that is to be called otherwise, or a fixture of the check that is named."""

    board: Board
    part: Designator | FixtureName
    check: Slug | None = None
    name: Annotated[str, StringConstraints(max_length=40)]


@router.post("/renamed", responses=problems())
def rename_part(renaming: Renaming) -> Board:
    """The board with the part, or a check's fixture, called so wherever something speaks of it; nothing is stored."""
    if renaming.check is not None:
        return fixture_renamed(renaming.board, renaming.check, renaming.part, renaming.name)
    return renamed(renaming.board, renaming.part, renaming.name)


class Turning(BaseModel):
    """Values of a check's quantities, by name, that are to be kept."""

    board: Board
    check: Slug
    values: Annotated[dict[str, Annotated[str, StringConstraints(max_length=32)]], Field(max_length=100)]


@router.post("/turned", responses=problems())
def turn(turning: Turning) -> Board:
    """The board with other values of quantities; nothing is stored."""
    board = turning.board
    for name, text in turning.values.items():
        board = with_quantity(board, turning.check, name, text)
    return board


@router.get("/stages")
def list_stages() -> list[StageView]:
    """All ready stages."""
    return [
        StageView(
            key=stage.key, title=stage.title, group=stage.group, purpose=stage.purpose, source=stage.source,
            goals=[GoalView(symbol=g.symbol, title=g.title, unit=g.unit, default=g.default) for g in stage.goals],
        )
        for stage in STAGES.values()
    ]  # fmt: skip


@router.post("/stages/{key}", responses=problems(404))
def compute_stage(key: str, wanted: StageGoals, session: InSession) -> StageComputed:
    """The values of a stage for these goals."""
    if key not in STAGES:
        raise ProblemError(404, "There is no such stage.", "Choose one from the list.")
    stage, reference, roles = STAGES[key], None, list[str]()
    if wanted.op_amp:
        row = model_row(session, wanted.op_amp)
        reference, roles = ModelReference(id=row.id, name=row.name), row.roles
        if missing := sorted({"in+", "in-", "out"} - set(roles)):
            raise ProblemError(422, f"{row.name} has no pin {missing[0]}.", "Choose a model of an op-amp.")
    computed = compute(stage, wanted.goals, reference, roles)
    return StageComputed(
        parts=list(computed.parts), chosen=list(computed.chosen), reached=list(computed.reached),
        input=stage.input, output=stage.output, bench=bench_of(stage, computed, wanted.goals),
    )  # fmt: skip


@router.post("/boards/{board_id}/pasted", responses=problems(404))
def paste(board_id: uuid.UUID, pasted: Pasted, session: InSession, context: InContext) -> PastedView:
    """Read a netlist as a circuit for this board. Models that it brings along go onto the shelf."""
    board = load_board(session, board_id)
    released(session)
    netlist = context.apart.read(read_pasted, pasted.text, pasted.more).require()
    title = pasted.title or shown_title(netlist.title) or "Pasted circuit"
    models: dict[str, ShelfModel] = {}
    if wanted := placed_models(netlist):
        files = {"pasted.cir": as_model_file(pasted.text, netlist), **pasted.more}
        texts, _ = bundle((name, text.encode()) for name, text in files.items())
        entries = [
            entry
            for entry in context.apart.read(read_bundle, texts).entries
            if entry.name in wanted and entry.problem is None
        ]
        rows = store(
            session, texts, Origin(f"pasted with {title}", "", datetime.now(UTC).date(), ""),
            [ShelfChosen(e.file, e.name, e.kind.kind, e.roles, e.description) for e in entries],
        )  # fmt: skip
        models = {row.name: ShelfModel(ModelReference(id=row.id, name=row.name), tuple(row.roles)) for row in rows}
    taken = {part.designator for circuit in board.circuits for part in circuit.parts}
    took = from_netlist(netlist, models, taken, _free_id(board), title)
    return PastedView(circuit=took.circuit, names=took.names, findings=list(took.findings))


@router.get("/boards/{board_id}/circuits/{circuit_id}/review", responses=problems(404))
def get_review(board_id: uuid.UUID, circuit_id: Slug, session: InSession, check: Slug | None = None) -> ReviewView:
    """What looks wrong in a circuit with one check's fixture around it."""
    board = load_board(session, board_id)
    circuit = circuit_of(board, circuit_id)
    rows = rows_of(session, models_used(circuit))
    models = {identifier: model_of(row) for identifier, row in rows.items()}
    kinds = {identifier: row.kind for identifier, row in rows.items()}
    remarks = review(circuit, _check(circuit, check), models, kinds)
    return ReviewView(remarks=remarks, findings=model_findings(session, circuit, frozenset(), rows))


@router.get("/boards/{board_id}/circuits/{circuit_id}/netlist", responses=problems(404), response_class=Response)
def get_netlist(board_id: uuid.UUID, circuit_id: Slug, session: InSession, check: Slug | None = None) -> Response:
    """A circuit as a netlist that stands alone; without a check, the board only."""
    board = load_board(session, board_id)
    circuit = circuit_of(board, circuit_id)
    return Response(
        to_netlist(circuit, load_models(session, board), _check(circuit, check)),
        media_type="text/plain; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{circuit.id}.cir"'},
    )


def _shelf(session: Session) -> list[ShelfEntry]:
    """The newest version of every model on the shelf."""
    newest: dict[str, ShelfEntry] = {}
    # Asked for with every letter that is typed: only what is shown, none of the models' texts.
    columns = (ModelRow.id, ModelRow.name, ModelRow.kind, ModelRow.roles, ModelRow.symbol, ModelRow.description)
    for identifier, name, kind, roles, symbol, description in session.execute(
        select(*columns).order_by(ModelRow.added_at)
    ):
        newest[name] = ShelfEntry(
            identifier, name, kind, tuple(roles), Symbol.model_validate(symbol), description
        )  # fmt: skip
    return list(newest.values())


def _check(circuit: Circuit, check_id: str | None) -> Check | None:
    if check_id is None:
        return None
    found = next((check for check in circuit.checks if check.id == check_id), None)
    if found is None:
        raise ProblemError(404, "There is no such check of this circuit.")
    return found


def _free_id(board: Board) -> str:
    used = {circuit.id for circuit in board.circuits}
    number = len(used) + 1
    while f"circuit-{number}" in used:
        number += 1
    return f"circuit-{number}"
