"""The browsers elsewhere that a Lantern knows, as a station reaches them."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import structlog
from sqlalchemy.exc import SQLAlchemyError

from lantern.browser.engines import Remote, Setup, is_ready
from lantern.browser.errors import BrowserError
from lantern.core.engine.browsers import BROWSERS, USUAL
from lantern.core.problems import Problem
from lantern.core.values.redaction import everywhere
from lantern.store import remotes
from lantern.store.database import Database
from lantern.store.models import RemoteBrowser
from lantern.store.vault import Vault

log = structlog.get_logger()
LOOK = 10.0
"""Seconds between two looks which of them take a session."""
AT_ONCE = 8


class Remotes:
    """Which remote browsers take sessions, by the names of their engines, and how one is had."""

    def __init__(self, database: Database, vault: Vault) -> None:
        self._database, self._vault = database, vault
        self.ready: dict[str, str] = {}
        """Those that do, with the version that the last session showed, "" before there was one."""

    def keep_looking(self, stopped: Callable[[float], bool]) -> None:
        """Look again and again until `stopped`, told how many seconds to wait, says so."""
        while True:
            try:
                self.look()
            except (SQLAlchemyError, Problem) as error:
                log.warning("remotes_not_seen", error=type(error).__name__)
            if stopped(LOOK):
                return

    def look(self) -> None:
        """See which of them take a session now."""
        with self._database.session() as session:
            rows = remotes.listed(session)
            found = {one.engine: (self._setup_of(one), one.told) for one in rows}
        with ThreadPoolExecutor(AT_ONCE, "remotes") as looks:
            answers = looks.map(lambda one: is_ready(one[0]), found.values())
        self.ready = {
            engine: str(told.get("browser", ""))
            for (engine, (_, told)), ready in zip(found.items(), answers, strict=True)
            if ready
        }

    def start(self, engine: str) -> Remote:
        """Return what makes sessions of one; it asks anew what there is at each."""
        return Remote(lambda: self._setup(engine), lambda told: self._learned(engine, told))

    def tried(self, key: int) -> dict[str, Any]:
        """Have a session made and ended; returns what it showed, or the `error` in words."""
        with self._database.session() as session:
            engine = remotes.get(session, key).engine
        remote = self.start(engine)
        try:
            session_there = remote.new_session(BROWSERS[USUAL])
            session_there.open_page()
            return session_there.learned
        except (BrowserError, Problem) as error:
            return {"error": str(error)}
        finally:
            threading.Thread(target=remote.close, name="remote-tried").start()

    def _setup(self, engine: str) -> Setup:
        with self._database.session() as session:
            row = remotes.by_engine(session, engine)
            if row is None:
                raise BrowserError(f"There is no {engine} any more.")
            return self._setup_of(row)

    def _setup_of(self, row: RemoteBrowser) -> Setup:
        password = self._vault.open(row.sealed) if row.sealed else ""
        wanted = everywhere(row.capabilities, lambda text: text.replace(remotes.PLACE, password))
        shown = password if row.user else ""
        return Setup(row.address, row.user, shown, wanted, hidden=password)

    def _learned(self, engine: str, told: Mapping[str, Any]) -> None:
        try:
            with self._database.session() as session:
                remotes.learned(session, engine, told)
        except SQLAlchemyError as error:
            log.warning("not_learned", error=type(error).__name__)  # it matters to nobody's run
