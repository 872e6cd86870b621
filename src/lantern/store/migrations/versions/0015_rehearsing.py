"""Breakpoints of people, whether all of them are off, and who took a cast in hand."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.add_column(
        "accounts",
        sa.Column("breakpoints_off", sa.Boolean, nullable=False, server_default="false"),
    )
    op.add_column("casts", sa.Column("hand", sa.Text, nullable=False, server_default=""))
    op.create_table(
        "breakpoints",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "account_id",
            sa.Integer,
            sa.ForeignKey("accounts.id", ondelete="CASCADE"),
            nullable=False,
        ),
        sa.Column(
            "place", sa.Integer, sa.ForeignKey("tests.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("step_id", sa.String(32), nullable=False),
        sa.Column("only_in", sa.Integer, sa.ForeignKey("tests.id", ondelete="CASCADE")),
        sa.Column("enabled", sa.Boolean, nullable=False),
        sa.Column("condition", JSONB, nullable=False),
        sa.UniqueConstraint("account_id", "place", "step_id", name="uq_breakpoints_sentence"),
    )
    op.create_index("ix_breakpoints_place", "breakpoints", ["place"])
    op.create_index("ix_breakpoints_only_in", "breakpoints", ["only_in"])


def downgrade() -> None:
    op.drop_table("breakpoints")
    op.drop_column("casts", "hand")
    op.drop_column("accounts", "breakpoints_off")
