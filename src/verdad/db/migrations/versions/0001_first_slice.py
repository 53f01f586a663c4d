"""Boards with revisions, model files, runs with blocks."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None

_when = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "boards",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("created_at", _when, nullable=False),
        sa.Column("updated_at", _when, nullable=False),
    )
    op.create_table(
        "board_revisions",
        sa.Column("board_id", sa.Uuid, sa.ForeignKey("boards.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("revision", sa.Integer, primary_key=True),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("created_at", _when, nullable=False),
    )
    op.create_table(
        "model_files",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("sha256", sa.Text, nullable=False, unique=True),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("source", sa.Text, nullable=False),
        sa.Column("link", sa.Text, nullable=False),
        sa.Column("roles", JSONB, nullable=False),
        sa.Column("added_at", _when, nullable=False),
    )
    op.create_table(
        "runs",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("board_id", sa.Uuid, sa.ForeignKey("boards.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("study", sa.Text, nullable=False),
        sa.Column("key", sa.Text, nullable=False, index=True),
        sa.Column("inputs", JSONB, nullable=False),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("rows", sa.Integer, nullable=False),
        sa.Column("message", sa.Text, nullable=False),
        sa.Column("started_at", _when, nullable=False),
        sa.Column("finished_at", _when, nullable=True),
    )
    op.create_table(
        "run_blocks",
        sa.Column("run_id", sa.Uuid, sa.ForeignKey("runs.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("start", sa.Integer, primary_key=True),
        sa.Column("stop", sa.Integer, nullable=False),
        sa.Column("values", sa.ARRAY(sa.Float), nullable=False),
    )


def downgrade() -> None:
    for table in ("run_blocks", "runs", "model_files", "board_revisions", "boards"):
        op.drop_table(table)
