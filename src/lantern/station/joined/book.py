"""The book of a cast that is kept at the server, for a station that joined over the network."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import asdict
from http import HTTPStatus
from typing import Any, TypeVar
from urllib.parse import urlencode

from lantern.browser.session import Session
from lantern.client.talk import Refused, Server, Unreached
from lantern.core.elements.facts import Facts
from lantern.core.engine.attempt import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.runs.life import Ended, Lost, TooLate
from lantern.core.runs.work import Work
from lantern.station.book import OUTAGE, SeenPage, Told
from lantern.station.live import Live
from lantern.station.offering import Offer
from lantern.station.proving import Prover

T = TypeVar("T")
AGAIN = 0.5
"""Seconds between two tries to reach the server."""
ANSWER = "application/octet-stream"
BUSY = 429
OVER = (HTTPStatus.GONE, HTTPStatus.UNAUTHORIZED, HTTPStatus.NOT_FOUND)
"""How the server says that a cast is not this station's any more, or the station is none."""


def is_away(error: Refused | Unreached) -> bool:
    """Tell whether it is worth to ask again: nobody answered, or nobody who knows."""
    if isinstance(error, Unreached):
        return True
    return error.status >= HTTPStatus.INTERNAL_SERVER_ERROR or error.status == BUSY


class JoinedBook:
    """A `Book` that hands everything on to the server.

    Rows are neither offered to anybody here nor held against their recording: who sits at a desk
    reaches stations beside the server alone.
    """

    def __init__(self, server: Server, work: Work, stopped: Told, ending: Told) -> None:
        self._server, self._work = server, work
        self._stopped, self._ending = stopped, ending
        self._path = f"/joined/casts/{work.cast}"

    @property
    def work(self) -> Work:
        """What is to be played."""
        return self._work

    def _insist(self, send: Callable[[], T], gives_up: Told) -> T:
        """Send something until it arrives; raises TooLate, Refused, or Unreached in the end."""
        end = time.monotonic() + OUTAGE
        while True:
            try:
                return send()
            except (Unreached, Refused) as error:
                if isinstance(error, Refused) and error.status in OVER:
                    raise TooLate(str(error)) from error
                if not is_away(error) or time.monotonic() >= end or gives_up():
                    raise
                time.sleep(AGAIN)

    def _note(self, kind: str, **told: Any) -> None:  # noqa: ANN401 - any JSON
        body = {"token": self._work.token, "notes": [{"kind": kind, **told}]}
        self._insist(lambda: self._server.post(f"{self._path}/notes", body), self._stopped)

    def _asking(self, what: str, **query: str) -> str:
        return f"{self._path}/{what}?" + urlencode({"token": self._work.token, **query})

    def began(self, version: str) -> None:
        """Take note of the browser in which it is played."""
        self._note("began", version=version)

    def following(self) -> str | None:
        """Return the browser of the next cast of the run."""
        path = self._asking("following")
        told = self._insist(lambda: self._server.get(path)["browser"], self._stopped)
        return None if told is None else str(told)

    def at(self, sentence: str, step: str) -> None:
        """Take note of the sentence that is under way."""
        self._note("at", sentence=sentence, step=step)

    def ends(
        self, place: int, result: StepResult, console: Sequence[str], requests: Sequence[str]
    ) -> None:
        """Keep how a sentence ended."""
        self._note(
            "ends",
            place=place,
            result=result.as_json(),
            console=list(console),
            requests=list(requests),
        )

    def keep(self, content: bytes, mime: str) -> None:
        """Keep a picture or a file."""
        path = self._asking("contents", mime=mime)
        self._insist(lambda: self._server.read(path, content, ANSWER), self._stopped)

    def remember(self, element: str, nodes: Sequence[Facts]) -> None:
        """Let an element know what it looks like."""
        self._note("remember", element=element, nodes=[one.brief() for one in nodes])

    def saw(self, page: SeenPage) -> None:
        """Keep all that was on a page."""
        self._note(
            "saw",
            title=page.title,
            address=page.address,
            nodes=[one.brief() for one in page.nodes],
            picture=page.picture,
            step=page.step,
        )

    def file(self, name: str) -> bytes | None:
        """Return a file of the test."""
        if name not in self._work.files:
            return None
        path = self._asking("file", name=name)
        return self._insist(lambda: self._server.read(path), self._stopped)

    def over(self, ended: Ended | Lost, release: str, prover: Prover | None) -> None:
        """Take note of the end."""
        told = asdict(ended) | {"lost": isinstance(ended, Lost)}
        token = told.pop("token")
        told.pop("cast")
        body = {"token": token, "job": self._work.job, "ended": told, "release": release}
        self._insist(lambda: self._server.post(f"{self._path}/end", body), self._ending)

    def offers(self, script: Script, context: Session, live: Live) -> Offer | None:
        """Offer the row to nobody."""
        return None

    def proves(self, script: Script) -> Prover | None:
        """Hold the row against nothing."""
        return None
