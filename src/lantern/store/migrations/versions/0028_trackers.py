"""Outside trackers, defects that were handed over to them, and messages to them."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0028"
down_revision = "0027"


def _now(name: str) -> sa.Column[object]:
    stamp = sa.DateTime(timezone=True)
    return sa.Column(name, stamp, nullable=False, server_default=sa.func.clock_timestamp())


def _text(name: str, kind: sa.types.TypeEngine[str] | None = None) -> sa.Column[str]:
    return sa.Column(name, kind or sa.String(), nullable=False, server_default="")


def _of(name: str, column: str, **more: object) -> sa.Column[int]:
    key = sa.ForeignKey(column, ondelete="CASCADE")
    return sa.Column(name, sa.Integer, key, **more)  # type: ignore[arg-type]


def upgrade() -> None:
    op.create_table(
        "trackers",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("address", sa.String(500), nullable=False),
        sa.Column("header", sa.String(80), nullable=False),
        sa.Column("sealed", sa.LargeBinary),
        sa.Column("inbox", sa.LargeBinary),
        sa.Column("mapping", JSONB, nullable=False),
        sa.Column("enabled", sa.Boolean, nullable=False, server_default=sa.true()),
        sa.Column("every", sa.Integer, nullable=False, server_default="60"),
        sa.Column("stand_in", sa.Boolean, nullable=False, server_default=sa.false()),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
        _now("made_at"),
    )
    op.create_table(
        "handovers",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        _of("defect_id", "defects.id", nullable=False),
        _of("tracker_id", "trackers.id", nullable=False, index=True),
        sa.Column("reference", sa.String(40), nullable=False),
        _text("key", sa.String(200)),
        _text("link"),
        sa.Column("sent", JSONB, nullable=False, server_default="{}"),
        _text("seen_state"),
        _text("seen_fixed_in"),
        sa.Column("gone", sa.Boolean, nullable=False, server_default=sa.false()),
        _text("said"),
        sa.Column("look_at", sa.DateTime(timezone=True), index=True),
        sa.Column("looked_at", sa.DateTime(timezone=True)),
        sa.Column("account_id", sa.Integer, sa.ForeignKey("accounts.id"), index=True),
        _now("at"),
        sa.UniqueConstraint("defect_id", "tracker_id"),
    )
    op.create_index("ix_handovers_key", "handovers", ["key"])
    op.create_table(
        "handings",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("state", sa.String(10), nullable=False, server_default="waiting"),
        sa.Column("tries", sa.Integer, nullable=False, server_default="0"),
        sa.Column("next_at", sa.DateTime(timezone=True), index=True),
        _text("said"),
        _now("made_at"),
        sa.Column("done_at", sa.DateTime(timezone=True)),
        _of("handover_id", "handovers.id", nullable=False, index=True),
        _of("comment_id", "comments.id", index=True),
    )
    op.add_column("defect_changes", _text("source", sa.String(80)))


def downgrade() -> None:
    op.drop_column("defect_changes", "source")
    op.drop_table("handings")
    op.drop_table("handovers")
    op.drop_table("trackers")
