"""Acts: what one person did at once, in whatever tests and elements.

What is kept in one transaction is one act. The first that is kept makes it, unless it was begun
before under a name of its own.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.history.acts import Act as Done
from lantern.core.history.acts import holding, next_redo, next_undo
from lantern.core.problems import Missing
from lantern.store.models import Act

_KEY = "act"
LOOKED_BACK = 400
"""Acts of one person in one place among which the next to take back is looked for."""


def begin(
    session: Session,
    account_id: int | None,
    place: int | None,
    summary: str,
    *,
    undoes: int | None = None,
    fold: str = "",
) -> Act:
    """Begin the act that all that is kept in this transaction belongs to.

    `place` is the test in which it is done, None for the library. Without a `summary` it is
    called by what is kept first.
    """
    act = Act(account_id=account_id, place=place, summary=summary, undoes=undoes, fold=fold)
    session.add(act)
    session.flush()
    session.info[_KEY] = act
    return act


def current(
    session: Session,
    account_id: int | None,
    place: int | None,
    summary: str,
    *,
    fold: str = "",
) -> Act:
    """Return the act that is under way in this transaction, or begin one.

    With `fold`, the last act of that person in that place goes on if it has the same name.
    """
    act = under_way(session)
    if act is not None:
        act.summary = act.summary or summary
        return act
    if fold:
        newest = select(Act).filter_by(place=place).order_by(Act.id.desc()).limit(1)
        last = session.scalars(newest).first()
        if last is not None and (last.account_id, last.fold) == (account_id, fold):
            last.at = datetime.now(UTC)
            session.info[_KEY] = last
            return last
    return begin(session, account_id, place, summary, fold=fold)


def under_way(session: Session) -> Act | None:
    """Return the act that was begun in this transaction, if one was."""
    act = session.info.get(_KEY)
    return act if isinstance(act, Act) and act in session else None


def mine(session: Session, place: int, account_id: int | None) -> Sequence[Act]:
    """Return the newest acts of a person in a test, in the order of doing."""
    query = select(Act).filter_by(place=place, account_id=account_id).order_by(Act.id.desc())
    return list(reversed(session.scalars(query.limit(LOOKED_BACK)).all()))


def can_travel(session: Session, place: int, account_id: int | None) -> tuple[str, str]:
    """Return what a person would take back in a test, and do again; "" for nothing."""
    own = mine(session, place, account_id)
    said = {act.id: act.summary for act in own}
    done = [Done(act.id, act.undoes) for act in own]
    redo = next_redo(done)
    undone = next((act.undoes for act in own if act.id == redo), None)
    return said.get(next_undo(done) or 0, ""), said.get(undone or 0, "")


def next_of(session: Session, place: int, account_id: int | None, *, forward: bool) -> Act | None:
    """Return the act that a person takes back next in a test, or (forward) does again."""
    done = [Done(act.id, act.undoes) for act in mine(session, place, account_id)]
    key = next_redo(done) if forward else next_undo(done)
    return session.get(Act, key) if key else None


def known(session: Session, key: str) -> bool:
    """Tell whether an act that its author calls so was done."""
    return session.scalar(select(Act.id).filter_by(key=key)) is not None


def since(
    session: Session, places: Sequence[int], account_id: int | None, at: datetime
) -> list[tuple[Act, bool]]:
    """Return what a person did in some places since a time, and whether each was taken back."""
    query = select(Act).filter(Act.place.in_(places), Act.account_id == account_id, Act.at >= at)
    done = session.scalars(query.order_by(Act.id).limit(LOOKED_BACK)).all()
    live = holding([Done(one.id, one.undoes) for one in done])
    return [(one, one.id not in live) for one in done if one.undoes is None]


def get(session: Session, act_id: int) -> Act:
    """Return an act; raises Missing."""
    act = session.get(Act, act_id)
    if act is None:
        raise Missing("That is not known any more.", where=str(act_id))
    return act
