"""Flows beside tests, what runs took of them, the step a row is at, and baselines."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"

JSONB = postgresql.JSONB(astext_type=sa.Text())


def upgrade() -> None:
    op.add_column("tests", sa.Column("kind", sa.String(10), server_default="test", nullable=False))
    op.add_column("tests", sa.Column("baseline", sa.Integer(), nullable=True))
    op.create_index("ix_tests_kind", "tests", ["kind"])
    op.execute("CREATE INDEX ix_tests_steps ON tests USING gin ((body -> 'steps') jsonb_path_ops)")
    op.add_column("runs", sa.Column("flows", JSONB, server_default="{}", nullable=False))
    op.add_column(
        "run_rows", sa.Column("current_step", sa.String(32), server_default="", nullable=False)
    )


def downgrade() -> None:
    op.drop_column("run_rows", "current_step")
    op.drop_column("runs", "flows")
    op.execute("DROP INDEX ix_tests_steps")
    op.drop_index("ix_tests_kind", "tests")
    op.drop_column("tests", "baseline")
    op.drop_column("tests", "kind")
