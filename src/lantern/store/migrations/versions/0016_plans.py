"""Plans with their versions and runs, how they share the stations, failures that are retried."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from lantern.core.plans.sharing import TRIES_AHEAD, TRIES_WEIGHT

revision = "0016"
down_revision = "0015"
NOW = sa.text("clock_timestamp()")


def _key() -> sa.Column[int]:
    return sa.Column("id", sa.Integer, sa.Identity(), primary_key=True)


def _of(name: str, table: str, gone: str) -> sa.Column[int]:
    return sa.Column(name, sa.Integer, sa.ForeignKey(f"{table}.id", ondelete=gone))


def _at(name: str) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=False, server_default=NOW)


def _text(name: str) -> sa.Column[str]:
    return sa.Column(name, sa.Text, nullable=False, server_default="")


def upgrade() -> None:
    shares = op.create_table(
        "shares",
        _key(),
        sa.Column("weight", sa.Integer, nullable=False, server_default="1"),
        sa.Column("ahead", sa.Float, nullable=False, server_default="0"),
        sa.Column("boost", sa.Integer, nullable=False, server_default="0"),
        sa.Column("tag", sa.Float, nullable=False, server_default="0"),
        sa.Column("served", sa.Float, nullable=False, server_default="0"),
        sa.Column("tries", sa.Boolean, nullable=False, server_default="false"),
    )
    op.bulk_insert(shares, [{"weight": TRIES_WEIGHT, "ahead": TRIES_AHEAD, "tries": True}])
    op.create_table(
        "plans",
        _key(),
        sa.Column("name", sa.String(200), nullable=False, unique=True),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
        sa.Column("body", JSONB, nullable=False),
        sa.Column("created_by", sa.Integer, sa.ForeignKey("accounts.id")),
        _at("created_at"),
        _at("changed_at"),
    )
    op.create_table(
        "plan_versions",
        sa.Column(
            "plan_id", sa.Integer, sa.ForeignKey("plans.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("body", JSONB, nullable=False),
        _text("summary"),
        sa.Column("author_id", sa.Integer, sa.ForeignKey("accounts.id")),
        _at("at"),
    )
    op.create_table(
        "plan_runs",
        _key(),
        _of("plan_id", "plans", "SET NULL"),
        sa.Column("plan_name", sa.String(200), nullable=False),
        sa.Column("plan_version", sa.Integer, nullable=False),
        sa.Column("body", JSONB, nullable=False),
        sa.Column("state", sa.String(20), nullable=False, server_default="queued"),
        _text("message"),
        _text("stopped"),
        sa.Column("cancel_asked", sa.Boolean, nullable=False, server_default="false"),
        sa.Column("seed", sa.String(40), nullable=False, server_default=""),
        sa.Column("cause", sa.String(40), nullable=False, server_default="a person"),
        sa.Column("expected", JSONB, nullable=False, server_default="{}"),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id")),
        _of("share_id", "shares", "SET NULL"),
        _of("again_of", "plan_runs", "SET NULL"),
        _at("queued_at"),
        sa.Column("started_at", sa.DateTime(timezone=True)),
        sa.Column("ended_at", sa.DateTime(timezone=True)),
        sa.Column("deadline", sa.DateTime(timezone=True)),
    )
    op.create_index("ix_plan_runs_plan_id_id", "plan_runs", ["plan_id", "id"])
    op.create_index("ix_plan_runs_state", "plan_runs", ["state"])
    for name in ("account_id", "share_id", "again_of"):
        op.create_index(f"ix_plan_runs_{name}", "plan_runs", [name])
    op.create_index("ix_plans_created_by", "plans", ["created_by"])
    op.create_index("ix_plan_versions_author_id", "plan_versions", ["author_id"])
    for column in (
        _of("plan_run_id", "plan_runs", "SET NULL"),
        sa.Column("phase", sa.String(10), nullable=False, server_default="main"),
        sa.Column("place", sa.Integer, nullable=False, server_default="0"),
        sa.Column("retries", sa.Integer, nullable=False, server_default="0"),
        sa.Column("fragile", sa.Boolean, nullable=False, server_default="false"),
        _of("share_id", "shares", "SET NULL"),
    ):
        op.add_column("runs", column)
    op.create_index("ix_runs_plan_run_id", "runs", ["plan_run_id"])
    op.create_index("ix_runs_share_id", "runs", ["share_id"])
    op.add_column("casts", sa.Column("failures", sa.Integer, nullable=False, server_default="0"))
    op.add_column(
        "casts", sa.Column("cancel_asked", sa.Boolean, nullable=False, server_default="false")
    )
    op.add_column("stations", sa.Column("places", sa.Integer, nullable=False, server_default="2"))


def downgrade() -> None:
    op.drop_column("stations", "places")
    op.drop_column("casts", "cancel_asked")
    op.drop_column("casts", "failures")
    for name in ("share_id", "fragile", "retries", "place", "phase", "plan_run_id"):
        op.drop_column("runs", name)
    for name in ("plan_runs", "plan_versions", "plans", "shares"):
        op.drop_table(name)
