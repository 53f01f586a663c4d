"""Keeping bundles and models: a bundle once, a model whole, a new version beside the old one."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from datetime import date
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from verdad.db.tables import BundleRow, ModelRow
from verdad_core.intake.bundle import Bundle, ModelText
from verdad_core.intake.model import Model
from verdad_core.intake.symbols import Symbol
from verdad_core.intake.terms import terms_of_use


@dataclass(frozen=True)
class Origin:
    """Where a bundle came from: in words, a link, when and by whom it was obtained."""

    source: str
    link: str
    obtained_on: date
    obtained_by: str


@dataclass(frozen=True)
class Chosen:
    """What of a bundle goes onto the shelf, and what is known of it."""

    file: str
    name: str
    kind: str
    roles: Sequence[str]
    description: str = ""
    data_sheet: Sequence[dict[str, Any]] = field(default=())
    conditions: Mapping[str, float] = field(default_factory=dict)
    #: How it is drawn, where that was adjusted.
    symbol: Symbol | None = None


def store(session: Session, bundle: Bundle, origin: Origin, chosen: Iterable[Chosen]) -> list[ModelRow]:
    """Keep a bundle, or find it again, and put models of it onto the shelf; those that are there stay as they are."""
    row = session.scalar(select(BundleRow).where(BundleRow.sha256 == bundle.digest))
    if row is None:
        terms = "\n\n".join(dict.fromkeys(filter(None, (terms_of_use(file.text) for file in bundle.files))))
        row = BundleRow(
            id=f"{_slug(bundle.files[0].name)}-{bundle.digest[:8]}",
            sha256=bundle.digest,
            files=[asdict(file) for file in bundle.files],
            terms=terms,
            **asdict(origin),
        )
        session.add(row)
    models = []
    for item in chosen:
        identifier = identifier_of(bundle, item.name)
        model = session.get(ModelRow, identifier)
        if model is None:
            symbol = item.symbol or Model(bundle, item.file, item.name, tuple(item.roles)).symbol(item.kind)
            before = newest(session, item.name)
            model = ModelRow(
                id=identifier, bundle=row, file=item.file, name=item.name, kind=item.kind, roles=list(item.roles),
                description=item.description, symbol=symbol.model_dump(mode="json"),
                data_sheet=list(item.data_sheet), conditions=dict(item.conditions),
                supersedes=before.id if before else None,
            )  # fmt: skip
            session.add(model)
            session.flush()
        models.append(model)
    return models


def identifier_of(bundle: Bundle, name: str) -> str:
    """What a model of a bundle is called in boards and addresses: the same one, the same name."""
    return f"{_slug(name)}-{bundle.digest[:8]}"


def newest(session: Session, name: str) -> ModelRow | None:
    """The newest model of a name, whatever its case."""
    return session.scalars(
        select(ModelRow).where(ModelRow.name == name.lower()).order_by(ModelRow.added_at.desc(), ModelRow.id).limit(1)
    ).first()


def model_of(row: ModelRow) -> Model:
    """The core's model of a row."""
    return Model(bundle_of(row.bundle), row.file, row.name, tuple(row.roles))


def bundle_of(row: BundleRow) -> Bundle:
    """The core's bundle of a row."""
    return Bundle(tuple(ModelText(**file) for file in row.files))


def load(session: Session, identifiers: Iterable[str]) -> dict[str, Model]:
    """Models by identifier; one that is not there is simply missing."""
    return {identifier: model_of(row) for identifier, row in rows_of(session, identifiers).items()}


def rows_of(session: Session, identifiers: Iterable[str]) -> dict[str, ModelRow]:
    """Rows by identifier; one that is not there is simply missing."""
    wanted = set(identifiers)
    found = session.scalars(select(ModelRow).where(ModelRow.id.in_(wanted))) if wanted else ()
    return {row.id: row for row in found}


def _slug(name: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "model"
