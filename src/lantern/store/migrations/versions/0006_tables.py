"""Tables by version, names of kinds of files that may be long, the project's preferences."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column(
        "tests", sa.Column("table_version", sa.Integer(), server_default="1", nullable=False)
    )
    op.alter_column("pictures", "mime", type_=sa.String(255))
    op.create_table(
        "preferences",
        sa.Column("name", sa.String(40), primary_key=True),
        sa.Column("value", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
    )
    op.execute("CREATE INDEX ix_tests_table ON tests ((body ->> 'table'))")


def downgrade() -> None:
    op.drop_table("preferences")
    op.execute("DROP INDEX ix_tests_table")
    op.drop_column("tests", "table_version")
