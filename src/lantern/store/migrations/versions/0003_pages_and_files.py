"""Saved pages, files of tests, versions of elements."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"

NOW = sa.text("clock_timestamp()")
JSONB = postgresql.JSONB(astext_type=sa.Text())


def upgrade() -> None:
    op.add_column(
        "elements", sa.Column("version", sa.Integer(), server_default="1", nullable=False)
    )
    op.add_column(
        "elements",
        sa.Column("changed_at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
    )
    op.add_column("runs", sa.Column("files", JSONB, server_default="{}", nullable=False))
    op.create_table(
        "test_files",
        sa.Column("test_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=255), nullable=False),
        sa.Column("digest", sa.String(length=64), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.ForeignKeyConstraint(
            ["test_id"], ["tests.id"], name=op.f("fk_test_files_test_id_tests"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("test_id", "name", name=op.f("pk_test_files")),
    )
    op.create_table(
        "saved_pages",
        sa.Column("id", sa.Integer(), sa.Identity(always=False), nullable=False),
        sa.Column("page", sa.String(), nullable=False),
        sa.Column("address", sa.String(), server_default="", nullable=False),
        sa.Column("release", sa.String(), server_default="", nullable=False),
        sa.Column("nodes", JSONB, nullable=False),
        sa.Column("picture", sa.String(length=64), server_default="", nullable=False),
        sa.Column("test_id", sa.Integer(), nullable=True),
        sa.Column("run_id", sa.Integer(), nullable=True),
        sa.Column("row_id", sa.Integer(), nullable=True),
        sa.Column("step_id", sa.String(length=32), server_default="", nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=NOW, nullable=False),
        sa.ForeignKeyConstraint(
            ["test_id"],
            ["tests.id"],
            name=op.f("fk_saved_pages_test_id_tests"),
            ondelete="SET NULL",
        ),
        sa.ForeignKeyConstraint(
            ["run_id"], ["runs.id"], name=op.f("fk_saved_pages_run_id_runs"), ondelete="CASCADE"
        ),
        sa.ForeignKeyConstraint(
            ["row_id"],
            ["run_rows.id"],
            name=op.f("fk_saved_pages_row_id_run_rows"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_saved_pages")),
    )
    for column in ("page", "test_id", "run_id", "row_id"):
        op.create_index(op.f(f"ix_saved_pages_{column}"), "saved_pages", [column])


def downgrade() -> None:
    op.drop_table("saved_pages")
    op.drop_table("test_files")
    op.drop_column("runs", "files")
    op.drop_column("elements", "changed_at")
    op.drop_column("elements", "version")
