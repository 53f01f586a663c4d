"""What a circuit's check must say of the models it rests on: their versions and their qualification."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from verdad.db.tables import ModelRow
from verdad.shelf.qualification import current, figures_of, judged
from verdad_core.board.document import Circuit
from verdad_core.board.parts import Modelled
from verdad_core.errors import Finding, Place, Severity
from verdad_core.qualification.bench import BENCHES, figure_types
from verdad_core.qualification.reliance import warnings


def model_findings(session: Session, circuit: Circuit, analysis: str) -> list[Finding]:
    """A note for each part whose model has a newer version or is not qualified, warnings where it lets a check down."""
    found = []
    for part in circuit.parts:
        if not isinstance(part, Modelled) or (model := session.get(ModelRow, part.model.id)) is None:
            continue
        place = Place(part=part.designator)
        if session.scalar(select(ModelRow.id).where(ModelRow.supersedes == model.id).limit(1)) is not None:
            found.append(
                Finding(
                    Severity.NOTE, f"{part.designator}: a newer version of {model.name.upper()} is on the shelf", place,
                    "Look at the difference under Models, then choose which one the board uses.",
                )
            )  # fmt: skip
        qualification = current(session, model)
        if qualification is None or not qualification.figures:
            if model.kind in BENCHES:
                found.append(
                    Finding(
                        Severity.NOTE, f"{part.designator}: its model {model.name.upper()} is not qualified", place,
                        "Put it on the bench under Models.",
                    )
                )  # fmt: skip
            continue
        figures = figures_of(qualification)
        found += warnings(analysis, part.designator, figures, judged(model, figures), figure_types(model.kind))
    return found
