"""The connection to PostgreSQL: sessions, notices and the address of the database."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session, sessionmaker

CHANNEL = "lantern"
"""The PostgreSQL channel on which changes are told to whoever watches."""


def address() -> str:
    """Return the database address, for libpq, from LANTERN_DATABASE; raises RuntimeError."""
    url = os.environ.get("LANTERN_DATABASE")
    if not url:
        raise RuntimeError("LANTERN_DATABASE is not set: Lantern does not know its database.")
    return url


class Database:
    """An engine and its sessions."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine: Engine = create_engine(
            url.replace("postgresql://", "postgresql+psycopg://", 1),
            pool_size=10,
            max_overflow=20,
            pool_pre_ping=True,
            hide_parameters=True,  # what is stored stays out of messages of errors
        )
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A session that commits at the end of the block and rolls back on an error."""
        with self._sessions() as session:
            yield session
            session.commit()

    def close(self) -> None:
        """Close all connections."""
        self.engine.dispose()


def tell(session: Session, about: str, **more: Any) -> None:  # noqa: ANN401 - any JSON value
    """Tell watchers, when this session commits, that something changed (ids only)."""
    notice = json.dumps({"about": about, **more})
    session.execute(
        text("SELECT pg_notify(:channel, :notice)"), {"channel": CHANNEL, "notice": notice}
    )
