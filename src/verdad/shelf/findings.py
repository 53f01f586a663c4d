"""What a circuit's check must say of the models it rests on: their versions and their qualification."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from verdad.db.tables import ModelRow, QualificationRow
from verdad.shelf.qualification import figures_of, judged, key_of
from verdad_core.document.board import Circuit
from verdad_core.document.parts import Modelled
from verdad_core.errors import Finding, Place, Severity
from verdad_core.qualification.bench import BENCHES, figure_types
from verdad_core.qualification.figures import Figure
from verdad_core.qualification.judgement import Judgement
from verdad_core.qualification.reliance import warnings


def model_findings(
    session: Session, circuit: Circuit, relied: frozenset[str], models: Mapping[str, ModelRow]
) -> list[Finding]:
    """Notes on models with newer versions, one on all that are not qualified, warnings where one lets a check down.

    `relied` are figures that the check rests on, `models` those on the shelf that the circuit uses.
    """
    parts = [part for part in circuit.parts if isinstance(part, Modelled)]
    used = {part.model.id for part in parts} & models.keys()
    if not used:
        return []
    replaced = set(session.scalars(select(ModelRow.supersedes).where(ModelRow.supersedes.in_(used))))
    rows = session.scalars(select(QualificationRow).where(QualificationRow.model_id.in_(used)))
    known = {row.model_id: row for row in rows}
    said = {id_: _Said.of(models[id_], known.get(id_)) for id_ in used}
    found: list[Finding] = []
    open_models: dict[str, list[str]] = {}
    for part in parts:
        if (model := models.get(part.model.id)) is None:
            continue
        place = Place(part=part.designator)
        if model.id in replaced:
            found.append(
                Finding(
                    Severity.NOTE, f"{part.designator}: a newer version of {model.name.upper()} is on the shelf", place,
                    "Look at the difference under Models, then choose which one the board uses.",
                )
            )  # fmt: skip
        figures, judgements = said[model.id].figures, said[model.id].judgements
        if not figures:
            if model.kind in BENCHES:
                open_models.setdefault(model.name.upper(), []).append(part.designator)
            continue
        found += warnings(relied, part.designator, figures, judgements, figure_types(model.kind))
    return [*found, *_not_qualified(open_models)]


def _not_qualified(models: Mapping[str, Sequence[str]]) -> Iterator[Finding]:
    """One note for all models without a place on the bench; `models` has the parts that use each."""
    if not models:
        return
    names = [name for parts in models.values() for name in parts]
    if len(names) == 1:
        message, remedy = f"{names[0]}: its model {next(iter(models))} is not qualified", "Put it on the bench"
    else:
        each = "; ".join(f"{model} of {', '.join(parts)}" for model, parts in models.items())
        message, remedy = f"models that are not qualified: {each}", "Put each on the bench"
    yield Finding(Severity.NOTE, message, Place(part=names[0]), f"{remedy} under Models.")


@dataclass(frozen=True)
class _Said:
    """What the bench says of a model as it is now, beside its data sheet; nothing where it was not there."""

    figures: list[Figure]
    judgements: tuple[Judgement, ...]

    @classmethod
    def of(cls, model: ModelRow, row: QualificationRow | None) -> _Said:
        if row is None or not row.figures or row.key != key_of(model):
            return cls([], ())
        figures = figures_of(row)
        return cls(figures, judged(model, figures))
