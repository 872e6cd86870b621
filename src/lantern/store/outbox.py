"""Messages that go out: each sent by one process at a time, tried again, in the end given up."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import TypeVar

import structlog
from sqlalchemy import select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from lantern.core.plans.posting import pause_after
from lantern.core.problems import Missing
from lantern.store.database import Database
from lantern.store.models import Delivery, Handing, Mail

log = structlog.get_logger()
LEASE = timedelta(minutes=5)
"""How long who sends a message has for it, longer than a slow server takes: then another may."""
LONGEST_SAID = 1000
M = TypeVar("M", Delivery, Mail, Handing)


@dataclass(frozen=True)
class Refused:
    """Why a message was not taken; `for_good` where trying it again is no use."""

    why: str
    for_good: bool = False


Send = Callable[[Session, M], Refused | None]
"""Sends a message: returns None when it was taken."""


def send_due(database: Database, kind: type[M], send: Send[M]) -> int:
    """Send the messages of a kind whose time has come; returns how many there were."""
    count = 0
    while True:
        with database.session() as session:
            key = _take(session, kind)
        if key is None:
            return count
        with database.session() as session:
            one = session.get(kind, key)
            if one is not None:
                _note(one, _sent(session, one, send))
        count += 1


def _sent(session: Session, one: M, send: Send[M]) -> Refused | None:
    """Send a message; what goes wrong here is a refusal too, so that it is given up in the end."""
    try:
        return send(session, one)
    except SQLAlchemyError:
        raise
    except Exception as error:
        log.exception("message_not_sent", kind=type(one).__name__, message=one.id)
        return Refused(f"Lantern itself failed ({type(error).__name__}); its log says more.")


def _take(session: Session, kind: type[M]) -> int | None:
    """Take a message to be sent: nobody else does while the lease lasts."""
    now = datetime.now(UTC)
    one = session.scalar(
        select(kind)
        .filter(kind.state == "waiting", kind.next_at <= now)
        .order_by(kind.next_at)
        .limit(1)
        .with_for_update(skip_locked=True, of=kind)
    )
    if one is None:
        return None
    one.tries, one.next_at = one.tries + 1, now + LEASE
    return one.id


def _note(one: Delivery | Mail | Handing, refused: Refused | None) -> None:
    now = datetime.now(UTC)
    one.said = refused.why[:LONGEST_SAID] if refused else "taken"
    pause = pause_after(one.tries)
    if refused is None:
        one.state, one.next_at, one.done_at = "sent", None, now
    elif pause is None or refused.for_good:
        one.state, one.next_at, one.done_at = "given up", None, now
    else:
        one.next_at = now + timedelta(seconds=pause)


def again(session: Session, kind: type[M], key: int) -> M:
    """Send a message once more, at once; raises Missing."""
    one = session.get(kind, key)
    if one is None:
        raise Missing("That message is not known any more.", where=str(key))
    one.state, one.tries, one.next_at, one.done_at = "waiting", 0, datetime.now(UTC), None
    session.flush()
    return one
