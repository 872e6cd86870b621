"""What recordings saw become ready before their steps."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.create_table(
        "seen_waits",
        sa.Column("step_id", sa.String(32), primary_key=True),
        sa.Column("property", sa.String(20), nullable=False),
        sa.Column("element", postgresql.JSONB(astext_type=sa.Text())),
    )


def downgrade() -> None:
    op.drop_table("seen_waits")
