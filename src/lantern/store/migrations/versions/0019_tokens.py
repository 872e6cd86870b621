"""Personal access tokens, of which only hashes are kept."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
NOW = sa.text("clock_timestamp()")


def upgrade() -> None:
    op.create_table(
        "access_tokens",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "account_id",
            sa.Integer,
            sa.ForeignKey("accounts.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("begins", sa.String(12), nullable=False),
        sa.Column("token_hash", sa.String(64), nullable=False, unique=True),
        sa.Column("scope", sa.String(10), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=NOW),
        sa.Column("ends_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True)),
        sa.Column("used_from", sa.String(64), nullable=False, server_default=""),
    )


def downgrade() -> None:
    op.drop_table("access_tokens")
