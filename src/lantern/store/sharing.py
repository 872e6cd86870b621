"""Sharing the stations in the database: the priority of what is offered, and what was begun."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import BigInteger, Integer, Row, delete, func, select, text, update
from sqlalchemy.orm import Session

from lantern.core.plans import sharing
from lantern.core.problems import BadInput, Missing
from lantern.core.runs.life import RUN_OVER
from lantern.store.database import tell
from lantern.store.models import Cast, PlanRun, Run, Share

MOST_SHOWN = 200
LATE = 1_000_000.0
"""The virtual time from which on it begins anew when it can."""


def tries(session: Session) -> Share:
    """Return the share of all tries."""
    return session.scalars(select(Share).filter(Share.tries)).one()


def new(session: Session, weight: int = 1, ahead: float = 0.0) -> Share:
    """Return a new share."""
    share = Share(weight=weight, ahead=ahead)
    session.add(share)
    session.flush()
    return share


def priority(session: Session, share_id: int) -> int:
    """Return the priority of one more offer of a share, which is locked until the session ends."""
    row = session.get_one(Share, share_id, with_for_update=True, populate_existing=True)
    now = session.scalar(select(func.max(Share.served))) or 0.0
    share, found = sharing.offered(sharing.Share(row.weight, row.ahead, row.boost, row.tag), now)
    row.tag = share.tag
    return found


_PRIORITY = text("SELECT priority FROM procrastinate_jobs WHERE id = :job")


def took(session: Session, share_id: int | None, job: int) -> None:
    """Take note that what a job offers has begun: the virtual time goes on."""
    if share_id is None:
        return
    # Locked, since who moves a share moves its jobs with it: the two have to fit together.
    share = session.get(Share, share_id, with_for_update=True, populate_existing=True)
    found = session.scalar(_PRIORITY, {"job": job})
    if share is not None and found is not None:
        share.served = max(share.served, sharing.tag_of(found, share.boost))


_MOVE = text(
    "UPDATE procrastinate_jobs SET priority = priority + :more WHERE status IN ('todo', 'doing') "
    "AND id IN (SELECT c.job FROM casts c JOIN runs r ON r.id = c.run_id WHERE r.share_id = :share)"
)


def move(session: Session, share_id: int, boost: int) -> None:
    """Let all that a share has waiting go before (1) or behind (-1) all others, or as usual (0).

    Raises Missing when it is gone, BadInput for another boost.
    """
    if boost not in (-1, 0, 1):
        raise BadInput("It goes first, last or as usual: 1, -1 or 0.", where="boost")
    row = session.get(Share, share_id, with_for_update=True, populate_existing=True)
    if row is None or row.tries:
        raise Missing("That is not waiting any more.", where=str(share_id))
    more = (boost - row.boost) * sharing.BAND
    row.boost = boost
    session.flush()
    session.execute(_MOVE, {"share": share_id, "more": more})
    tell(session, "queue")


_OFFERED = text(
    "SELECT id, priority FROM procrastinate_jobs "
    "WHERE status = 'todo' AND queue_name LIKE 'casts.%'"
).columns(id=BigInteger, priority=Integer)


def waiting(session: Session) -> Sequence[Row[Any]]:
    """Return what waits in the queue, in the order in which it is given out.

    Each row has the cast's id, row and browser, its run and its plan's, its share and its boost,
    and whether it is a try; MOST_SHOWN at most.
    """
    offered = _OFFERED.subquery()
    shown: tuple[Any, ...] = (
        Cast.id,
        Cast.number,
        Cast.browser,
        Run.id.label("run"),
        Run.kind,
        Run.test_name,
        Run.plan_run_id,
        func.coalesce(PlanRun.plan_name, "").label("plan"),
        Run.share_id,
        func.coalesce(Share.boost, 0).label("boost"),
    )
    query = (
        select(*shown)
        .select_from(Cast)
        .join(offered, offered.c.id == Cast.job)
        .join(Run, Run.id == Cast.run_id)
        .outerjoin(PlanRun, PlanRun.id == Run.plan_run_id)
        .outerjoin(Share, Share.id == Run.share_id)
        .order_by(offered.c.priority.desc(), offered.c.id)
        .limit(MOST_SHOWN)
    )
    return session.execute(query).all()


def forget_idle(session: Session) -> None:
    """Delete the shares of what is over, but for the one that the virtual time is read from.

    When nothing is going on and that time is late, it begins anew: priorities have an end.
    """
    newest = select(func.max(Share.served)).scalar_subquery()
    going = select(Run.share_id).filter(Run.share_id.is_not(None), Run.state.not_in(RUN_OVER))
    # Every process does this: each takes what no other is at, so that none waits for another.
    idle = select(Share.id).filter(~Share.tries, Share.id.not_in(going), Share.served < newest)
    found = session.scalars(idle.with_for_update(skip_locked=True)).all()
    session.execute(delete(Share).filter(Share.id.in_(found)))
    late = (session.scalar(select(func.max(Share.served))) or 0.0) > LATE
    if late and session.scalar(going.limit(1)) is None:
        session.execute(update(Share).values(tag=0.0, served=0.0))
