"""The job queue's own tables, as procrastinate ships them."""

from __future__ import annotations

from alembic import op
from procrastinate.schema import SchemaManager

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.get_bind().connection.driver_connection.execute(SchemaManager.get_schema())  # type: ignore[union-attr]


def downgrade() -> None:
    op.execute("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
