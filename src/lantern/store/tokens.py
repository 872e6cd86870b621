"""Personal access tokens: shown once, with a scope and an end, taken back at once."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import Literal, get_args

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Missing
from lantern.store.models import AccessToken, Account

Scope = Literal["read", "run", "write"]
"""What a token is good for: looking, also starting and stopping runs, also changing things."""
MARK = "lantern_"
"""What every token begins with, so that one that lies about is known for what it is."""
SHOWN = len(MARK) + 4
LONGEST_NAME, MOST, MOST_DAYS = 80, 50, 366
SELDOM = timedelta(seconds=60)
"""How often its last use is written down."""


def hashed(token: str) -> str:
    """Return what is kept of a token: it can be known again, and not be told."""
    return hashlib.sha256(token.encode()).hexdigest()


def of(session: Session, account_id: int) -> Sequence[AccessToken]:
    """Return the tokens of a person, newest first, also those that have ended."""
    query = select(AccessToken).filter_by(account_id=account_id).order_by(AccessToken.id.desc())
    return session.scalars(query).all()


def make(
    session: Session, account_id: int, name: str, scope: str, days: int
) -> tuple[str, AccessToken]:
    """Make a token that is good for some days; returns it, which is told nowhere else.

    Raises BadInput for its name, scope or days, or where there are too many.
    """
    name = " ".join(name.split())
    if not name or len(name) > LONGEST_NAME:
        raise BadInput(f"A token's name has 1 to {LONGEST_NAME} characters.", where="name")
    if scope not in get_args(Scope):
        raise BadInput("A token is to read, to run or to write.", where="scope")
    if not 1 <= days <= MOST_DAYS:
        raise BadInput(f"A token lasts from 1 to {MOST_DAYS} days.", where="days")
    if len(of(session, account_id)) >= MOST:
        raise BadInput(f"One person has up to {MOST} tokens.", hint="Take some back.")
    token = MARK + secrets.token_urlsafe(30)
    row = AccessToken(
        account_id=account_id,
        name=name,
        begins=token[:SHOWN],
        token_hash=hashed(token),
        scope=scope,
        ends_at=datetime.now(UTC) + timedelta(days=days),
    )
    session.add(row)
    session.flush()
    return token, row


def drop(session: Session, account_id: int, key: int) -> AccessToken:
    """Take a token of a person back; it is good for nothing from now on. Raises Missing."""
    row = session.get(AccessToken, key)
    if row is None or row.account_id != account_id:
        raise Missing("There is no such token.", where=str(key))
    session.delete(row)
    return row


def used(session: Session, token: str, origin: str) -> tuple[Account, Scope] | None:
    """Return whose token it is and what it is good for, noting its use; None for none that is.

    One that has ended, or whose account may not sign in, is none.
    """
    row = session.scalar(select(AccessToken).filter_by(token_hash=hashed(token)))
    now = datetime.now(UTC)
    if row is None or row.ends_at <= now or row.account.disabled or row.account.gone:
        return None
    if row.used_at is None or now - row.used_at > SELDOM or row.used_from != origin[:64]:
        row.used_at, row.used_from = now, origin[:64]
    scope: Scope = row.scope  # type: ignore[assignment]  # as `make` has checked
    return row.account, scope
