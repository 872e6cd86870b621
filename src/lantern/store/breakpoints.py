"""Breakpoints of people: kept until they are taken out, whatever page or station comes and goes."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from sqlalchemy import select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Missing
from lantern.core.rehearsing.breakpoints import Breakpoint, Condition
from lantern.store import documents, models
from lantern.store.database import tell
from lantern.store.rows import unpacked

MOST = 500
"""Breakpoints that one person may have."""


def of(session: Session, account_id: int | None) -> list[Breakpoint]:
    """Return the breakpoints of a person, in the order of making."""
    return [_read(row) for row in rows_of(session, account_id)]


def rows_of(session: Session, account_id: int | None) -> Sequence[models.Breakpoint]:
    """Return the rows of a person's breakpoints, in the order of making."""
    query = select(models.Breakpoint).filter_by(account_id=account_id)
    return session.scalars(query.order_by(models.Breakpoint.id)).all()


def _read(row: models.Breakpoint) -> Breakpoint:
    return Breakpoint(
        row.place, row.step_id, row.only_in, row.enabled, Condition.read(row.condition)
    )


def put(session: Session, account_id: int, point: Breakpoint) -> None:
    """Set a breakpoint at a sentence; one that is there already becomes as said.

    Raises Missing when there is no such sentence, BadInput when there are too many.
    """
    step = next(
        (
            one
            for one in unpacked(documents.get(session, point.place)).steps
            if one.id == point.step
        ),
        None,
    )
    if step is None:
        raise Missing("That sentence is not in the story any more.", where=point.step)
    if len(rows_of(session, account_id)) >= MOST:
        raise BadInput(f"One person has up to {MOST} breakpoints.", hint="Take some out.")
    if point.only_in is not None:
        documents.get(session, point.only_in)
    values = {
        "only_in": point.only_in,
        "enabled": point.enabled,
        "condition": point.condition.as_json(),
    }
    query = insert(models.Breakpoint).values(
        account_id=account_id, place=point.place, step_id=point.step, **values
    )
    session.execute(
        query.on_conflict_do_update(index_elements=["account_id", "place", "step_id"], set_=values)
    )
    _tell(session, account_id)


def drop(session: Session, account_id: int, place: int, steps: Collection[str]) -> None:
    """Take the breakpoints at some sentences out; those that are gone already are no trouble."""
    rows = session.scalars(
        select(models.Breakpoint).filter(
            models.Breakpoint.account_id == account_id,
            models.Breakpoint.place == place,
            models.Breakpoint.step_id.in_(steps),
        )
    )
    for row in rows:
        session.delete(row)
    _tell(session, account_id)


def all_off(session: Session, account_id: int | None) -> bool:
    """Tell whether all breakpoints of a person are switched off for the time being."""
    account = session.get(models.Account, account_id) if account_id else None
    return bool(account and account.breakpoints_off)


def switch(session: Session, account_id: int, *, off: bool) -> None:
    """Switch all breakpoints of a person off, or on again as they were."""
    query = update(models.Account).filter_by(id=account_id)
    session.execute(query.values(breakpoints_off=off))
    _tell(session, account_id)


def _tell(session: Session, account_id: int) -> None:
    tell(session, "breakpoints", account=account_id)
