"""Who has a test open, where in it, and what they do there.

Every page says so over its connection for notices. The web process tells everybody through the
database, again and again while the page is there: what another process says is heard as well, and
somebody whose process died is gone when nothing was heard of them for a while.
"""

from __future__ import annotations

import json
import threading
import time
from dataclasses import dataclass
from typing import cast

import structlog
from pydantic import TypeAdapter, ValidationError
from simple_websocket import ConnectionClosed, Server
from sqlalchemy.exc import SQLAlchemyError

from lantern.core.channel import Here, Notice
from lantern.store.database import Database, tell
from lantern.web.watching import Watching

log = structlog.get_logger()
AGAIN = 2.0
"""Seconds after which a page that is still there is told of again."""
LASTS = 4.5
"""Seconds after which somebody of whom nothing was heard is gone."""
LONGEST = 64
"""Letters of a page's name and of a sentence's id."""
_HERE: TypeAdapter[Here] = TypeAdapter(Here)


class Present:
    """The pages that are known to have tests open, by what was heard last."""

    def __init__(self) -> None:
        self._heard: dict[tuple[int, str], tuple[float, str]] = {}
        self._lock = threading.Lock()

    def hear(self, notice: Notice, text: str) -> None:
        """Take in a notice about presence; `text` is its JSON."""
        key = int(notice.get("id", 0)), notice.get("who", "")
        now = time.monotonic()
        with self._lock:
            if notice.get("doing") == "gone":
                self._heard.pop(key, None)
            else:
                self._heard[key] = now, text
            old = [one for one, (at, _) in self._heard.items() if at < now - LASTS]
            for one in old:
                del self._heard[one]

    def of(self, test: int) -> list[str]:
        """Return the last notices of those who have a test open."""
        since = time.monotonic() - LASTS
        with self._lock:
            return [
                text
                for (where, _), (at, text) in self._heard.items()
                if where == test and at > since
            ]


@dataclass(frozen=True)
class Person:
    """Whose page it is."""

    account: int
    name: str


def listen(
    socket: Server, database: Database, person: Person, watching: Watching, present: Present
) -> None:
    """Take in what a page says of itself, and tell it, until the page is gone.

    `person` is whose page it is; `watching` is kept up to date. A page that comes to a test is told
    at once who is `present` there.
    """
    here: Here | None = None
    try:
        while True:
            said = socket.receive(timeout=AGAIN)
            if said is not None:
                here = _moved(database, person, here, said, watching)
                test = here["test"] if here else 0
                came = test and test != watching.test
                watching.test = test
                for notice in present.of(test) if came else ():
                    watching.put(notice)
            elif here:
                _tell(database, person, here)
    except ConnectionClosed:
        pass
    finally:
        if here:
            _tell(database, person, here, gone=True)


def _moved(
    database: Database, person: Person, before: Here | None, said: str | bytes, watching: Watching
) -> Here | None:
    try:
        here = _HERE.validate_json(said)
    except ValidationError:
        return before  # nothing that a page of ours says
    watching.follow(here.get("runs", []))
    if before and before["test"] not in (0, here["test"]):
        _tell(database, person, before, gone=True)
    if not here["test"]:
        return None
    _tell(database, person, here)
    return here


def _tell(database: Database, person: Person, here: Here, *, gone: bool = False) -> None:
    try:
        with database.session() as session:
            tell(
                session,
                "presence",
                id=here["test"],
                who=here["who"][:LONGEST],
                name=person.name,
                account=person.account,
                at=here.get("at", "")[:LONGEST],
                doing="gone" if gone else here.get("doing", ""),
            )
    except SQLAlchemyError as error:  # it is told again in a moment
        log.warning("presence_not_told", error=type(error).__name__)


def told(notice: str) -> Notice:
    """Return what a notice says."""
    return cast(Notice, json.loads(notice))
