"""Parts of pictures that may differ."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"


def upgrade() -> None:
    op.create_table(
        "masks",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "test_id", sa.Integer, sa.ForeignKey("tests.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column("step_id", sa.String(32), nullable=False),
        *(sa.Column(name, sa.Float, nullable=False) for name in ("x", "y", "width", "height")),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id"), index=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )
    op.create_index("ix_masks_test_id_step_id", "masks", ["test_id", "step_id"])


def downgrade() -> None:
    op.drop_table("masks")
