"""Shared tables: rows that several tests use. Each is kept as a document of its own."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.problems import Conflict, Missing
from lantern.core.steps.edits import RenameColumn, apply
from lantern.core.steps.model import Document
from lantern.store import documents
from lantern.store.models import Test
from lantern.store.paging import Order, Page, page
from lantern.store.rows import unpacked

TABLE = "table"


def get(session: Session, table_id: int, *, lock: bool = False) -> Test:
    """Return a shared table; raises Missing."""
    table = documents.get(session, table_id, lock=lock)
    if table.kind != TABLE:
        raise Missing("That table does not exist.", where=str(table_id))
    return table


def listed(session: Session, words: str = "", after: str = "") -> Page[Test]:
    """Return a page of the shared tables by name; `words` are looked for in names.

    Raises BadInput for an `after` that is none.
    """
    query = select(Test).filter_by(kind=TABLE)
    if words:
        query = query.filter(Test.name.icontains(words, autoescape=True))
    found = page(session, query, Order((func.lower(Test.name), Test.id.expression)), after)
    return Page([row[0] for row in found.rows], found.next)


def users(session: Session, ids: Collection[int]) -> dict[int, list[str]]:
    """Return the names of the tests that take their rows from shared tables, by table."""
    owner = Test.body["table"].astext
    query = select(owner, Test.name).filter(owner.in_([str(one) for one in ids]))
    found: dict[int, list[str]] = {}
    for table, name in session.execute(query.order_by(Test.name)):
        found.setdefault(int(table), []).append(name)
    return found


def uses(session: Session, table_id: int) -> Sequence[Test]:
    """Return the tests that take their rows from a shared table, by name."""
    query = select(Test).filter(Test.body["table"].astext == str(table_id)).order_by(Test.name)
    return session.scalars(query).all()


def owner(session: Session, test: Test) -> Test:
    """Return where the rows of a test are: a shared table, or the test itself."""
    table_id = str(test.body.get("table") or "")
    return get(session, int(table_id)) if table_id else test


def filled(session: Session, document: Document) -> Document:
    """Return a document with the columns and rows of its shared table, if it has one."""
    if not document.table:
        return document
    shared = unpacked(get(session, int(document.table)))
    return replace(document, columns=shared.columns, rows=shared.rows, traits=shared.traits)


def emptied(document: Document) -> Document:
    """Return a document without the columns and rows that are those of its shared table."""
    if not document.table:
        return document
    return replace(document, columns=(), rows=(), traits={})


def put_apart(
    session: Session, before: Document, after: Document, told: str, account_id: int | None
) -> Document:
    """Write what changed of a shared table to the table; returns what is the test's own."""
    if after.table and after.table == before.table:
        parts = (after.columns, after.rows, after.traits)
        if parts != (before.columns, before.rows, before.traits):
            table = get(session, int(after.table), lock=True)
            own = unpacked(table)
            columns, rows, traits = parts
            changed = replace(own, columns=columns, rows=rows, traits=traits)
            documents.put(session, table, changed, told, account_id)
    return emptied(after)


def rename_in_others(
    session: Session, test: Test, change: RenameColumn, account_id: int | None
) -> None:
    """Let all other tests that use the same shared table follow a column to its new name."""
    table_id = test.id if test.kind == TABLE else int(test.body.get("table") or 0)
    if not table_id:
        return
    for other in uses(session, table_id):
        if other.id == test.id:
            continue
        locked = documents.get(session, other.id, lock=True)
        own = unpacked(locked)
        follows = apply(filled(session, own), change, documents.new_id)
        if follows.steps != own.steps:
            changed = replace(own, steps=follows.steps, design=follows.design)
            documents.put(session, locked, changed, change.told, account_id)


def use(
    session: Session, test_id: int, table_id: int | None, account_id: int | None, *, base: int
) -> Test:
    """Let a test take its rows from a shared table, or (None) have a copy of them for itself.

    Raises Conflict when the test has changed since version `base`.
    """
    test = documents.get(session, test_id, lock=True)
    if base != test.version:
        raise Conflict("The test was changed meanwhile.", hint="Look at it and try once more.")
    document = unpacked(test)
    if table_id is None:
        changed = replace(filled(session, document), table="")
        documents.put(session, test, changed, "rows of its own", account_id)
        return test
    table = get(session, table_id)
    changed = emptied(replace(document, table=str(table.id), source={}))
    documents.put(session, test, changed, f"rows from “{table.name}”", account_id)
    return test


def delete(session: Session, table_id: int) -> None:
    """Delete a shared table; raises Conflict while tests use it."""
    table = get(session, table_id, lock=True)
    names = [f"“{test.name}”" for test in uses(session, table_id)]
    if names:
        raise Conflict(
            f"The table “{table.name}” is used by {', '.join(names)}.",
            where=table.name,
            hint="Give those tests rows of their own first.",
        )
    session.delete(table)
    session.flush()
