"""What came of recorded sentences, and whether playing them did the same."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0009"
down_revision = "0008"

NOW = sa.func.clock_timestamp()


def upgrade() -> None:
    op.create_table(
        "recorded_effects",
        sa.Column(
            "test_id", sa.Integer, sa.ForeignKey("tests.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("step_id", sa.String(32), primary_key=True),
        sa.Column("body", JSONB, nullable=False),
        sa.Column("inputs", JSONB, nullable=False, server_default="{}"),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=NOW),
    )
    op.create_table(
        "proofs",
        sa.Column(
            "test_id", sa.Integer, sa.ForeignKey("tests.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("run_id", sa.Integer, sa.ForeignKey("runs.id", ondelete="SET NULL"), index=True),
        sa.Column("found", JSONB, nullable=False, server_default="[]"),
        sa.Column("aside", JSONB, nullable=False, server_default="[]"),
        sa.Column("compared", sa.Integer, nullable=False, server_default="0"),
        sa.Column("at", sa.DateTime(timezone=True)),
    )
    op.add_column("environments", sa.Column("reset", sa.Text, nullable=False, server_default=""))
    op.add_column(
        "elements",
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False, server_default=NOW),
    )
    op.execute("UPDATE elements SET created_at = changed_at")


def downgrade() -> None:
    op.drop_column("elements", "created_at")
    op.drop_column("environments", "reset")
    op.drop_table("proofs")
    op.drop_table("recorded_effects")
