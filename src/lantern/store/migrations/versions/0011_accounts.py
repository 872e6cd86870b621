"""Accounts that can be disabled and deleted, and a list of what matters for security."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    for name in ("disabled", "gone"):
        op.add_column(
            "accounts", sa.Column(name, sa.Boolean, nullable=False, server_default="false")
        )
    op.create_table(
        "security_events",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "at",
            sa.DateTime(timezone=True),
            nullable=False,
            server_default=sa.func.clock_timestamp(),
            index=True,
        ),
        sa.Column("what", sa.String(40), nullable=False),
        sa.Column("who", sa.String(120), nullable=False, server_default=""),
        sa.Column("about", sa.Text, nullable=False, server_default=""),
        sa.Column("origin", sa.String(64), nullable=False, server_default=""),
    )


def downgrade() -> None:
    op.drop_table("security_events")
    for name in ("gone", "disabled"):
        op.drop_column("accounts", name)
