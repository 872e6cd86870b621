"""Documents of tests, flows and shared tables: every change is a version, taking back too."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.problems import Conflict, Missing
from lantern.core.steps.model import Document
from lantern.store import acts, telling
from lantern.store.calls import check_calls
from lantern.store.database import tell
from lantern.store.models import Act, Test, Version
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
    session: Session,
    test: Test,
    document: Document,
    summary: str,
    account_id: int | None,
    *,
    fold: str = "",
) -> None:
    """Make a document the test's newest version; the test has to be locked.

    With `fold`, what its author did last under the same name is one version with it.
    """
    act = acts.current(session, account_id, test.id, summary, fold=fold)
    body = packed(session, document)
    newest = _folded(session, test, act, fold)
    if newest is not None:
        older = before(session, test.id, newest.number)
        summary = telling.told(session, unpacked(older), document, summary) if older else summary
    test.version += 1
    if any(test.body.get(part) != body.get(part) for part in _TABLE):
        test.table_version = test.version
    test.body = body
    test.changed_at = datetime.now(UTC)
    if newest is not None:
        newest.number, newest.body, newest.at = test.version, body, test.changed_at
        newest.summary = act.summary = summary
    else:
        session.add(
            Version(
                test_id=test.id,
                number=test.version,
                body=body,
                summary=summary,
                author_id=account_id,
                act_id=act.id,
            )
        )
    session.flush()
    tell(session, "test", id=test.id, version=test.version)
    if test.kind == "table":  # what uses it has other rows now
        for user in session.scalars(
            select(Test.id).filter(Test.body["table"].astext == str(test.id))
        ):
            tell(session, "test", id=user, version=0)


def _folded(session: Session, test: Test, act: Act, fold: str) -> Version | None:
    """Return the newest version where it is to become the one that is made now."""
    if not fold or test.baseline == test.version:
        return None
    newest = session.get(Version, (test.id, test.version))
    return newest if newest is not None and newest.act_id == act.id else None


def _version(session: Session, test_id: int, number: int) -> Version:
    version = session.get(Version, (test_id, number))
    if version is None:
        raise Missing(f"The test has no version {number}.", where="version")
    return version


def before(session: Session, test_id: int, number: int) -> Version | None:
    """Return the newest version below a number; numbers may be missing. None for none."""
    query = select(Version).filter(Version.test_id == test_id, Version.number < number)
    return session.scalars(query.order_by(Version.number.desc()).limit(1)).first()


def as_of(session: Session, test_id: int, number: int) -> Document:
    """Return a test as it was when it had a number, or shortly before; raises Missing."""
    version = session.get(Version, (test_id, number)) or before(session, test_id, number)
    if version is None:
        raise Missing(f"The test has no version {number}.", where="version")
    return unpacked(version)


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
