"""How much of what their pages show tests would notice."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"


def upgrade() -> None:
    op.create_table(
        "blind_shares",
        sa.Column(
            "test_id",
            sa.Integer,
            sa.ForeignKey("tests.id", ondelete="CASCADE"),
            primary_key=True,
            autoincrement=False,
        ),
        sa.Column("run_id", sa.Integer, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("whole", sa.Float, nullable=False),
        sa.Column("seen", sa.Float, nullable=False),
        sa.Column("blind", sa.Integer, nullable=False),
        sa.Column("never", sa.Integer, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("blind_shares")
