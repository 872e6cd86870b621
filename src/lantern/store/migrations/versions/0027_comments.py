"""Comments with mentions; defects with an owner, a priority and a history."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"


def upgrade() -> None:
    now = sa.func.now()
    op.create_table(
        "comments",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("place", sa.String(10), nullable=False),
        sa.Column("key", sa.Integer, nullable=False),
        sa.Column("text", sa.String, nullable=False),
        sa.Column("looked", sa.Boolean, nullable=False, server_default=sa.false()),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id"), index=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=now),
        sa.Column("changed_at", sa.DateTime(timezone=True)),
    )
    op.create_index("ix_comments_place_key", "comments", ["place", "key"])
    op.create_table(
        "mentions",
        sa.Column(
            "comment_id",
            sa.Integer,
            sa.ForeignKey("comments.id", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column(
            "account_id",
            sa.Integer,
            sa.ForeignKey("accounts.id", ondelete="CASCADE"),
            primary_key=True,
            index=True,
        ),
        sa.Column("seen_at", sa.DateTime(timezone=True)),
    )
    op.add_column("defects", sa.Column("owner_id", sa.Integer, sa.ForeignKey("accounts.id")))
    op.create_index("ix_defects_owner_id", "defects", ["owner_id"])
    op.add_column(
        "defects", sa.Column("priority", sa.String(20), nullable=False, server_default="normal")
    )
    op.add_column("defects", sa.Column("fixed_in", sa.String, nullable=False, server_default=""))
    op.create_table(
        "defect_changes",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "defect_id",
            sa.Integer,
            sa.ForeignKey("defects.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("what", sa.String(20), nullable=False),
        sa.Column("before", sa.String, nullable=False, server_default=""),
        sa.Column("after", sa.String, nullable=False, server_default=""),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id"), index=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=now),
    )


def downgrade() -> None:
    op.drop_table("defect_changes")
    op.drop_index("ix_defects_owner_id", "defects")
    for name in ("fixed_in", "priority", "owner_id"):
        op.drop_column("defects", name)
    op.drop_table("mentions")
    op.drop_table("comments")
