"""What trackers are to be told of defects that were handed over to them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.store.models import Handing, Handover


def of_defect(session: Session, defect_id: int) -> Sequence[Handover]:
    """Return where a defect was handed over to, in that order."""
    query = select(Handover).filter_by(defect_id=defect_id).order_by(Handover.id)
    return session.scalars(query).all()


def queue(session: Session, link: Handover, comment: int | None = None) -> None:
    """Queue a message; what waits to say how a defect is says how it is by then.

    It is held until what changed is there, so that it does not go out before.
    """
    if comment is None:
        waits = select(Handing.id).filter_by(
            handover_id=link.id, comment_id=None, state="waiting", tries=0
        )
        if session.scalar(waits.limit(1).with_for_update(skip_locked=True)) is not None:
            return
    session.add(Handing(handover_id=link.id, comment_id=comment, next_at=datetime.now(UTC)))
    session.flush()


def changed(session: Session, defect_id: int) -> None:
    """Take note that a defect changed: the trackers that know it are told."""
    for link in kept(session, defect_id):
        queue(session, link)


def commented(session: Session, defect_id: int, comment_id: int) -> None:
    """Take note that a defect was commented on: the trackers that know it are told."""
    for link in kept(session, defect_id):
        queue(session, link, comment_id)


def kept(session: Session, defect_id: int) -> list[Handover]:
    """Return where a defect was handed over to and is known still."""
    return [one for one in of_defect(session, defect_id) if not one.gone]


def untaken(session: Session, link: Handover) -> Sequence[Handing]:
    """Return the messages that a tracker has not taken, oldest first."""
    query = select(Handing).filter(Handing.handover_id == link.id, Handing.state != "sent")
    return session.scalars(query.order_by(Handing.id)).all()


def again(session: Session, link: Handover) -> int:
    """Send once more, at once, all that a tracker has not taken; returns how much that is."""
    found = untaken(session, link)
    now = datetime.now(UTC)
    for one in found:
        one.state, one.tries, one.next_at, one.done_at = "waiting", 0, now, None
        session.flush()
    link.look_at = now if link.key else None
    return len(found)
