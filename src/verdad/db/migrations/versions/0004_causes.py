"""Blocks of rows say why a row has no number."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column("run_blocks", sa.Column("causes", ARRAY(sa.SmallInteger), nullable=True))


def downgrade() -> None:
    op.drop_column("run_blocks", "causes")
