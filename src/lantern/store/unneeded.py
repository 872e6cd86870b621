"""Contents that are kept once under a digest, and nothing needs any more."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, String, delete, exists, select, text, true

from lantern.store.database import Database
from lantern.store.models import Picture, RowChunk

MANY = 500
"""Contents that one transaction deletes."""
Stop = Callable[[], bool]


@dataclass(frozen=True)
class Kept:
    """Contents of a table: its digests, and when each was kept last where that is known.

    `needed` is a query of the digests that something names, `again` one of those that may be
    named since: it is asked once more, under a lock.
    """

    table: type[Picture] | type[RowChunk]
    digest: ColumnElement[str]
    needed: str
    again: str
    at: ColumnElement[datetime] | None = None


SHOWN = """
SELECT picture AS digest FROM results WHERE picture <> ''
UNION ALL SELECT picture FROM saved_pages WHERE picture <> ''
UNION ALL SELECT picture FROM defects WHERE picture <> ''
UNION ALL SELECT digest FROM defect_files
UNION ALL SELECT digest FROM test_files"""
NAMED = """
UNION ALL SELECT f.value #>> '{}' FROM runs, jsonb_each(runs.files) f
UNION ALL SELECT f ->> 'digest' FROM results, jsonb_array_elements(details -> 'files') f
    WHERE details -> 'files' <> '[]'
UNION ALL SELECT p #>> '{}' FROM tests, jsonb_path_query(body, '$.steps[*].picture') p
UNION ALL SELECT p #>> '{}' FROM versions, jsonb_path_query(body, '$.steps[*].picture') p
UNION ALL SELECT p #>> '{}' FROM runs, jsonb_path_query(body, '$.steps[*].picture') p
UNION ALL SELECT p #>> '{}' FROM runs, jsonb_each(flows) f,
    jsonb_path_query(f.value, '$.body.steps[*].picture') p"""
ROWS = """
SELECT c #>> '{}' AS digest FROM tests, jsonb_array_elements(body #> '{rows,chunks}') c
UNION ALL SELECT c #>> '{}' FROM versions, jsonb_array_elements(body #> '{rows,chunks}') c"""

# Whatever else begins to need a picture keeps it anew, which shows in `at`.
PICTURES = Kept(Picture, Picture.digest.expression, SHOWN + NAMED, SHOWN, Picture.at.expression)
CHUNKS = Kept(RowChunk, RowChunk.digest.expression, ROWS, ROWS)


def parts(ids: Sequence[Any], size: int, stop: Stop) -> Iterator[Sequence[Any]]:
    """Yield ids in parts of some size, until it is to stop."""
    for start in range(0, len(ids), size):
        if stop():
            return
        yield ids[start : start + size]


def free(database: Database, what: Kept, before: datetime, stop: Stop) -> Iterator[int]:
    """Free what nothing needs and was kept `before`; yields how much each transaction freed."""
    old = _kept_before(what, before)
    with database.session() as session:
        digests = session.scalars(select(what.digest).filter(_unneeded(what, what.needed), old))
        found = list(digests)
    for part in parts(found, MANY, stop):
        with database.session() as session:
            named = what.digest.in_(part)
            locked = select(what.digest).filter(named, old).with_for_update(skip_locked=True)
            there = list(session.scalars(locked))
            # A statement of its own sees what was committed while the lock was waited for.
            named = what.digest.in_(there)
            still = select(what.digest).filter(_unneeded(what, what.again), old, named)
            gone = list(session.scalars(still))
            session.execute(delete(what.table).filter(what.digest.in_(gone)))
            yield len(gone)


def _unneeded(what: Kept, by: str) -> ColumnElement[bool]:
    needed = text(by).columns(digest=String).subquery("needed")
    return ~exists().where(needed.c.digest == what.digest)


def _kept_before(what: Kept, when: datetime) -> ColumnElement[bool]:
    return true() if what.at is None else what.at < when
