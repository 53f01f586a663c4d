"""Evidence belongs to what it depends on; what earlier runs have found stays readable with them.

Boards are rewritten as the present version writes them when they are saved. The rows of earlier runs get a key of their
own: they were computed before evidence had keys by content, so they count as out of date.
"""

import hashlib
import json
import math
from datetime import UTC, datetime

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0005"
down_revision = "0004"

#: What the place or level of a measurement is called since the second version of the document.
_AT = {"value": "place", "crossing": "level", "settling_time": "band"}
#: A number, and not measured.
_NUMBER, _NOT_MEASURED = 0, 3


def _column(measurement: dict) -> str:  # type: ignore[type-arg]
    """The key of a column as it is when this was written."""
    at, name = measurement.get("at"), _AT.get(measurement["key"])
    settings = {name: at} if at is not None and name else {}
    content = [measurement["key"], measurement.get("of", "response"), settings]
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()


def upgrade() -> None:
    op.create_table(
        "evidence",
        sa.Column("rows_key", sa.Text, primary_key=True),
        sa.Column("column_key", sa.Text, primary_key=True),
        sa.Column("start", sa.Integer, primary_key=True),
        sa.Column("stop", sa.Integer, nullable=False),
        sa.Column("values", ARRAY(sa.Float), nullable=False),
        sa.Column("causes", ARRAY(sa.SmallInteger), nullable=False),
        sa.Column("computed_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.add_column("runs", sa.Column("row_keys", JSONB, nullable=False, server_default="{}"))
    connection = op.get_bind()
    for run, inputs in connection.execute(sa.text("select id, inputs from runs")).all():
        if "board" not in inputs:
            continue
        study = next(each for each in inputs["board"]["studies"] if each["id"] == inputs["study"])
        checks = [check for circuit in inputs["board"]["circuits"] for check in circuit["checks"]]
        check = next(each for each in checks if each["id"] == study["check"])
        columns = [_column(measurement) for measurement in check["measurements"]]
        key = f"before-{run}"
        blocks = connection.execute(
            sa.text("select start, stop, values, causes from run_blocks where run_id = :run"), {"run": run}
        )
        for start, stop, values, causes in blocks.all():
            for k, column in enumerate(columns):
                own = values[k :: len(columns)]
                told = (
                    causes[k :: len(columns)] if causes else [_NOT_MEASURED if math.isnan(v) else _NUMBER for v in own]
                )
                connection.execute(
                    sa.text("insert into evidence values (:key, :column, :start, :stop, :values, :causes, :now) "
                            "on conflict do nothing"),
                    {"key": key, "column": column, "start": start, "stop": stop, "values": own, "causes": told,
                     "now": datetime.now(UTC)},
                )  # fmt: skip
        connection.execute(
            sa.text("update runs set row_keys = cast(:keys as jsonb) where id = :run"),
            {"keys": json.dumps({study["check"]: key}), "run": run},
        )
    op.drop_table("run_blocks")
    op.drop_column("runs", "rows")
    op.alter_column("runs", "row_keys", server_default=None)


def downgrade() -> None:
    raise NotImplementedError("evidence by contents cannot be given back to runs")
