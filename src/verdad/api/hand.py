"""Working a measurement out by hand: what a formula comes to while it is being typed, and what it can name."""

from __future__ import annotations

import math
import uuid

from fastapi import APIRouter
from pydantic import BaseModel

from verdad.api.checks import HandView, board_with
from verdad.api.computing import compiler_for, nominal
from verdad.api.context import InContext, InSession, load_models, released
from verdad.api.numbers import Number
from verdad.api.presence import Gone
from verdad.api.problems import problems
from verdad_core.checks.hand import FormulaName, formula_names, hand_value
from verdad_core.checks.keys import shape_key
from verdad_core.checks.measured_unit import unit_of_measurement
from verdad_core.checks.run import measure
from verdad_core.checks.signals import Names, Needed
from verdad_core.document.measurements import Measurement
from verdad_core.errors import MeasurementError
from verdad_core.measure.expressions import LONGEST

router = APIRouter(prefix="/api/boards/{board_id}/checks", tags=["checks"])


class FormulaDraft(BaseModel):
    """A formula as far as it is typed, for a measurement that need not be stored."""

    formula: str
    measurement: Measurement


class FormulaView(BaseModel):
    """What a formula comes to, and the simulated number in the same unit; or why not, and at which column.

    `names` are what it can name.
    """

    unit: str
    simulated: Number
    hand: HandView | None
    problem: str = ""
    column: int | None = None
    names: list[FormulaName]


@router.post("/{check_id}/formula", responses=problems(404, 409))
def try_formula(
    board_id: uuid.UUID, check_id: str, draft: FormulaDraft, session: InSession, context: InContext, gone: Gone
) -> FormulaView:
    """Work a formula out beside what is simulated; nothing is saved."""
    board = board_with(session, board_id, check_id)
    circuit, check = board.check(check_id)
    models, measurement = load_models(session, board), draft.measurement
    needed = Needed.by([measurement.of], circuit, Names.of(circuit, check))
    compiler = compiler_for(context, shape_key(circuit, check, models))
    released(session)
    _, result = nominal(context, board, check_id, models, needed.pins, "", compiler, gone)
    simulated, unit = math.nan, unit_of_measurement(circuit, check, measurement)
    try:
        if result.signals is not None:
            simulated, unit = measure(measurement, result.signals)
    except MeasurementError:
        pass  # It is said where the measurement stands.
    others = {each.title: (each.value, each.unit) for each in result.measured if each.id != measurement.id}
    view = FormulaView(
        unit=unit, simulated=simulated, hand=None, names=formula_names(circuit, check, models, others)
    )  # fmt: skip
    try:
        found = hand_value(circuit, check, models, draft.formula[: LONGEST + 1], "", unit, simulated, others)
    except MeasurementError as error:
        problem = f"{error.message}. {error.remedy}".strip()
        return view.model_copy(update={"problem": problem, "column": error.place.column})
    return view.model_copy(update={"hand": HandView.of(found)})
