"""Tests and their versions: every change is a version, undo and redo are versions too."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Conflict, Missing
from lantern.core.steps.edits import Edit, apply, check_fresh
from lantern.core.steps.model import Document
from lantern.store import files
from lantern.store.calls import check_calls
from lantern.store.database import tell
from lantern.store.models import Environment, Run, Test, TestFile, Version

LONGEST_NAME = 200


def new_id() -> str:
    """Return a new id for a step or a row."""
    return uuid.uuid4().hex[:12]


def check_name(session: Session, name: str, but: int | None = None) -> str:
    """Return the tidied name of a test; raises BadInput when it is empty, long or taken."""
    name = " ".join(name.split())
    if not name or len(name) > LONGEST_NAME:
        raise BadInput(f"A test's name has 1 to {LONGEST_NAME} characters.", where="name")
    taken = session.scalar(select(Test.id).filter(func.lower(Test.name) == name.lower()))
    if taken not in (None, but):
        raise BadInput(f"There is a test or flow named “{name}” already.", where="name")
    return name


def create(
    session: Session,
    name: str,
    environment_id: int,
    account_id: int | None,
    document: Document | None = None,
    *,
    kind: str = "test",
) -> Test:
    """Create a test or a flow; raises BadInput for its name, Missing for the environment."""
    if session.get(Environment, environment_id) is None:
        raise Missing("That environment does not exist.", where="environment")
    body = (document or Document()).as_json()
    test = Test(
        kind=kind,
        name=check_name(session, name),
        environment_id=environment_id,
        body=body,
        version=1,
        created_by=account_id,
    )
    session.add(test)
    session.flush()
    session.add(
        Version(test_id=test.id, number=1, body=body, summary="created", author_id=account_id)
    )
    tell(session, "test", id=test.id, version=1)
    return test


def get(session: Session, test_id: int, *, lock: bool = False) -> Test:
    """Return a test, locked against other changes if asked; raises Missing."""
    query = select(Test).filter_by(id=test_id)
    if lock:
        query = query.with_for_update(of=Test).execution_options(populate_existing=True)
    test = session.scalar(query)
    if test is None:
        raise Missing("That test does not exist.", where=str(test_id))
    return test


def named(session: Session, name: str) -> Test:
    """Return the test of that name or number; raises Missing with the nearest name."""
    test = session.scalar(select(Test).filter(func.lower(Test.name) == name.strip().lower()))
    if test is None and name.isdigit():
        test = session.get(Test, int(name))
    if test is None:
        names = ", ".join(f"“{known}”" for known in session.scalars(select(Test.name)).all()[:20])
        raise Missing(f"There is no test “{name}”.", hint=f"Known: {names or 'none yet'}.")
    return test


def edit(
    session: Session,
    test_id: int,
    change: Edit,
    account_id: int | None,
    *,
    base: int | None = None,
) -> Test:
    """Apply an edit to a test as a new version.

    `base` is the version that the edit was made on; None for the newest. Raises Conflict when
    what it touches has changed since, Missing or BadInput when it makes no sense.
    """
    test = get(session, test_id, lock=True)
    current = Document.read(test.body)
    if base is not None and base != test.version:
        check_fresh(change, Document.read(_version(session, test_id, base).body), current)
    document = apply(current, change, new_id)
    check_calls(session, test, document)
    _store(session, test, document.as_json(), change.told, account_id, test.version, None)
    return test


def put(
    session: Session, test: Test, document: Document, summary: str, account_id: int | None
) -> None:
    """Make a document the test's newest version; the test has to be locked."""
    _store(session, test, document.as_json(), summary, account_id, test.version, None)


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


def versions(session: Session, test_id: int, before: int | None, most: int) -> Sequence[Version]:
    """Return the newest versions of a test, those below the number `before` if one is given."""
    query = select(Version).filter_by(test_id=test_id).order_by(Version.number.desc()).limit(most)
    if before is not None:
        query = query.filter(Version.number < before)
    return session.scalars(query).all()


def document_of(session: Session, test_id: int, number: int) -> Document:
    """Return a test as it was in a version; raises Missing."""
    return Document.read(_version(session, test_id, number).body)


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


def copy(
    session: Session, test_id: int, name: str, account_id: int | None, until: str | None = None
) -> Test:
    """Copy a test under a new name, with the steps up to and with `until`, or all."""
    source = get(session, test_id)
    document = Document.read(source.body)
    steps = document.steps
    if until:
        steps = steps[: steps.index(document.step(until)) + 1]
    fresh = replace(document, steps=steps, design={})
    made = create(session, name, source.environment_id, account_id, fresh, kind=source.kind)
    for kept in files.listed(session, source.id):
        session.add(TestFile(test_id=made.id, name=kept.name, digest=kept.digest, size=kept.size))
    session.flush()
    return made


def listed(session: Session) -> Sequence[tuple[Test, Run | None]]:
    """Return all tests with the newest run on record of each, newest change first."""
    newest = (
        select(Run.test_id, func.max(Run.id).label("run_id"))
        .filter(Run.kind == "run")
        .group_by(Run.test_id)
        .subquery()
    )
    query = (
        select(Test, Run)
        .outerjoin(newest, newest.c.test_id == Test.id)
        .outerjoin(Run, Run.id == newest.c.run_id)
        .filter(Test.kind == "test")
        .order_by(Test.changed_at.desc())
    )
    return [(test, run) for test, run in session.execute(query)]
