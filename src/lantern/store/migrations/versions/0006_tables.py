"""Which version of a test changed its table last; names of kinds of files may be long."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column(
        "tests", sa.Column("table_version", sa.Integer(), server_default="1", nullable=False)
    )
    op.alter_column("pictures", "mime", type_=sa.String(255))
    op.execute("CREATE INDEX ix_tests_table ON tests ((body ->> 'table'))")


def downgrade() -> None:
    op.execute("DROP INDEX ix_tests_table")
    op.drop_column("tests", "table_version")
