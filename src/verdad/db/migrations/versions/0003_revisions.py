"""Revisions say what was done."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("board_revisions", sa.Column("what", sa.Text, nullable=False, server_default=""))
    op.alter_column("board_revisions", "what", server_default=None)


def downgrade() -> None:
    op.drop_column("board_revisions", "what")
