"""Bundles, models with versions, and qualifications take the place of single model files."""

import hashlib
import json
import re
from datetime import date

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"

_when = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "model_bundles",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("sha256", sa.Text, nullable=False, unique=True),
        sa.Column("files", JSONB, nullable=False),
        sa.Column("source", sa.Text, nullable=False),
        sa.Column("link", sa.Text, nullable=False),
        sa.Column("obtained_on", sa.Date, nullable=False),
        sa.Column("obtained_by", sa.Text, nullable=False),
        sa.Column("terms", sa.Text, nullable=False),
        sa.Column("added_at", _when, nullable=False),
    )
    op.create_table(
        "models",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column(
            "bundle_id", sa.Text, sa.ForeignKey("model_bundles.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("file", sa.Text, nullable=False),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("kind", sa.Text, nullable=False),
        sa.Column("description", sa.Text, nullable=False),
        sa.Column("roles", JSONB, nullable=False),
        sa.Column("symbol", JSONB, nullable=False),
        sa.Column("data_sheet", JSONB, nullable=False),
        sa.Column("conditions", JSONB, nullable=False),
        sa.Column("supersedes", sa.Text, sa.ForeignKey("models.id", ondelete="SET NULL"), nullable=True),
        sa.Column("added_at", _when, nullable=False),
    )
    op.create_table(
        "qualifications",
        sa.Column("model_id", sa.Text, sa.ForeignKey("models.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("key", sa.Text, nullable=False),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("done", sa.Integer, nullable=False),
        sa.Column("experiments", sa.Integer, nullable=False),
        sa.Column("doing", sa.Text, nullable=False),
        sa.Column("message", sa.Text, nullable=False),
        sa.Column("figures", JSONB, nullable=False),
        sa.Column("details", JSONB, nullable=False),
        sa.Column("started_at", _when, nullable=False),
        sa.Column("finished_at", _when, nullable=True),
    )
    _move_model_files()
    op.drop_table("model_files")


def downgrade() -> None:
    raise NotImplementedError("models with versions do not fit into single model files")


def _move_model_files() -> None:
    """Each subcircuit that had roles becomes a model of a bundle of one file; boards name the model instead."""
    connection = op.get_bind()
    models: dict[tuple[str, str], str] = {}
    for file in connection.execute(sa.text("select * from model_files")).mappings().all():
        digest = _digest(file["name"], file["text"])
        connection.execute(
            sa.text(
                "insert into model_bundles values (:id, :sha, :files, :source, :link, :on, '', '', :added)"
            ).bindparams(sa.bindparam("files", type_=JSONB)),
            {
                "id": file["id"], "sha": digest, "source": file["source"], "link": file["link"],
                "files": [{"name": file["name"], "text": file["text"], "encoding": "UTF-8"}],
                "on": file["added_at"].date() if file["added_at"] else date.min, "added": file["added_at"],
            },
        )  # fmt: skip
        for name, roles in file["roles"].items():
            slug = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "model"
            models[file["id"], name] = identifier = f"{slug}-{digest[:8]}"
            amplifier = set(roles) == {"in+", "in-", "v+", "v-", "out"}
            sides = {"in+": "left", "in-": "left", "out": "right", "v+": "top", "v-": "bottom"}
            symbol = {
                "shape": "amplifier" if amplifier else "box",
                "pins": [{"role": role, "label": role[:24], "side": sides.get(role, "left")} for role in roles],
            }
            connection.execute(
                sa.text(
                    "insert into models values (:id, :bundle, :file, :name, :kind, '', :roles, :symbol, :sheet, "
                    ":conditions, null, :added)"
                ).bindparams(*(sa.bindparam(n, type_=JSONB) for n in ("roles", "symbol", "sheet", "conditions"))),
                {
                    "id": identifier, "bundle": file["id"], "file": file["name"], "name": name,
                    "kind": "op-amp" if amplifier else "other", "roles": roles, "symbol": symbol, "sheet": [],
                    "conditions": {}, "added": file["added_at"],
                },
            )  # fmt: skip
    for table, key in (("boards", "id"), ("board_revisions", "board_id, revision")):
        for row in connection.execute(sa.text(f"select {key}, document from {table}")).mappings().all():
            document = _renamed(row["document"], models)
            names = key.split(", ")
            condition = " and ".join(f"{name} = :{name}" for name in names)
            connection.execute(
                sa.text(f"update {table} set document = :document where {condition}").bindparams(
                    sa.bindparam("document", type_=JSONB)
                ),
                {"document": document, **{name: row[name] for name in names}},
            )
    # Inputs of unfinished runs hold models in the old form.
    connection.execute(
        sa.text(
            "update runs set state = 'failed', message = 'Verdad was brought up to date; start the run again.' "
            "where state in ('queued', 'running')"
        )
    )


def _digest(name: str, text: str) -> str:
    digest = hashlib.sha256()
    for part in (name.lower(), text):
        digest.update(hashlib.sha256(part.encode()).digest())
    return digest.hexdigest()


def _renamed(document: dict, models: dict[tuple[str, str], str]) -> dict:  # type: ignore[type-arg]
    changed = json.loads(json.dumps(document))
    for circuit in changed["circuits"]:
        for part in circuit["parts"]:
            if part["kind"] == "modelled":
                old = part["model"]
                identifier = models.get((old["file"], old["subcircuit"]), "missing")
                part["model"] = {"id": identifier, "name": old["subcircuit"]}
    return changed
