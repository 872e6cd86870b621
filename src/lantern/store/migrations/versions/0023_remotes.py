"""Browsers elsewhere, at an address that speaks WebDriver."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0023"
down_revision = "0022"


def upgrade() -> None:
    op.create_table(
        "remote_browsers",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("name", sa.String(40), nullable=False),
        sa.Column("engine", sa.String(60), nullable=False, unique=True),
        sa.Column("address", sa.String(500), nullable=False),
        sa.Column("user", sa.String(200), nullable=False, server_default=""),
        sa.Column("sealed", sa.LargeBinary),
        sa.Column("capabilities", JSONB, nullable=False, server_default="{}"),
        sa.Column("told", JSONB, nullable=False, server_default="{}"),
    )


def downgrade() -> None:
    op.drop_table("remote_browsers")
