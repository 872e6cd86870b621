"""Schedules of plans, and what came of their times."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0018"
down_revision = "0017"
NOW = sa.text("clock_timestamp()")


def _of(name: str, table: str, gone: str, *, null: bool = False) -> sa.Column[int]:
    key = sa.ForeignKey(f"{table}.id", ondelete=gone)
    return sa.Column(name, sa.Integer, key, nullable=null, index=True)


def upgrade() -> None:
    op.create_table(
        "schedules",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        _of("plan_id", "plans", "CASCADE"),
        sa.Column("body", JSONB, nullable=False),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
        sa.Column("next_at", sa.DateTime(timezone=True), index=True),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id"), index=True),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=NOW),
    )
    op.create_table(
        "schedule_events",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        _of("plan_id", "plans", "CASCADE"),
        _of("schedule_id", "schedules", "SET NULL", null=True),
        _of("plan_run_id", "plan_runs", "SET NULL", null=True),
        sa.Column("due", sa.DateTime(timezone=True), nullable=False, index=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=NOW),
        sa.Column("trouble", sa.Text, nullable=False, server_default=""),
    )
    op.create_index("ix_plan_runs_queued_at", "plan_runs", ["queued_at"])


def downgrade() -> None:
    op.drop_index("ix_plan_runs_queued_at")
    op.drop_table("schedule_events")
    op.drop_table("schedules")
