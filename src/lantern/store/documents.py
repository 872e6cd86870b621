"""Documents of tests, flows and shared tables: every change is a version, undo and redo too."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Conflict, Missing
from lantern.core.steps.model import Document
from lantern.store.calls import check_calls
from lantern.store.database import tell
from lantern.store.models import Test, Version
from lantern.store.rows import packed, unpacked

_TABLE = ("columns", "rows", "traits", "table", "source")
"""Parts of a document that make its table."""


def new_id() -> str:
    """Return a new id for a step or a row."""
    return uuid.uuid4().hex[:12]


def get(session: Session, test_id: int, *, lock: bool = False) -> Test:
    """Return a test, locked against other changes if asked; raises Missing."""
    query = select(Test).filter_by(id=test_id)
    if lock:
        query = query.with_for_update(of=Test).execution_options(populate_existing=True)
    test = session.scalar(query)
    if test is None:
        raise Missing("That test does not exist.", where=str(test_id))
    return test


def put(
    session: Session, test: Test, document: Document, summary: str, account_id: int | None
) -> None:
    """Make a document the test's newest version; the test has to be locked."""
    _store(session, test, packed(session, document), summary, account_id, test.version, None)


def undo(session: Session, test_id: int, account_id: int | None, *, base: int) -> Test:
    """Go back to what the test was before its last change; raises Conflict or BadInput."""
    return _travel(session, test_id, account_id, base, forward=False)


def redo(session: Session, test_id: int, account_id: int | None, *, base: int) -> Test:
    """Take the last undo back; raises Conflict or BadInput."""
    return _travel(session, test_id, account_id, base, forward=True)


def _travel(
    session: Session, test_id: int, account_id: int | None, base: int, *, forward: bool
) -> Test:
    test = get(session, test_id, lock=True)
    if base != test.version:
        raise Conflict(
            "The test was changed meanwhile.",
            hint="The newest version is shown now; undo again if you still want to.",
        )
    here = _version(session, test_id, test.version)
    target = here.redo_to if forward else here.undo_to
    if target is None:
        raise BadInput("There is nothing to redo." if forward else "There is nothing to undo.")
    there = _version(session, test_id, target)
    undo_to = here.number if forward else there.undo_to
    redo_to = there.redo_to if forward else here.number
    summary = "redo" if forward else "undo"
    _store(session, test, there.body, summary, account_id, undo_to, redo_to)
    return test


def _version(session: Session, test_id: int, number: int) -> Version:
    version = session.get(Version, (test_id, number))
    if version is None:
        raise Missing(f"The test has no version {number}.", where="version")
    return version


def _store(
    session: Session,
    test: Test,
    body: dict[str, object],
    summary: str,
    account_id: int | None,
    undo_to: int | None,
    redo_to: int | None,
) -> None:
    test.version += 1
    if any(test.body.get(part) != body.get(part) for part in _TABLE):
        test.table_version = test.version
    test.body = body
    test.changed_at = datetime.now(UTC)
    session.add(
        Version(
            test_id=test.id,
            number=test.version,
            body=body,
            summary=summary,
            author_id=account_id,
            undo_to=undo_to,
            redo_to=redo_to,
        )
    )
    session.flush()
    tell(session, "test", id=test.id, version=test.version)
    if test.kind == "table":  # what uses it has other rows now
        for user in session.scalars(
            select(Test.id).filter(Test.body["table"].astext == str(test.id))
        ):
            tell(session, "test", id=user, version=0)


def versions(session: Session, test_id: int, before: int | None, most: int) -> Sequence[Version]:
    """Return the newest versions of a test, those below the number `before` if one is given."""
    query = select(Version).filter_by(test_id=test_id).order_by(Version.number.desc()).limit(most)
    if before is not None:
        query = query.filter(Version.number < before)
    return session.scalars(query).all()


def document_of(session: Session, test_id: int, number: int) -> Document:
    """Return a test as it was in a version; raises Missing."""
    return unpacked(_version(session, test_id, number))


def restore(
    session: Session, test_id: int, number: int, account_id: int | None, *, base: int
) -> Test:
    """Make an earlier version the newest one; undo leads back. Raises Conflict or Missing."""
    test = get(session, test_id, lock=True)
    if base != test.version:
        raise Conflict("The test was changed meanwhile.", hint="Look at it and try once more.")
    document = document_of(session, test_id, number)
    check_calls(session, test, document)
    put(session, test, document, f"version {number} restored", account_id)
    return test


def set_baseline(session: Session, test_id: int, number: int | None) -> Test:
    """Mark a version as the test's clean run, or none; raises Missing for the version."""
    test = get(session, test_id, lock=True)
    if number is not None:
        _version(session, test_id, number)
    test.baseline = number
    session.flush()
    tell(session, "test", id=test.id, version=test.version)
    return test


def baseline_of(session: Session, test_id: int | None) -> int | None:
    """Return the number of a test's baseline; None when there is none or the test is gone."""
    return session.scalar(select(Test.baseline).filter_by(id=test_id)) if test_id else None


def can_travel(session: Session, test: Test) -> tuple[bool, bool]:
    """Tell whether there is something to undo and to redo."""
    version = _version(session, test.id, test.version)
    return version.undo_to is not None, version.redo_to is not None
