"""Casts: a run's rows in its browsers, each a job of the queue of its own."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0010"
down_revision = "0009"

RENAMED = (
    ("pk_run_rows", "pk_casts"),
    ("ix_run_rows_run_id", "ix_casts_run_id"),
    ("ix_results_row_position", "ix_results_cast_position"),
    ("ix_saved_pages_row_id", "ix_saved_pages_cast_id"),
)
CAST = (
    sa.Column("browser", sa.Text, nullable=False, server_default=""),
    sa.Column("engine", sa.String(40), nullable=False, server_default="chromium"),
    sa.Column("version", sa.Text, nullable=False, server_default=""),
    sa.Column("job", sa.BigInteger, nullable=False, server_default="0"),
    sa.Column("token", sa.String(32), nullable=False, server_default="", index=True),
    sa.Column("takings", sa.Integer, nullable=False, server_default="0"),
    sa.Column("station_id", sa.String(32), nullable=False, server_default=""),
    sa.Column("message", sa.Text, nullable=False, server_default=""),
)


def upgrade() -> None:
    op.rename_table("run_rows", "casts")
    for old, new in RENAMED:
        op.execute(f"ALTER INDEX {old} RENAME TO {new}")
    for table in ("results", "saved_pages"):
        op.alter_column(table, "row_id", new_column_name="cast_id")
    for column in CAST:
        op.add_column("casts", column)
    op.create_index("ix_casts_outcome", "casts", ["outcome"])
    op.add_column("results", sa.Column("taking", sa.Integer, nullable=False, server_default="1"))
    op.add_column("results", sa.Column("place", sa.Integer, nullable=False, server_default="0"))
    op.create_index(
        "uq_results_place",
        "results",
        ["cast_id", "taking", "place"],
        unique=True,
        postgresql_where=sa.text("place > 0"),
    )
    op.execute(
        "UPDATE casts SET station_id = coalesce(runs.station_id, ''), version = runs.browser, "
        "takings = CASE WHEN casts.started_at IS NULL THEN 0 ELSE 1 END "
        "FROM runs WHERE runs.id = casts.run_id"
    )
    # What was under way under the old rules has nobody any more who would end it.
    op.execute(
        "UPDATE casts SET outcome = 'interrupted' FROM runs WHERE runs.id = casts.run_id "
        "AND runs.state IN ('queued', 'running') AND casts.outcome IN ('waiting', 'running')"
    )
    op.execute(
        "UPDATE runs SET state = 'interrupted', ended_at = clock_timestamp(), "
        "message = 'Lantern was brought up to date meanwhile.' "
        "WHERE state IN ('queued', 'running')"
    )
    op.execute("DELETE FROM procrastinate_jobs WHERE status IN ('todo', 'doing')")
    op.drop_column("runs", "station_id")
    op.drop_column("runs", "job_id")
    op.add_column("runs", sa.Column("cancel_asked_at", sa.DateTime(timezone=True)))
    op.add_column("runs", sa.Column("stopped", sa.Text, nullable=False, server_default=""))
    op.add_column("runs", sa.Column("again", sa.Boolean, nullable=False, server_default="false"))
    op.add_column("stations", sa.Column("engines", JSONB, nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("stations", "engines")
    for name in ("again", "stopped", "cancel_asked_at"):
        op.drop_column("runs", name)
    op.add_column("runs", sa.Column("job_id", sa.Integer))
    op.add_column("runs", sa.Column("station_id", sa.String(32)))
    op.drop_index("uq_results_place", "results")
    for name in ("place", "taking"):
        op.drop_column("results", name)
    op.drop_index("ix_casts_outcome", "casts")
    for column in reversed(CAST):
        op.drop_column("casts", column.name)
    for table in ("results", "saved_pages"):
        op.alter_column(table, "cast_id", new_column_name="row_id")
    for old, new in RENAMED:
        op.execute(f"ALTER INDEX {new} RENAME TO {old}")
    op.rename_table("casts", "run_rows")
