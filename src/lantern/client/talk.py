"""Talking to a Lantern over its API, with a token."""

from __future__ import annotations

import json
import urllib.error
import urllib.parse
import urllib.request
from http.client import HTTPException
from typing import Any

LIMIT = 30.0
"""Seconds that an answer may take."""


class _Stay(urllib.request.HTTPRedirectHandler):
    """Follows nobody elsewhere: the token is for the address that was given alone."""

    def redirect_request(self, *_: object) -> None:
        """Return nothing: a redirection is an answer like any other that was not wanted."""


_OPENER = urllib.request.build_opener(_Stay)


class Refused(Exception):
    """Lantern does not do it: what it said, and what to do; `status` is that of HTTP, or 0."""

    def __init__(self, said: str, status: int = 0) -> None:
        super().__init__(said)
        self.status = status


class Unreached(Exception):
    """Nobody answered at the address."""


class Server:
    """A Lantern at an address, to which one is let in by a token."""

    def __init__(self, address: str, token: str) -> None:
        if not address.startswith(("http://", "https://")):
            raise Refused(f"{address} is no address: begin it with https:// or http://.")
        self.address = address.rstrip("/")
        self._token = token

    def get(self, path: str, **query: object) -> Any:  # noqa: ANN401 - any JSON
        """Return what stands at a path; raises Refused or Unreached."""
        asked = "?" + urllib.parse.urlencode(query) if query else ""
        return self._told(self.read(path + asked))

    def post(self, path: str, body: object = None) -> Any:  # noqa: ANN401 - any JSON
        """Post to a path and return the answer; raises Refused or Unreached."""
        return self._told(self.read(path, json.dumps(body or {}).encode()))

    def _told(self, content: bytes) -> Any:  # noqa: ANN401 - any JSON
        try:
            return json.loads(content)
        except ValueError as error:  # such as the page of a network that wants a sign-in
            raise Unreached(f"Somebody else answers at {self.address}.") from error

    def read(self, path: str, body: bytes | None = None, kind: str = "application/json") -> bytes:
        """Return the bytes of an answer to a body of a kind; raises Refused or Unreached."""
        headers = {"Authorization": f"Bearer {self._token}", "Content-Type": kind}
        request = urllib.request.Request(f"{self.address}/api{path}", body, headers)  # noqa: S310
        try:
            with _OPENER.open(request, timeout=LIMIT) as answer:
                content: bytes = answer.read()
                return content
        except urllib.error.HTTPError as error:
            raise Refused(_said(error), error.code) from error
        except (OSError, ValueError, HTTPException) as error:  # such as half an answer
            raise Unreached(f"{self.address} does not answer: {error}") from error


def _said(error: urllib.error.HTTPError) -> str:
    try:
        told = json.loads(error.read())
        return f"{told['message']} {told.get('hint', '')}".strip()
    except (ValueError, KeyError, TypeError):
        to = error.headers.get("Location")
        led = f" It leads to {to}: give that address." if to else ""
        return f"The answer was {error.code}: is this the address of a Lantern?{led}"
