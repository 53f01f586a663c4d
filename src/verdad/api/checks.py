"""Running a check as drawn, or with some of its values turned. Equal contents are answered from memory."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Response
from pydantic import BaseModel, Field, StringConstraints
from sqlalchemy.orm import Session

from verdad.api.computing import compiler_for, nominal
from verdad.api.context import Context, InContext, InSession, load_board, load_models, models_used, released
from verdad.api.numbers import Number
from verdad.api.presence import Gone
from verdad.api.problems import ProblemError, problems
from verdad.shelf.findings import model_findings
from verdad.shelf.store import model_of, rows_of
from verdad_core.arrays import Values
from verdad_core.checks.at_rest import AtRest, at_rest
from verdad_core.checks.cards import cards_of
from verdad_core.checks.compiled import Compiler
from verdad_core.checks.elaborate import Models
from verdad_core.checks.hand import Hand
from verdad_core.checks.keys import shape_key
from verdad_core.checks.kind import kind_of
from verdad_core.checks.quantities import quantities, with_quantity
from verdad_core.checks.run import CheckResult, Measured
from verdad_core.checks.signals import Names, Needed, Share
from verdad_core.checks.stability import Mode
from verdad_core.document.board import Board
from verdad_core.document.cards import CheckCard
from verdad_core.errors import ConvergenceError, Finding, MeasurementError
from verdad_core.measure.expressions import LONGEST, read_expression
from verdad_core.measure.thinning import thinned_indices
from verdad_core.measure.trace import Axis, Trace
from verdad_core.schema import Name

router = APIRouter(prefix="/api/boards/{board_id}/checks", tags=["checks"])

#: Points of a curve that a card shows; a card at full size asks for more.
CARD_POINTS = 1500
#: What a window's tries are called behind its name.
TRIAL = "trial"


class HandView(BaseModel):
    """The hand value beside a measurement; `deviation` is the simulated value's distance from it in per cent.

    `rendered` is the formula as MathML; where the deviation is `doubtful`, `slips` say what would make the formula fit.
    """

    formula: str
    rendered: str
    source: str
    value: Number
    deviation: Number
    doubtful: bool
    slips: list[str]

    @classmethod
    def of(cls, hand: Hand) -> HandView:
        return cls(**{**asdict(hand), "slips": list(hand.slips)})


class MeasuredView(BaseModel):
    """One measurement; `value` is null when the trace does not hold it, and `said` how it was taken where not plain."""

    id: str
    title: str
    unit: str
    value: Number
    hand: HandView | None
    said: str = ""

    @classmethod
    def of(cls, measured: Measured) -> MeasuredView:
        hand = HandView.of(measured.hand) if measured.hand else None
        return cls(
            id=measured.id,
            title=measured.title,
            unit=measured.unit,
            value=measured.value,
            hand=hand,
            said=measured.said,
        )


class AxisView(BaseModel):
    """What curves run along."""

    title: str
    unit: str
    logarithmic: bool


class CurveView(BaseModel):
    """An expression's values: `x` and `y` [N], of phasors `y` real and `imaginary`; or `number` where it is just one.

    Where it could not be computed, `problem` says why and `column` where in the expression.
    """

    expression: str
    unit: str = ""
    axis: AxisView | None = None
    x: list[float] = []
    y: list[Number] = []
    imaginary: list[Number] | None = None
    number: Number = None
    problem: str = ""
    column: int | None = None


class StandingView(BaseModel):
    """What is said of a part at rest; `grave` where it bears more than it may."""

    part: str
    words: str
    why: str
    grave: bool


class AtRestView(BaseModel):
    """Volts by net, amperes into pins ("R1.1") and fixtures, watts taken by parts."""

    voltages: dict[str, float]
    currents: dict[str, float]
    powers: dict[str, float]
    standings: list[StandingView]

    @classmethod
    def of(cls, rest: AtRest) -> AtRestView:
        standings = [StandingView(part=s.part, words=s.words, why=s.why, grave=s.grave) for s in rest.standings]
        return cls(
            voltages=dict(rest.voltages), currents=dict(rest.currents), powers=dict(rest.powers), standings=standings
        )


class CheckView(BaseModel):
    """A check's results. `scale` says over which range it ran, where that was chosen from the circuit.

    `cards` are the check's own or the usual ones; `curves` those that they show and that were asked for besides, and
    `traces` what more can be looked at by a name of its own;
    `shares` what adds to the check's output, where that is known; `modes` the natural frequencies, the least damped
    first.
    """

    key: str
    solved_by: str
    scale: str
    at_rest: AtRestView
    cards: list[CheckCard]
    curves: list[CurveView]
    traces: list[str] = []
    measured: list[MeasuredView]
    findings: list[Finding]
    shares: list[Share] = []
    #: What the numbers mean, in one sentence.
    sentence: str = ""
    modes: list[Mode] = []


ExpressionText = Annotated[str, StringConstraints(max_length=LONGEST)]


class CheckTrial(BaseModel):
    """Values that are turned for a try, by the names of their quantities, and what to show besides the cards.

    With `by`, a later trial by the same window overtakes this one.
    """

    values: Annotated[dict[Name, Annotated[str, StringConstraints(max_length=32)]], Field(max_length=20)] = {}
    expressions: Annotated[list[ExpressionText], Field(max_length=200)] = []
    points: Annotated[int, Field(ge=100, le=20_000)] = CARD_POINTS
    by: Annotated[str, StringConstraints(max_length=64)] = ""


class QuantityView(BaseModel):
    """A quantity that can be turned: its name, its text, the number that it says, and whether it is swept at rest."""

    name: str
    text: str
    value: float
    unit: str
    swept: bool


class Progress(BaseModel):
    """How much of a window's run is done, from 0 to 1 and null where there is none, and how many wait before it."""

    done: float | None
    ahead: int = 0


@router.get("/{check_id}", responses=problems(404, 409))
def get_check(
    board_id: uuid.UUID, check_id: str, session: InSession, context: InContext, gone: Gone, by: str = ""
) -> CheckView:  # fmt: skip
    """Run a check on the board as it is now. 409 where a later run of the same window overtook it."""
    return view_of(context, session, board_with(session, board_id, check_id), check_id, CheckTrial(by=by[:64]), gone)


@router.post("/{check_id}/trial", responses=problems(404, 409))
def try_check(
    board_id: uuid.UUID, check_id: str, trial: CheckTrial, session: InSession, context: InContext, gone: Gone
) -> CheckView:
    """Run a check with some values turned, and show more of it; nothing is saved."""
    board = board_with(session, board_id, check_id)
    for name, text in trial.values.items():
        board = with_quantity(board, check_id, name, text)
    # A try and the check as drawn are two purposes of one window: neither overtakes the other.
    named = trial.model_copy(update={"by": trial.by and f"{trial.by} {TRIAL}"})
    return view_of(context, session, board, check_id, named, gone)


@router.get("/{check_id}/quantities", responses=problems(404))
def get_quantities(board_id: uuid.UUID, check_id: str, session: InSession) -> list[QuantityView]:
    """All that can be turned in a check."""
    board = board_with(session, board_id, check_id)
    found = quantities(*board.check(check_id), load_models(session, board))
    return [QuantityView(name=q.name, text=q.text, value=q.value, unit=q.unit, swept=q.swept) for q in found]


@router.get("/{check_id}/progress")
def get_progress(board_id: uuid.UUID, check_id: str, by: str, context: InContext) -> Progress:
    """How far a window's run is."""
    run = context.runs.of(by)
    return Progress(done=None) if run is None else Progress(done=run.done, ahead=run.ahead)


@router.delete("/{check_id}/progress", status_code=204)
def stop_run(board_id: uuid.UUID, check_id: str, by: str, context: InContext) -> Response:
    """End a window's run; it answers with what it has."""
    context.runs.stop(by)
    context.runs.stop(f"{by} {TRIAL}")
    return Response(status_code=204)


def board_with(session: Session, board_id: uuid.UUID, check_id: str) -> Board:
    """A board that has a check. Raises ProblemError 404."""
    board = load_board(session, board_id)
    if all(check.id != check_id for _, check in board.checks()):
        raise ProblemError(404, "There is no such check on this board.")
    return board


def view_of(
    context: Context, session: Session, board: Board, check_id: str, trial: CheckTrial, gone: Callable[[], bool]
) -> CheckView:
    """A check's results on a board that need not be stored. Raises a VerdadError, and ProblemError 409."""
    circuit, check = board.check(check_id)
    rows = rows_of(session, models_used(circuit))
    models = {identifier: model_of(row) for identifier, row in rows.items()}
    kinds = {identifier: row.kind for identifier, row in rows.items()}
    cards = cards_of(circuit, check)
    expressions = dict.fromkeys([*(curve.expression for card in cards for curve in card.curves), *trial.expressions])
    needed = Needed.by(expressions, circuit, Names.of(circuit, check))
    compiler = compiler_for(context, shape_key(circuit, check, models))
    released(session)
    key, result = nominal(context, board, check_id, models, needed.pins, trial.by, compiler, gone)
    # What is said of parts depends on what they may bear and are, which no number does.
    ratings = tuple((part.designator, part.rating) for part in circuit.parts if part.rating)
    rest_key = (key, ratings, tuple(sorted(kinds.items())))
    resting = context.rests.get(rest_key) or context.rests.keep(
        rest_key, _at_rest(board, check_id, models, kinds, result.nodes, compiler)
    )
    rest = resting if isinstance(resting, AtRest) else AtRest({}, {}, {}, ())
    findings = [*result.findings, *([resting] if isinstance(resting, Finding) else [])]
    return CheckView(
        key=key,
        solved_by=result.path.title,
        scale=result.scale,
        at_rest=AtRestView.of(rest),
        cards=list(cards),
        curves=list(_curves(result, expressions, trial.points)),
        traces=list(result.signals.others) if result.signals else [],
        measured=[MeasuredView.of(measured) for measured in result.measured],
        shares=list(result.signals.shares) if result.signals else [],
        sentence=result.sentence,
        modes=list(result.modes),
        findings=[*findings, *model_findings(session, circuit, kind_of(check).relies_on, rows)],
    )


def _at_rest(
    board: Board, check_id: str, models: Models, kinds: dict[str, str], near: Mapping[str, float], compiler: Compiler
) -> AtRest | Finding:
    """The circuit at rest; a circuit that has none can still run in time."""
    circuit, check = board.check(check_id)
    try:
        return at_rest(circuit, check, models, kinds, near, compiler)
    except ConvergenceError as error:
        return Finding.of(error)


def _curves(result: CheckResult, expressions: Iterable[str], points: int) -> Iterable[CurveView]:
    for text in expressions:
        try:
            if result.signals is None:
                raise MeasurementError("there is no result to look at")
            trace = result.signals.evaluate(read_expression(text))
        except MeasurementError as error:
            problem = f"{error.message}. {error.remedy}".strip()
            yield CurveView(expression=text, problem=problem, column=error.place.column)
            continue
        yield curve_view(text, trace, points)


def curve_view(text: str, trace: Trace, points: int) -> CurveView:
    if trace.axis is None:
        value = complex(trace.values)
        return CurveView(expression=text, unit=trace.unit.name, number=abs(value) if value.imag else value.real)
    axis: Axis = trace.axis
    keep = thinned_indices(axis.values, trace.values, points)
    values = trace.values[keep]
    return CurveView(
        expression=text,
        unit=trace.unit.name,
        axis=AxisView(title=axis.title, unit=axis.unit.name, logarithmic=axis.logarithmic),
        x=axis.values[keep].tolist(),
        y=_plain(values.real),
        imaginary=_plain(values.imag) if trace.is_complex else None,
    )


def _plain(values: Values) -> list[float | None]:
    """Numbers; None where there is none."""
    plain: list[float | None] = np.asarray(values, float).tolist()
    return plain if np.all(np.isfinite(values)) else [v if v is not None and np.isfinite(v) else None for v in plain]
