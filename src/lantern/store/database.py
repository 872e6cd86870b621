"""The connection to PostgreSQL: sessions, notices and the address of the database."""

from __future__ import annotations

import json
import os
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, TypeVar

import structlog
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.exc import DataError, IntegrityError, SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from lantern.core.channel import About

log = structlog.get_logger()
T = TypeVar("T")

CHANNEL = "lantern"
"""The PostgreSQL channel on which changes are told to whoever watches."""


def address() -> str:
    """Return the database address, for libpq, from LANTERN_DATABASE; raises RuntimeError."""
    url = os.environ.get("LANTERN_DATABASE")
    if not url:
        raise RuntimeError("LANTERN_DATABASE is not set: Lantern does not know its database.")
    return url


WHEN_ENDING = 1.0
"""Seconds for which work is tried again by a process that is to end."""
CONNECT = 10
"""Seconds that the database gets to take a connection: one that is ending takes none for ever."""


class Database:
    """An engine and its sessions."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine: Engine = create_engine(
            url.replace("postgresql://", "postgresql+psycopg://", 1),
            pool_size=10,
            max_overflow=20,
            pool_pre_ping=True,
            connect_args={"connect_timeout": CONNECT},
            hide_parameters=True,  # what is stored stays out of messages of errors
        )
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A session that commits at the end of the block and rolls back on an error."""
        with self._sessions() as session:
            yield session
            session.commit()

    def insist(
        self,
        work: Callable[[Session], T],
        limit: float,
        wait: Callable[[float], object] = time.sleep,
        ending: Callable[[], bool] = lambda: False,
    ) -> T:
        """Do work in a session of its own, again while the database fails, up to `limit` seconds.

        Once `ending` tells that this process is to end, it is tried for WHEN_ENDING more at most.
        What was committed although its answer was lost is done twice: the work has to bear that.
        Raises what the database raised last, or at once when it refuses the values.
        """
        end, pause, hurried = time.monotonic() + limit, 0.1, False
        while True:
            try:
                with self.session() as session:
                    return work(session)
            except (IntegrityError, DataError):
                raise
            except SQLAlchemyError as error:
                if not hurried and ending():
                    hurried, pause = True, 0.1
                    end = min(end, time.monotonic() + WHEN_ENDING)
                if time.monotonic() + pause > end:
                    raise
                log.warning("database_failed", error=type(error).__name__)
            wait(pause)
            pause = min(2 * pause, 2.0)

    def close(self) -> None:
        """Close all connections."""
        self.engine.dispose()


def tell(session: Session, about: About, **more: Any) -> None:  # noqa: ANN401 - any JSON value
    """Tell watchers, when this session commits, that something changed (ids only)."""
    notice = json.dumps({"about": about, **more})
    session.execute(
        text("SELECT pg_notify(:channel, :notice)"), {"channel": CHANNEL, "notice": notice}
    )
