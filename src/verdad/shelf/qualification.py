"""Qualifications kept: whether the newest one still speaks of the model as it is, and what it says."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy.orm import Session

from verdad.db.tables import ModelRow, QualificationRow
from verdad.shelf.store import model_of
from verdad_core.checks.keys import model_key
from verdad_core.errors import Finding
from verdad_core.qualification.bench import BENCH_VERSION, Measured, figure_types
from verdad_core.qualification.conditions import conditions_for
from verdad_core.qualification.datasheet import DataSheetLine
from verdad_core.qualification.figures import Card, Figure
from verdad_core.qualification.judgement import Judgement, Summary, judge_all, summary

FIGURES = TypeAdapter(list[Figure])
CARDS = TypeAdapter(list[Card])
FINDINGS = TypeAdapter(list[Finding])
_LINES = TypeAdapter(list[DataSheetLine])


def key_of(model: ModelRow) -> str:
    """The key of all that a bench's results depend on: the model, its kind, the conditions, the bench itself."""
    content = [BENCH_VERSION, model_key(model_of(model)), model.kind, conditions_for(model.kind, model.conditions)]
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()


def current(session: Session, model: ModelRow) -> QualificationRow | None:
    """The qualification that was made of the model as it is now, finished or not."""
    row = session.get(QualificationRow, model.id)
    return row if row is not None and row.key == key_of(model) else None


def keep(row: QualificationRow, measured: Measured) -> None:
    """Write what a bench has brought into its row."""
    row.figures = FIGURES.dump_python(list(measured.figures), mode="json")
    row.details = {
        "cards": CARDS.dump_python(list(measured.cards), mode="json"),
        "findings": FINDINGS.dump_python(list(measured.findings), mode="json"),
    }


def figures_of(row: QualificationRow) -> list[Figure]:
    return FIGURES.validate_python(row.figures)


def lines_of(model: ModelRow) -> list[DataSheetLine]:
    return _LINES.validate_python(model.data_sheet)


def judged(model: ModelRow, figures: Sequence[Figure]) -> tuple[Judgement, ...]:
    """The lines of a model's data sheet beside the bench's figures."""
    return judge_all(lines_of(model), figures, figure_types(model.kind))


def badge(model: ModelRow, qualification: QualificationRow | None) -> Summary:
    """The one-line badge, from a qualification that is current and has figures."""
    if qualification is None or not qualification.figures:
        return summary(None)
    return summary(judged(model, figures_of(qualification)))


def lines_as_json(lines: Sequence[DataSheetLine]) -> list[dict[str, Any]]:
    """Lines as they are kept."""
    return [line.model_dump(mode="json") for line in lines]
