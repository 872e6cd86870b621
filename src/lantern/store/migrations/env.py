"""Alembic's entry: runs the migrations on the connection that `migrate` hands over."""

from __future__ import annotations

from alembic import context

from lantern.store.models import Base


def _ours(name: str | None, kind: str, _parents: object) -> bool:
    return not (kind == "table" and (name or "").startswith("procrastinate_"))


context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    include_name=_ours,
)
with context.begin_transaction():
    context.run_migrations()
