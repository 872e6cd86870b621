"""Runs that are kept for good, when pictures were kept, and quick ways to who needs a picture."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"

PICTURED = ("results", "saved_pages", "defects")


def upgrade() -> None:
    op.add_column("runs", sa.Column("pinned", sa.Boolean, nullable=False, server_default="false"))
    op.add_column(
        "pictures",
        sa.Column(
            "at",
            sa.DateTime(timezone=True),
            nullable=False,
            server_default=sa.func.clock_timestamp(),
        ),
    )
    for table in PICTURED:
        op.create_index(
            f"ix_{table}_picture", table, ["picture"], postgresql_where=sa.text("picture <> ''")
        )


def downgrade() -> None:
    for table in PICTURED:
        op.drop_index(f"ix_{table}_picture", table)
    op.drop_column("pictures", "at")
    op.drop_column("runs", "pinned")
