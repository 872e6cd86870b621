"""Webhooks, and the log of what was sent to them."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0020"
down_revision = "0019"
NOW = sa.text("clock_timestamp()")


def upgrade() -> None:
    op.create_table(
        "hooks",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("address", sa.String(500), nullable=False),
        sa.Column("events", JSONB, nullable=False),
        sa.Column("plan_id", sa.Integer, sa.ForeignKey("plans.id", ondelete="CASCADE"), index=True),
        sa.Column("sealed", sa.LargeBinary, nullable=False),
        sa.Column("enabled", sa.Boolean, nullable=False, server_default="true"),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=NOW),
    )
    op.create_table(
        "deliveries",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "hook_id",
            sa.Integer,
            sa.ForeignKey("hooks.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column(
            "plan_run_id",
            sa.Integer,
            sa.ForeignKey("plan_runs.id", ondelete="SET NULL"),
            index=True,
        ),
        sa.Column("event", sa.String(10), nullable=False),
        sa.Column("body", JSONB, nullable=False),
        sa.Column("state", sa.String(10), nullable=False, server_default="waiting"),
        sa.Column("tries", sa.Integer, nullable=False, server_default="0"),
        sa.Column("next_at", sa.DateTime(timezone=True), index=True),
        sa.Column("said", sa.Text, nullable=False, server_default=""),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=NOW),
        sa.Column("done_at", sa.DateTime(timezone=True)),
    )


def downgrade() -> None:
    op.drop_table("deliveries")
    op.drop_table("hooks")
