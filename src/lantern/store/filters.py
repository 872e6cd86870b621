"""Filters of lists that people save for themselves."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Missing, UnknownName
from lantern.store.models import SavedFilter

VIEWS = ("defects",)
"""The lists whose filters can be saved."""
MOST, LONGEST_NAME, LONGEST_VALUE = 30, 60, 300


def of(session: Session, account: int, view: str) -> Sequence[SavedFilter]:
    """Return a person's filters of a list, by name; raises UnknownName."""
    if view not in VIEWS:
        raise UnknownName("list", view, VIEWS, where="view")
    query = select(SavedFilter).filter_by(account_id=account, view=view)
    return session.scalars(query.order_by(func.lower(SavedFilter.name))).all()


def put(
    session: Session, account: int, view: str, name: str, body: Mapping[str, str]
) -> SavedFilter:
    """Save a filter under its name, in place of an older one; raises BadInput or UnknownName."""
    name = " ".join(name.split())
    if not 0 < len(name) <= LONGEST_NAME:
        raise BadInput(f"A filter's name has 1 to {LONGEST_NAME} letters.", where="name")
    if any(len(value) > LONGEST_VALUE for value in body.values()) or len(body) > MOST:
        raise BadInput("That is too much for a filter.", where="body")
    if len(of(session, account, view)) >= MOST:
        raise BadInput(f"Up to {MOST} filters are saved.", where="name")
    row = {"account_id": account, "view": view, "name": name, "body": dict(body)}
    made = (
        insert(SavedFilter)
        .values(**row)
        .on_conflict_do_update(
            index_elements=["account_id", "view", "name"], set_={"body": dict(body)}
        )
    )
    key = session.scalar(made.returning(SavedFilter.id))
    return session.get_one(SavedFilter, key, populate_existing=True)


def drop(session: Session, account: int, key: int) -> None:
    """Forget one's own filter; raises Missing."""
    row = session.get(SavedFilter, key)
    if row is None or row.account_id != account:
        raise Missing("You have no such filter.", where=str(key))
    session.delete(row)
