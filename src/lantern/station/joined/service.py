"""The process of a station that joined: says that it lives, takes casts, has them played."""

from __future__ import annotations

import fcntl
import ipaddress
import json
import os
import signal
import threading
import time
from contextlib import ExitStack
from http import HTTPStatus
from pathlib import Path
from typing import Any, TextIO
from urllib.parse import urlsplit

import structlog

from lantern import __version__
from lantern.browser import process
from lantern.client.talk import Refused, Server, Unreached
from lantern.core.runs.work import Work
from lantern.core.storable import read_json
from lantern.station.browsers import Browsers
from lantern.station.executor import Executor
from lantern.station.joined.book import JoinedBook, is_away

log = structlog.get_logger()
BEAT = 2.0
"""Seconds between two signs of life while nothing happens."""
LOOK = 0.5
"""Seconds between two looks for something to play, and for what is to stop."""
GRACE = 8.0
"""Seconds that casts under way get when the station ends."""
KEPT = "joined.json"


class NotJoined(Exception):
    """The station is none of that Lantern's, or not any more: what to do."""


def join(folder: Path, address: str, token: str, name: str, places: int) -> None:
    """Join with a token, and keep in a folder who the station is from now on.

    Raises Refused or Unreached, and NotJoined where a station runs in that folder.
    """
    asked = {"token": token, "name": name, "places": places}
    with _held(folder):
        made = Server(address, "").post("/joining", asked)
        kept = {"address": address.rstrip("/"), "places": places, **made}
        file = folder / KEPT
        part = file.with_suffix(".part")
        part.unlink(missing_ok=True)
        with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as out:
            json.dump(kept, out)
        part.replace(file)


def is_private(address: str) -> bool:
    """Tell whether what is said to an address can be read by nobody on the way."""
    where = urlsplit(address)
    if where.scheme == "https":
        return True
    host = where.hostname or ""
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return host == "localhost"


class JoinedStation:
    """Plays casts that the server gives, until it is told to end or is retired.

    It is the one of its folder: `folder` holds who it is, and only one process at a time.
    """

    def __init__(self, folder: Path, address: str = "") -> None:
        self._folder = folder
        self._lock = _held(folder)
        kept = _kept(folder, address)
        self._server = Server(kept["address"], kept["secret"])
        self._places = int(kept["places"])
        process.sweep()
        self._browsers = Browsers()
        self._playing: dict[int, Executor] = {}
        self._changes = threading.Lock()
        self._stopping = threading.Event()
        self._mode = "works"
        self._beaten = float("-inf")
        self._away = False

    def run(self) -> None:
        """Work until SIGTERM or SIGINT; raises NotJoined when it was retired."""
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: self._stopping.set())
        log.info("station_up", server=self._server.address)
        try:
            while not self._stopping.wait(LOOK):
                self._turn()
        except Refused as error:
            if error.status == HTTPStatus.UNAUTHORIZED:
                (self._folder / KEPT).unlink(missing_ok=True)
            raise NotJoined(str(error)) from error
        finally:
            self._end()

    def _turn(self) -> None:
        try:
            if self._playing or time.monotonic() - self._beaten >= BEAT:
                self._beat()
            while self._mode == "works" and len(self._playing) < self._places:
                if not self._take():
                    break
            if self._away:
                log.info("server_reached")
            self._away = False
        except (Unreached, Refused) as error:  # a proxy may answer while the server starts anew
            if not is_away(error):
                raise
            if not self._away:
                log.warning("server_not_reached", error=str(error))
            self._away = True
            self._stopping.wait(BEAT)
        self._browsers.tend()

    def _beat(self) -> None:
        with self._changes:
            plays = {key: one.token for key, one in self._playing.items()}
        orders = self._server.post("/joined/beat", self._said() | {"plays": plays})
        self._beaten = time.monotonic()
        self._mode = orders["mode"]
        with self._changes:
            found = [self._playing[key] for key in orders["stop"] if key in self._playing]
        for executor in found:
            executor.stop()

    def _said(self) -> dict[str, Any]:
        return {
            "version": __version__,
            "busy": len(self._playing),
            "browser": self._browsers.version,
            "engines": self._browsers.engines,
            "versions": self._browsers.versions,
            "load": round(os.getloadavg()[0] / (os.cpu_count() or 1), 2),
        }

    def _take(self) -> bool:
        """Begin the next cast; tells whether there was one."""
        with self._changes:
            plays = list(self._playing)
        raw = self._server.post("/joined/take", {"plays": plays})["work"]
        if raw is None:
            return False
        work = Work.read(raw)
        executor = Executor(None, self._browsers)
        executor.token = work.token
        book = JoinedBook(self._server, work, executor.is_stopped, self._stopping.is_set)
        with self._changes:
            self._playing[work.cast] = executor
        name = f"cast-{work.cast}"
        threading.Thread(target=self._play, args=(executor, book), name=name, daemon=True).start()
        return True

    def _play(self, executor: Executor, book: JoinedBook) -> None:
        try:
            executor.play_by(book)
        except Exception:
            log.exception("cast_not_ended", cast=book.work.cast)  # the server gives it up
        finally:
            with self._changes:
                self._playing.pop(book.work.cast, None)

    def _end(self) -> None:
        """End what is under way, say so, and close all that is open."""
        self._stopping.set()
        with ExitStack() as closing:
            closing.callback(self._lock.close)
            closing.callback(self._browsers.close)
            closing.callback(self._leave)
            with self._changes:
                under_way = list(self._playing.values())
            for executor in under_way:
                executor.stop(station=True)
            end = time.monotonic() + GRACE
            while self._playing and time.monotonic() < end:
                time.sleep(0.05)

    def _leave(self) -> None:
        """Say that the station ends; where that can not be said, its silence does."""
        try:
            self._server.post("/joined/leave")
        except (Refused, Unreached) as error:
            log.warning("not_left", error=str(error))


def _held(folder: Path) -> TextIO:
    """Return the lock of a folder, held as long as it is open; raises NotJoined."""
    lock = (folder / "station.lock").open("a")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        lock.close()
        raise NotJoined(f"Another station runs in {folder}: give it a --folder.") from error
    return lock


def _kept(folder: Path, address: str) -> dict[str, Any]:
    """Return who the station is; raises NotJoined where the folder does not say."""
    try:
        kept: dict[str, Any] = read_json((folder / KEPT).read_text("utf-8"))
        known = str(kept["address"]), str(kept["secret"]), int(kept["places"])
    except (OSError, ValueError, KeyError, TypeError) as error:
        raise NotJoined(
            f"Nobody has joined from {folder} yet. Give a --token: a lead makes one on the page "
            "Stations, Add a station."
        ) from error
    if address and known[0] != address.rstrip("/"):
        raise NotJoined(f"{folder} is of a station of {known[0]}: give another --folder.")
    return kept
