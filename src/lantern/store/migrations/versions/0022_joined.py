"""Stations that joined over the network, and the invitations by which they do."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"
NOW = sa.text("clock_timestamp()")


def upgrade() -> None:
    op.add_column("stations", sa.Column("secret_hash", sa.String(64), unique=True))
    op.add_column("stations", sa.Column("worker", sa.BigInteger))
    op.create_table(
        "invitations",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("token_hash", sa.String(64), nullable=False, unique=True),
        sa.Column("made_by", sa.String(120), nullable=False),
        sa.Column("ends_at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("invitations")
    op.drop_column("stations", "worker")
    op.drop_column("stations", "secret_hash")
