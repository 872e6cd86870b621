"""People: accounts, passwords and who is signed in."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Collection
from datetime import UTC, datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, or_, select
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Problem, UnknownName
from lantern.store.models import Account, SignIn, SignInAttempt

ROLES = ("viewer", "tester", "lead")
"""What people may do, each more than the one before: look, work on tests, manage people."""

SIGN_IN_LASTS = timedelta(days=14)
WINDOW = timedelta(minutes=5)
MOST_PER_NAME = 5
MOST_PER_ORIGIN = 40
SHORTEST_PASSWORD = 8
_hasher = PasswordHasher()
_NOBODY = _hasher.hash("nobody has this password")


class TooMany(Problem):
    """Too many failed sign-ins."""

    code = "too_many"


def create(session: Session, username: str, name: str, role: str, password: str) -> Account:
    """Create an account. Raises BadInput for a taken name or a short password, UnknownName."""
    username = username.strip()
    if not username or len(username) > 80:
        raise BadInput("A sign-in name has 1 to 80 characters.", where="username")
    if role not in ROLES:
        raise UnknownName("role", role, ROLES)
    if len(password) < SHORTEST_PASSWORD:
        raise BadInput(f"A password has at least {SHORTEST_PASSWORD} characters.", where="password")
    if session.scalar(select(Account.id).filter(func.lower(Account.username) == username.lower())):
        raise BadInput(f"There is an account named {username!r} already.", where="username")
    account = Account(
        username=username,
        name=name.strip() or username,
        role=role,
        password_hash=_hasher.hash(password),
    )
    session.add(account)
    session.flush()
    return account


def check_password(session: Session, username: str, password: str, origin: str) -> Account | None:
    """Return the account if the password is right, else None and count the failure.

    Raises TooMany when too many attempts failed lately for that name or from that origin.
    """
    since = datetime.now(UTC) - WINDOW
    lately = select(func.count()).select_from(SignInAttempt).filter(SignInAttempt.at > since)
    by_name = session.scalar(lately.filter(func.lower(SignInAttempt.username) == username.lower()))
    by_origin = session.scalar(lately.filter(SignInAttempt.origin == origin))
    if (by_name or 0) >= MOST_PER_NAME or (by_origin or 0) >= MOST_PER_ORIGIN:
        raise TooMany(
            "Too many attempts to sign in failed.", hint="Wait five minutes and try again."
        )
    account = session.scalar(
        select(Account).filter(func.lower(Account.username) == username.lower())
    )
    # A name that does not exist costs the same time as a wrong password.
    if _right(account.password_hash if account else _NOBODY, password) and account:
        session.execute(
            delete(SignInAttempt).filter(
                or_(
                    func.lower(SignInAttempt.username) == username.lower(), SignInAttempt.at < since
                )
            )
        )
        return account
    session.add(SignInAttempt(username=username[:80], origin=origin[:64]))
    session.flush()
    return None


def _right(password_hash: str, password: str) -> bool:
    try:
        return _hasher.verify(password_hash, password)
    except (VerificationError, InvalidHashError):
        return False


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def sign_in(session: Session, account: Account) -> tuple[str, SignIn]:
    """Sign an account in; returns the token for its cookie and what is kept of it."""
    token = secrets.token_urlsafe(32)
    entry = SignIn(
        token_hash=_hash(token),
        account_id=account.id,
        csrf=secrets.token_urlsafe(24),
        expires_at=datetime.now(UTC) + SIGN_IN_LASTS,
    )
    entry.account = account
    session.add(entry)
    session.execute(delete(SignIn).filter(SignIn.expires_at < datetime.now(UTC)))
    session.flush()
    return token, entry


def signed_in(session: Session, token: str) -> SignIn | None:
    """Return the sign-in of a token, or None when it is unknown or over."""
    entry = session.get(SignIn, _hash(token)) if token else None
    return entry if entry and entry.expires_at > datetime.now(UTC) else None


def sign_out(session: Session, token: str) -> None:
    """End the sign-in of a token."""
    session.execute(delete(SignIn).filter(SignIn.token_hash == _hash(token)))


def names(session: Session, ids: Collection[int]) -> dict[int, str]:
    """Return the names of people by id; those that are gone are left out."""
    query = select(Account.id, Account.name).filter(Account.id.in_(ids))
    return {row.id: row.name for row in session.execute(query)}
