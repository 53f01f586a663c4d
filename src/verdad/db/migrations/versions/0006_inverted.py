"""The symbols of PNP and P-channel models say by themselves that these stand upside down."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"

_SHAPES = "('bipolar', 'jfet', 'mosfet')"


def upgrade() -> None:
    # Until now the words of their description told.
    op.execute(
        sa.text(
            "UPDATE models SET symbol = jsonb_set(symbol::jsonb, '{shape}', to_jsonb((symbol->>'shape') || '-p'))"
            f" WHERE symbol->>'shape' IN {_SHAPES} AND description ~* '\\m(pnp|p-channel)\\M'"
        )
    )


def downgrade() -> None:
    op.execute(
        sa.text(
            "UPDATE models SET symbol ="
            " jsonb_set(symbol::jsonb, '{shape}', to_jsonb(regexp_replace(symbol->>'shape', '-p$', '')))"
            " WHERE symbol->>'shape' LIKE '%-p'"
        )
    )
