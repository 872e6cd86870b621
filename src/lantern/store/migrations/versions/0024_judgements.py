"""Whose fault failures are."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0024"
down_revision = "0023"


def upgrade() -> None:
    now = sa.func.now()
    op.create_table(
        "judgements",
        sa.Column(
            "result_id",
            sa.Integer,
            sa.ForeignKey("results.id", ondelete="CASCADE"),
            primary_key=True,
            autoincrement=False,
        ),
        sa.Column("fingerprint", sa.String(16), nullable=False, index=True),
        sa.Column("verdict", sa.String(12), nullable=False),
        sa.Column("body", JSONB, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=now),
    )
    op.create_table(
        "corrections",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("fingerprint", sa.String(16), nullable=False),
        sa.Column("run_id", sa.Integer, sa.ForeignKey("runs.id", ondelete="SET NULL"), index=True),
        sa.Column(
            "plan_run_id",
            sa.Integer,
            sa.ForeignKey("plan_runs.id", ondelete="SET NULL"),
            index=True,
        ),
        sa.Column("verdict", sa.String(12), nullable=False),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("word", sa.String, nullable=False, server_default=""),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id"), index=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=now),
    )
    op.create_index("ix_corrections_fingerprint_id", "corrections", ["fingerprint", "id"])


def downgrade() -> None:
    op.drop_table("corrections")
    op.drop_table("judgements")
