"""Rows of tables, kept apart from documents in chunks that versions share.

A chunk is stored once under the SHA-256 of its JSON. Where a chunk ends depends on the rows' ids
(content-defined chunking), so a row that is put in, changed or taken out gives one new chunk,
however long the table is. `body["rows"]` of a test or version is {"chunks": [digest…], "count": n}.
"""

from __future__ import annotations

import hashlib
import json
import threading
import zlib
from collections import OrderedDict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, object_session

from lantern.core.data.table import Row
from lantern.core.problems import Missing
from lantern.core.steps.model import Document
from lantern.store.models import RowChunk, Test, Version

USUAL = 128
"""Rows in a chunk on average."""
MOST = 512
"""Rows in a chunk at the most."""
KEPT = 500
"""Chunks that a process keeps in memory."""


class _Known:
    """The chunks used last, by digest, and their digests by the very rows they hold."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._rows: OrderedDict[str, tuple[Row, ...]] = OrderedDict()
        self._digests: dict[tuple[int, ...], str] = {}

    def rows(self, digest: str) -> tuple[Row, ...] | None:
        with self._lock:
            found = self._rows.get(digest)
            if found is not None:
                self._rows.move_to_end(digest)
            return found

    def digest(self, rows: tuple[Row, ...]) -> str | None:
        """Return the digest of a chunk of these very objects, which are never changed."""
        with self._lock:
            return self._digests.get(tuple(map(id, rows)))

    def add(self, digest: str, rows: tuple[Row, ...]) -> tuple[Row, ...]:
        with self._lock:
            if digest in self._rows:
                return self._rows[digest]
            self._rows[digest] = rows
            self._digests[tuple(map(id, rows))] = digest
            if len(self._rows) > KEPT:
                _, old = self._rows.popitem(last=False)
                self._digests.pop(tuple(map(id, old)), None)
            return rows


_known = _Known()


def packed(session: Session, document: Document) -> dict[str, Any]:
    """Return a document as the body of a test or version, its rows stored as chunks."""
    body = replace(document, rows=()).as_json()
    body["rows"] = {"chunks": _store(session, document.rows), "count": len(document.rows)}
    return body


def unpacked(owner: Test | Version) -> Document:
    """Return the document of a test or a version, which belongs to a session."""
    session = object_session(owner)
    if session is None:
        raise RuntimeError("A test that belongs to no session can not be read.")
    rows = _load(session, owner.body["rows"]["chunks"])
    return replace(Document.read({**owner.body, "rows": ()}), rows=tuple(rows))


def row_count(owner: Test | Version) -> int:
    """Return how many rows a test or version has of its own."""
    number: int = owner.body["rows"]["count"]
    return number


def chunks(rows: Iterable[Row]) -> Iterator[tuple[Row, ...]]:
    """Split rows into chunks; the same neighbours make the same chunk wherever they stand."""
    chunk: list[Row] = []
    for row in rows:
        chunk.append(row)
        if len(chunk) == MOST or zlib.crc32(row.id.encode()) % USUAL == 0:
            yield tuple(chunk)
            chunk = []
    if chunk:
        yield tuple(chunk)


def _store(session: Session, rows: Sequence[Row]) -> list[str]:
    """Store rows; returns the digests of their chunks, which are there until the session ends.

    A chunk that was needed by nothing may be tidied away at any time: those that are there are
    held, whoever knows of them, and the others are stored.
    """
    wanted: dict[str, tuple[Row, ...]] = {}
    digests: list[str] = []
    for chunk in chunks(rows):
        digest = _known.digest(chunk) or _digest(chunk)
        wanted[digest] = chunk
        digests.append(digest)
    if not wanted:
        return digests
    held = select(RowChunk.digest).filter(RowChunk.digest.in_(sorted(wanted)))
    there = set(session.scalars(held.with_for_update(key_share=True, read=True)))
    fresh = [digest for digest in sorted(wanted) if digest not in there]
    if fresh:
        given = [{"digest": one, "rows": [row.as_json() for row in wanted[one]]} for one in fresh]
        session.execute(insert(RowChunk).values(given).on_conflict_do_nothing())
    return digests


def _digest(chunk: Sequence[Row]) -> str:
    raw = [row.as_json() for row in chunk]
    text = json.dumps(raw, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


def _load(session: Session, digests: Sequence[str]) -> Iterator[Row]:
    found = {digest: _known.rows(digest) for digest in digests}
    missing = [digest for digest, rows in found.items() if rows is None]
    if missing:
        for chunk in session.scalars(select(RowChunk).filter(RowChunk.digest.in_(missing))):
            found[chunk.digest] = _known.add(chunk.digest, tuple(map(Row.read, chunk.rows)))
    for digest in digests:
        known = found[digest]
        if known is None:
            raise Missing(
                "Rows of this table are missing from the database.",
                where=digest,
                hint="Restore the database from a backup, or an earlier version of the table.",
            )
        yield from known
