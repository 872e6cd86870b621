"""Mails: addresses of people, the server that takes mails, and the mails themselves."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0021"
down_revision = "0020"
NOW = sa.text("clock_timestamp()")


def _text(name: str, length: int | None = None) -> sa.Column[str]:
    kind = sa.String(length) if length else sa.Text()
    return sa.Column(name, kind, nullable=False, server_default="")


def upgrade() -> None:
    op.add_column("accounts", _text("email", 254))
    op.create_table(
        "mail_server",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("enabled", sa.Boolean, nullable=False),
        sa.Column("host", sa.String(255), nullable=False),
        sa.Column("port", sa.Integer, nullable=False),
        sa.Column("security", sa.String(10), nullable=False),
        sa.Column("username", sa.String(255), nullable=False),
        sa.Column("sealed", sa.LargeBinary),
        sa.Column("sender", sa.String(254), nullable=False),
        sa.Column("digest_at", sa.String(5), nullable=False),
        sa.Column("zone", sa.String(60), nullable=False),
        sa.Column("stand_in", sa.Boolean, nullable=False, server_default="false"),
    )
    op.create_table(
        "mails",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "account_id",
            sa.Integer,
            sa.ForeignKey("accounts.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column(
            "plan_run_id",
            sa.Integer,
            sa.ForeignKey("plan_runs.id", ondelete="SET NULL"),
            index=True,
        ),
        sa.Column("runs", JSONB, nullable=False, server_default="[]"),
        _text("why"),
        _text("subject"),
        _text("address", 254),
        sa.Column("state", sa.String(10), nullable=False, server_default="waiting"),
        sa.Column("tries", sa.Integer, nullable=False, server_default="0"),
        sa.Column("next_at", sa.DateTime(timezone=True), index=True),
        _text("said"),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=NOW),
        sa.Column("done_at", sa.DateTime(timezone=True)),
    )


def downgrade() -> None:
    op.drop_table("mails")
    op.drop_table("mail_server")
    op.drop_column("accounts", "email")
