"""What watches pages put into each document before its own scripts run, over WebDriver BiDi.

Where a driver offers BiDi beside its commands (`webSocketUrl`), a preload script is added once for
the session: https://www.w3.org/TR/webdriver-bidi/#command-script-addPreloadScript.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from contextlib import suppress
from typing import TYPE_CHECKING, Any
from urllib.parse import urlsplit, urlunsplit

from websockets.exceptions import WebSocketException
from websockets.sync.client import ClientConnection, connect

from lantern.browser.classic.scripts import install
from lantern.browser.errors import BrowserError
from lantern.core.storable import read_json

if TYPE_CHECKING:
    from lantern.browser.remote.engine import Setup

LIMIT, OPENS = 10.0, 3.0
"""Seconds for an answer, and for the connection: it may lead nowhere from here."""
LARGEST = 16 * 1024 * 1024


class Ahead:
    """A connection whose preload script holds as long as the session does."""

    def __init__(self, connection: ClientConnection) -> None:
        self._connection = connection

    @classmethod
    def of(cls, told: Mapping[str, Any], setup: Setup, key: str) -> Ahead | None:
        """Put the script in place where the driver offers BiDi, else return None.

        Raises BrowserError where it offers it and does not do it.
        """
        address = told.get("webSocketUrl")
        if not isinstance(address, str):
            return None
        where = _as_reached(address, setup.address)
        # Who is let in is said to the server that it was meant for, and to no other.
        own = urlsplit(where).hostname == urlsplit(setup.address).hostname
        headers = setup.wire().headers if own else {}
        try:
            connection = connect(
                where, open_timeout=OPENS, proxy=None, max_size=LARGEST, additional_headers=headers
            )
        except (OSError, WebSocketException, ValueError) as error:
            raise BrowserError(f"The driver's BiDi does not answer: {error}") from error
        made = cls(connection)
        try:
            made._ask("script.addPreloadScript", functionDeclaration=f"() => {{ {install(key)} }}")
        except BaseException:
            made.close()
            raise
        return made

    def _ask(self, method: str, **params: object) -> None:
        try:
            self._connection.send(json.dumps({"id": 1, "method": method, "params": params}))
            while (told := read_json(self._connection.recv(LIMIT))).get("id") != 1:
                pass
        except (TimeoutError, WebSocketException, ValueError) as error:
            raise BrowserError("The driver's BiDi gave no answer.") from error
        if told.get("type") != "success":
            raise BrowserError(str(told.get("message") or "The driver's BiDi refused."))

    def close(self) -> None:
        """End the connection."""
        with suppress(OSError, WebSocketException):
            self._connection.close()


def _as_reached(address: str, driver: str) -> str:
    """Return where a driver's BiDi answers from here.

    It may say an address of its own machine, which leads nowhere from another: then its host is
    that at which the driver itself was reached.
    """
    said, reached = urlsplit(address), urlsplit(driver)
    local = said.hostname in ("localhost", "127.0.0.1", "0.0.0.0", "::1", None)  # noqa: S104
    if not local or said.hostname == reached.hostname:
        return address
    port = f":{said.port}" if said.port else ""
    return urlunsplit((said.scheme, f"{reached.hostname}{port}", said.path, said.query, ""))
