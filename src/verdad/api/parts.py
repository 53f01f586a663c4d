"""Parts that need no maker's model: generic devices and blocks, grades of passives, preferred values."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, StringConstraints

from verdad.api.problems import problems
from verdad_core.handcalc.series import SERIES, Preferred, nearest
from verdad_core.intake.generic import GENERIC_PARTS, GenericPart
from verdad_core.spreads.grades import GRADES
from verdad_core.units import parse_value

router = APIRouter(prefix="/api/parts", tags=["parts"])


class GradeView(BaseModel):
    """A grade of a passive part; `letter` is that of its tolerance (IEC 60062)."""

    key: str
    kind: str
    title: str
    tolerance: float
    letter: str
    tempco: float
    drift: float
    series: str


class PartsView(BaseModel):
    """What can be placed without a maker's model."""

    generic: list[GenericPart]
    grades: list[GradeView]
    series: list[str]


@router.get("")
def list_parts() -> PartsView:
    """All generic parts and grades."""
    grades = [
        GradeView(
            key=grade.key, kind=grade.kind, title=grade.title, tolerance=grade.tolerance, letter=grade.letter,
            tempco=grade.tempco, drift=grade.drift, series=grade.series,
        )
        for grade in GRADES
    ]  # fmt: skip
    return PartsView(generic=list(GENERIC_PARTS.values()), grades=grades, series=list(SERIES))


@router.get("/preferred", responses=problems())
def preferred(
    wanted: Annotated[str, StringConstraints(max_length=32), Query()],
    series: Annotated[str, StringConstraints(max_length=8), Query()],
) -> Preferred:
    """The preferred value nearest to a wanted one, such as 4k9 in E24."""
    return nearest(parse_value(wanted), series)
