"""Tests: made, found, changed, copied. Their versions are in `documents`."""

from __future__ import annotations

from dataclasses import replace

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Missing
from lantern.core.steps.edits import Edit, RenameColumn, apply, check_fresh
from lantern.core.steps.model import INHERITED, Document, Settings
from lantern.store import acts, files, tables, telling
from lantern.store.calls import check_calls
from lantern.store.database import tell
from lantern.store.documents import (
    as_of,
    baseline_of,
    document_of,
    get,
    new_id,
    put,
    restore,
    set_baseline,
    versions,
)
from lantern.store.models import Environment, Test, TestFile, Version
from lantern.store.rows import packed, unpacked

__all__ = [
    "baseline_of",
    "check_name",
    "copy",
    "create",
    "document_of",
    "edit",
    "get",
    "named",
    "new_id",
    "put",
    "restore",
    "set_baseline",
    "versions",
]

LONGEST_NAME = 200


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
    new = Document(settings=Settings(inherits=INHERITED))
    body = packed(session, document or new)
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


def named(session: Session, name: str) -> Test:
    """Return the test of that name or number; raises Missing with the nearest name."""
    test = session.scalar(select(Test).filter(func.lower(Test.name) == name.strip().lower()))
    if test is None and name.isdecimal():
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
    fold: str = "",
    key: str | None = None,
) -> Test:
    """Apply an edit to a test as a new version.

    `base` is the version that the edit was made on; None for the newest. With `fold`, what the
    same person did last under the same name is one version with it. An edit whose `key` is known
    was made before, and is not made again. Raises Conflict when what the edit touches has changed
    since, Missing or BadInput when it makes no sense.
    """
    test = get(session, test_id, lock=True)
    if key and acts.known(session, key):
        return test
    stored = unpacked(test)
    current = tables.filled(session, stored)
    if base is not None and base != test.version:
        then = tables.filled(session, as_of(session, test_id, base))
        check_fresh(change, then, current)
    document = apply(current, change, new_id)
    if document == current:
        return test
    check_calls(session, test, document)
    told = telling.told(session, current, document, change.told)
    act = acts.current(session, account_id, test_id, told, fold=fold)
    act.key = key or act.key
    if isinstance(change, RenameColumn):
        tables.rename_in_others(session, test, change, account_id)
    own = tables.put_apart(session, current, document, told, account_id)
    if own != stored:
        put(session, test, own, told, account_id, fold=fold)
    return test


def copy(
    session: Session, test_id: int, name: str, account_id: int | None, until: str | None = None
) -> Test:
    """Copy a test under a new name, with the steps up to and with `until`, or all."""
    source = get(session, test_id)
    document = unpacked(source)
    steps = document.steps
    if until:
        steps = steps[: steps.index(document.step(until)) + 1]
    fresh = replace(document, steps=steps, design={})
    made = create(session, name, source.environment_id, account_id, fresh, kind=source.kind)
    for kept in files.listed(session, source.id):
        session.add(TestFile(test_id=made.id, name=kept.name, digest=kept.digest, size=kept.size))
    session.flush()
    return made
