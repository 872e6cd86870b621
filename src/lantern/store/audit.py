"""What matters for security: who signed in, was refused, changed roles, secrets, or exported."""

from __future__ import annotations

from datetime import timedelta
from typing import Any, Literal

from sqlalchemy import Row, Select, func, or_, select
from sqlalchemy.orm import Session

from lantern.store.models import SecurityEvent
from lantern.store.paging import Order, Page, page

What = Literal[
    "signed in",
    "sign-in failed",
    "sign-in refused",
    "signed out",
    "password changed",
    "password reset",
    "account created",
    "account deleted",
    "account disabled",
    "account enabled",
    "role changed",
    "name changed",
    "secret kept",
    "refused",
    "exported",
    "rules of keeping",
    "station changed",
    "station invited",
    "station joined",
    "station retired",
    "webhook changed",
    "tracker changed",
    "mail server changed",
    "remote browser changed",
    "token made",
    "token taken back",
    "token refused",
    "rules of rehearsing",
    "tidied",
]
AGAIN = timedelta(minutes=1)


def note(session: Session, what: What, who: str = "", about: str = "", origin: str = "") -> None:
    """Note an event in the session's transaction: `who` did it, `about` says to what."""
    session.add(SecurityEvent(what=what, who=who[:120], about=about[:500], origin=origin[:64]))


def note_once(
    session: Session, what: What, who: str = "", about: str = "", origin: str = ""
) -> None:
    """Note an event that strangers can bring about, unless the same was noted a minute ago."""
    same = select(SecurityEvent.id).filter(
        SecurityEvent.at > func.now() - AGAIN,
        SecurityEvent.what == what,
        SecurityEvent.who == who[:120],
        SecurityEvent.about == about[:500],
        SecurityEvent.origin == origin[:64],
    )
    if session.scalar(same.limit(1)) is None:
        note(session, what, who, about, origin)


def listed(session: Session, words: str = "", after: str = "") -> Page[Row[Any]]:
    """Return a page of the events, newest first, that hold `words`; raises BadInput for `after`."""
    query: Select[Any] = select(SecurityEvent)
    if words:
        columns = (
            SecurityEvent.what,
            SecurityEvent.who,
            SecurityEvent.about,
            SecurityEvent.origin,
        )
        query = query.filter(or_(*(one.icontains(words, autoescape=True) for one in columns)))
    return page(session, query, Order((SecurityEvent.id.expression,), falling=True), after)
