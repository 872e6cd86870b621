"""Stations stay known when they end; labels, modes, versions of browsers, and what needs them."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    for column in (
        sa.Column("labels", JSONB, nullable=False, server_default="[]"),
        sa.Column("mode", sa.String(10), nullable=False, server_default="works"),
        sa.Column("versions", JSONB, nullable=False, server_default="{}"),
        sa.Column("load", sa.Float, nullable=False, server_default="0"),
        sa.Column("ended_at", sa.DateTime(timezone=True)),
    ):
        op.add_column("stations", column)
    op.add_column("runs", sa.Column("needs", JSONB, nullable=False, server_default="[]"))
    op.create_index("ix_casts_station_id", "casts", ["station_id"])


def downgrade() -> None:
    op.drop_index("ix_casts_station_id")
    op.drop_column("runs", "needs")
    for name in ("ended_at", "load", "versions", "mode", "labels"):
        op.drop_column("stations", name)
