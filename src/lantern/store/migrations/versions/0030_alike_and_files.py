"""What defects showed, their files, filters that people save, and visits to pages."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0030"
down_revision = "0029"


def upgrade() -> None:
    now, stamp = sa.func.clock_timestamp(), sa.DateTime(timezone=True)
    op.add_column("defects", sa.Column("shown", JSONB, nullable=False, server_default="{}"))
    op.create_table(
        "defect_files",
        sa.Column(
            "defect_id",
            sa.Integer,
            sa.ForeignKey("defects.id", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column("name", sa.String(255), primary_key=True),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("mime", sa.String(120), nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id"), index=True),
        sa.Column("at", stamp, nullable=False, server_default=now),
    )
    op.create_index("ix_defect_files_digest", "defect_files", ["digest"])
    op.create_table(
        "saved_filters",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "account_id",
            sa.Integer,
            sa.ForeignKey("accounts.id", ondelete="CASCADE"),
            nullable=False,
        ),
        sa.Column("view", sa.String(20), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("body", JSONB, nullable=False),
        sa.UniqueConstraint("account_id", "view", "name"),
    )
    op.create_table(
        "visits",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "run_id",
            sa.Integer,
            sa.ForeignKey("runs.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column(
            "environment_id",
            sa.Integer,
            sa.ForeignKey("environments.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("pages", JSONB, nullable=False),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id"), index=True),
        sa.Column("at", stamp, nullable=False, server_default=now),
    )


def downgrade() -> None:
    op.drop_table("visits")
    op.drop_table("saved_filters")
    op.drop_table("defect_files")
    op.drop_column("defects", "shown")
