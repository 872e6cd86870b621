"""Reports that are mailed, now or again and again, and documents that a browser prints."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0029"
down_revision = "0028"


def upgrade() -> None:
    now, stamp = sa.func.clock_timestamp(), sa.DateTime(timezone=True)
    op.add_column("mails", sa.Column("report", JSONB, nullable=False, server_default="{}"))
    op.create_table(
        "report_orders",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("report", JSONB, nullable=False),
        sa.Column("plan_id", sa.Integer, sa.ForeignKey("plans.id", ondelete="CASCADE"), index=True),
        sa.Column("people", JSONB, nullable=False),
        sa.Column("body", JSONB, nullable=False),
        sa.Column("next_at", stamp, index=True),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id"), index=True),
        sa.Column("made_at", stamp, nullable=False, server_default=now),
    )
    op.create_table(
        "prints",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("html", sa.LargeBinary, nullable=False),
        sa.Column("pdf", sa.LargeBinary),
        sa.Column("said", sa.String, nullable=False, server_default=""),
        sa.Column("at", stamp, nullable=False, server_default=now),
        sa.Column("done_at", stamp),
    )


def downgrade() -> None:
    op.drop_table("prints")
    op.drop_table("report_orders")
    op.drop_column("mails", "report")
