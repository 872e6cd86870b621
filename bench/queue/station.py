"""A station of the bench: all of a station but its browser, whose pages are lists of things.

Started as a process with the number of places; every page that is opened is written down, one line
each, so that afterwards it can be told what was played, and how often.
"""

from __future__ import annotations

import os
import sys
import threading
import time
from collections.abc import Callable
from functools import partial
from typing import Any
from urllib.parse import parse_qs, urlsplit

from tests.station.fake import FakeEngine, Shown, Thing

from lantern.browser.session import Session
from lantern.core.engine.browsers import Browser
from lantern.host.processes import die_with_parent
from lantern.station.worker import Worker
from lantern.store import stations
from lantern.store.database import Database
from lantern.store.reconciling import keep_reconciling
from lantern.store.vault import Vault

TAKES = 0.05
"""Seconds that a page needs to open."""


class Site(dict[str, Callable[[], Shown]]):
    """A site that has every page, and notes which were opened."""

    def __init__(self, played: str) -> None:
        super().__init__()
        self._played = open(played, "a", buffering=1)  # noqa: SIM115 - as long as the process

    def get(self, path: str, default: object = None) -> Callable[[], Shown]:
        """Return what shows a page."""
        row = parse_qs(urlsplit(path).query).get("row", [""])[0]

        def show() -> Shown:
            self._played.write(f"{row}\n")
            time.sleep(TAKES)
            return Shown("Bench", things=[Thing("button", "Go on")])

        return show


class Browsers:
    """What the worker wants of a station's browsers, with the fake engine alone."""

    engines = ("chromium",)
    version = FakeEngine.version
    printer = ""

    def __init__(self, engine: FakeEngine) -> None:
        self._engine = engine

    def context(self, held: Browser) -> Session:
        """Return a fresh context with a window."""
        session = self._engine.new_session(held)
        session.open_page()
        return session

    def prepare(self, held: Browser) -> None:
        """Do nothing: contexts are there at once."""


def main(places: int, played: str) -> None:
    """Be a station until SIGTERM."""
    die_with_parent()
    url = os.environ["LANTERN_DATABASE"]
    database, key = Database(url), f"bench{os.getpid()}"[:12]
    engine = FakeEngine()
    engine.site = Site(played)
    browsers: Any = Browsers(engine)
    worker = Worker(
        url, database, Vault(), key, browsers, places=places, show=lambda cast, shown: None
    )
    worker.offer("works", ())

    def beat() -> None:
        while True:
            with database.session() as session:
                about = {"name": key, "address": "", "engines": ["chromium"], "places": places}
                stations.beat(session, key, busy=worker.busy, **about)
            if worker.stopping.wait(stations.BEAT):
                return

    reconciling = partial(keep_reconciling, database, worker.stopping.wait)
    for target in (beat, reconciling):
        threading.Thread(target=target, daemon=True).start()
    worker.run()


if __name__ == "__main__":
    main(int(sys.argv[1]), sys.argv[2])
