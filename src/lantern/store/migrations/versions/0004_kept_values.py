"""Kept values of rows, the seed and the variables of runs."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"

JSONB = postgresql.JSONB(astext_type=sa.Text())


def upgrade() -> None:
    op.add_column("run_rows", sa.Column("kept", JSONB, server_default="{}", nullable=False))
    op.add_column("runs", sa.Column("seed", sa.String(40), server_default="", nullable=False))
    op.add_column("runs", sa.Column("variables", JSONB, server_default="{}", nullable=False))


def downgrade() -> None:
    op.drop_column("runs", "variables")
    op.drop_column("runs", "seed")
    op.drop_column("run_rows", "kept")
