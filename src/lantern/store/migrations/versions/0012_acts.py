"""What one person did at once, so that it can be taken back; versions of elements."""

from __future__ import annotations

from datetime import datetime

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0012"
down_revision = "0011"

NOW = sa.func.clock_timestamp()


def _at() -> sa.Column[datetime]:
    return sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=NOW)


def upgrade() -> None:
    op.create_table(
        "acts",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("place", sa.Integer, sa.ForeignKey("tests.id", ondelete="CASCADE")),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id"), index=True),
        sa.Column("summary", sa.Text, nullable=False),
        _at(),
        sa.Column("undoes", sa.Integer, sa.ForeignKey("acts.id", ondelete="SET NULL"), index=True),
        sa.Column("fold", sa.String(80), nullable=False, server_default=""),
        sa.Column("key", sa.String(40), unique=True),
        sa.Column("number", sa.Integer),  # until the versions know their acts
    )
    op.create_index("ix_acts_place_account", "acts", ["place", "account_id", "id"])
    op.create_table(
        "element_versions",
        sa.Column("element_id", sa.String(32), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("body", JSONB),
        sa.Column("summary", sa.Text, nullable=False),
        sa.Column("author_id", sa.Integer, sa.ForeignKey("accounts.id")),
        sa.Column("act_id", sa.Integer, sa.ForeignKey("acts.id", ondelete="SET NULL"), index=True),
        _at(),
    )
    op.add_column(
        "versions",
        sa.Column("act_id", sa.Integer, sa.ForeignKey("acts.id", ondelete="SET NULL"), index=True),
    )
    op.execute(
        "INSERT INTO acts (place, account_id, summary, at, number)"
        " SELECT test_id, author_id, summary, at, number FROM versions"
        " WHERE number > 1 ORDER BY at, number"
    )
    op.execute(
        "UPDATE versions SET act_id = acts.id FROM acts"
        " WHERE acts.place = versions.test_id AND acts.number = versions.number"
    )
    op.drop_column("acts", "number")
    for name in ("undo_to", "redo_to"):
        op.drop_column("versions", name)


def downgrade() -> None:
    for name in ("undo_to", "redo_to"):
        op.add_column("versions", sa.Column(name, sa.Integer))
    op.execute("UPDATE versions SET undo_to = number - 1 WHERE number > 1")
    op.drop_column("versions", "act_id")
    op.drop_table("element_versions")
    op.drop_table("acts")
