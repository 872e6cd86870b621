"""Speaking to a tracker in plain REST: items are JSON under one address.

- `POST {address}` with an item makes one, `PATCH {address}/{key}` changes parts of it,
  `GET {address}/{key}` returns it: each answers with the whole item.
- `POST {address}/{key}/comments` with a text and its author comments on it.
- `GET {address}` is asked to find out whether one is let in; its body is not read.
- What makes something carries an `Idempotency-Key` (draft-ietf-httpapi-idempotency-key-header): who
  gets one a second time answers with what it made the first time.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from http import HTTPStatus
from typing import Any
from urllib.parse import quote

from lantern.core.review.handing import FieldMap, Seen, item_of, seen
from lantern.core.storable import read_json
from lantern.core.values.redaction import redacted
from lantern.web.outbound import LARGEST, Answer, Unanswered, ask
from lantern.web.trackers.said import Gone, Untaken

UNKNOWN = (HTTPStatus.NOT_FOUND, HTTPStatus.GONE)
WRONG = (HTTPStatus.BAD_REQUEST, HTTPStatus.UNPROCESSABLE_ENTITY)
"""Answers that say that it is no use to send the same again."""
LONGEST_SAID = 300


class Rest:
    """A tracker at an address, which lets in who sends these headers."""

    def __init__(self, address: str, headers: Mapping[str, str], mapping: FieldMap) -> None:
        self._address = address
        self._headers = {"Accept": "application/json", **headers}
        # What lets Lantern in may come back in an answer, whole or without the word before it.
        self._secrets = [part for value in headers.values() for part in (value, *value.split())]
        self._mapping = mapping

    def create(self, values: Mapping[str, Any], reference: str) -> Seen:
        """Make an item; raises Untaken."""
        body = item_of({**self._mapping.fixed, **values})
        made = self._item("POST", "", body, {"Idempotency-Key": reference})
        if not made.key:
            raise Untaken(f"Its answer has no “{self._mapping.key}”.", for_good=True)
        return made

    def update(self, key: str, values: Mapping[str, Any]) -> Seen:
        """Change parts of an item; raises Untaken or Gone."""
        return self._item("PATCH", key, item_of(values), {})

    def comment(self, key: str, text: str, author: str, reference: str) -> None:
        """Comment on an item; raises Untaken or Gone."""
        body = item_of({self._mapping.said: text, "author": author})
        self._ask("POST", f"{self._of(key)}/comments", body, {"Idempotency-Key": reference})

    def look(self, key: str) -> Seen:
        """Return how an item is; raises Untaken or Gone."""
        return self._item("GET", key, None, {})

    def reach(self) -> None:
        """Find out whether one is let in; raises Untaken."""
        self._ask("GET", self._address, None, {})

    def _of(self, key: str) -> str:
        return f"{self._address}/{quote(key, safe='')}"

    def _item(
        self, method: str, key: str, body: Mapping[str, Any] | None, more: Mapping[str, str]
    ) -> Seen:
        address = self._of(key) if key else self._address
        answer = self._ask(method, address, body, more)
        try:
            found = read_json(answer.body)
        except ValueError:
            found = None
        if not isinstance(found, dict):
            raise Untaken("Its answer is no JSON object.", for_good=method == "POST")
        return seen(self._mapping, found)

    def _ask(
        self, method: str, address: str, body: Mapping[str, Any] | None, more: Mapping[str, str]
    ) -> Answer:
        headers = {**self._headers, **more}
        raw = None
        if body is not None:
            raw = json.dumps(body).encode()
            headers["Content-Type"] = "application/json"
        try:
            answer = ask(method, address, raw, headers, LARGEST)
        except Unanswered as error:
            raise Untaken(redacted(str(error), self._secrets)) from error
        if answer.taken:
            return answer
        said = f"The answer was {answer.status} {answer.reason}: {_words(answer.body)}".rstrip(": ")
        said = redacted(said, self._secrets)
        if answer.status in UNKNOWN and address != self._address:
            raise Gone(said, for_good=True)
        raise Untaken(said, for_good=answer.status in WRONG)


def _words(body: bytes) -> str:
    """Return the beginning of what was said, in one line."""
    return " ".join(body.decode(errors="replace").split())[:LONGEST_SAID]
