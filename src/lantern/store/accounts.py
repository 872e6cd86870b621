"""People: accounts, passwords and who is signed in."""

from __future__ import annotations

import hashlib
import secrets
import threading
from collections.abc import Collection, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, or_, select
from sqlalchemy.orm import Session

from lantern.core.plans.telling import check_email
from lantern.core.problems import BadInput, Missing, Problem, UnknownName
from lantern.store.database import tell
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


class Hashing:
    """Works out hashes of passwords, a few at a time: each takes much memory and time.

    Raises TooMany for more than wait at once, and for who waited for too long.
    """

    def __init__(self, at_once: int = 2, waiting: int = 8, limit: float = 10.0) -> None:
        self._places = threading.BoundedSemaphore(at_once)
        self._most, self._limit = at_once + waiting, limit
        self._count = 0
        self._lock = threading.Lock()

    @contextmanager
    def turn(self) -> Iterator[None]:
        """A turn at working one out."""
        with self._lock:
            if self._count >= self._most:
                raise _busy()
            self._count += 1
        try:
            if not self._places.acquire(timeout=self._limit):
                raise _busy()
            try:
                yield
            finally:
                self._places.release()
        finally:
            with self._lock:
                self._count -= 1


def _busy() -> TooMany:
    return TooMany("Too many people sign in just now.", hint="Try it again in a moment.")


hashing = Hashing()


def create(session: Session, username: str, name: str, role: str, password: str) -> Account:
    """Create an account. Raises BadInput for a taken name or a short password, UnknownName."""
    username = username.strip()
    if not username or len(username) > 80:
        raise BadInput("A sign-in name has 1 to 80 characters.", where="username")
    _check_role(role)
    if session.scalar(select(Account.id).filter(func.lower(Account.username) == username.lower())):
        raise BadInput(f"There is an account named {username!r} already.", where="username")
    account = Account(
        username=username,
        name=name.strip() or username,
        role=role,
        password_hash=_hashed(password),
    )
    session.add(account)
    session.flush()
    return account


def _check_role(role: str) -> None:
    if role not in ROLES:
        raise UnknownName("role", role, ROLES)


def _hashed(password: str) -> str:
    if len(password) < SHORTEST_PASSWORD:
        raise BadInput(f"A password has at least {SHORTEST_PASSWORD} characters.", where="password")
    with hashing.turn():
        return _hasher.hash(password)


def begin_sign_in(session: Session, username: str, origin: str) -> int:
    """Note that somebody tries to sign in; returns the attempt's number. Commit before hashing.

    It counts as failed until it has succeeded, so that those who try at once are counted too.
    Raises TooMany when too many failed lately for that name or from that origin.
    """
    username, since = username.lower()[:80], datetime.now(UTC) - WINDOW
    for key in sorted({f"name {username}", f"origin {origin}"}):
        session.execute(select(func.pg_advisory_xact_lock(func.hashtext(key))))
    lately = select(func.count()).select_from(SignInAttempt).filter(SignInAttempt.at > since)
    by_name = session.scalar(lately.filter(func.lower(SignInAttempt.username) == username)) or 0
    by_origin = session.scalar(lately.filter(SignInAttempt.origin == origin)) or 0
    if by_name >= MOST_PER_NAME or by_origin >= MOST_PER_ORIGIN:
        raise TooMany(
            "Too many attempts to sign in failed.", hint="Wait five minutes and try again."
        )
    attempt = SignInAttempt(username=username, origin=origin[:64])
    session.add(attempt)
    session.flush()
    return attempt.id


def check_password(session: Session, username: str, password: str, attempt: int) -> Account | None:
    """Return the account if the password is right and it may sign in, else None.

    With the right one, the attempts for that name are forgotten. Raises TooMany while too many
    others are being checked; that attempt does not count then.
    """
    username = username.lower()[:80]
    account = session.scalar(select(Account).filter(func.lower(Account.username) == username))
    able = account is not None and not account.disabled and not account.gone
    try:
        # A name that does not exist costs the same time as a wrong password.
        right = _right(account.password_hash if account else _NOBODY, password)
    except TooMany:
        session.execute(delete(SignInAttempt).filter_by(id=attempt))
        session.commit()
        raise
    if not (right and able):
        return None
    since = datetime.now(UTC) - WINDOW
    own = func.lower(SignInAttempt.username) == username
    session.execute(delete(SignInAttempt).filter(or_(own, SignInAttempt.at < since)))
    return account


def _right(password_hash: str, password: str) -> bool:
    with hashing.turn():
        try:
            return _hasher.verify(password_hash, password)
        except (VerificationError, InvalidHashError):
            return False


def change_password(session: Session, account: Account, new: str, but: str = "") -> None:
    """Give an account another password and end its sign-ins, `but` that of one token."""
    account.password_hash = _hashed(new)
    end_sign_ins(session, account.id, but)


def change(
    session: Session,
    account: Account,
    *,
    name: str | None = None,
    role: str | None = None,
    disabled: bool | None = None,
    email: str | None = None,
) -> None:
    """Change an account; None leaves a part as it is. Raises BadInput for the last lead."""
    if role is not None:
        _check_role(role)
    if (role or "lead") != "lead" or disabled:
        _keep_a_lead(session, account)
    if name is not None:
        account.name = name.strip() or account.username
    if role is not None:
        account.role = role
    if email is not None:
        account.email = check_email(email)
    if disabled is not None:
        account.disabled = disabled
        if disabled:
            end_sign_ins(session, account.id)
    session.flush()


def remove(session: Session, account: Account) -> None:
    """Delete an account: nobody signs in with it, its name is free, what it did keeps its name."""
    _keep_a_lead(session, account)
    account.gone, account.disabled = True, True
    account.username = f"{account.username[:60]} (deleted {account.id})"
    account.password_hash = account.email = ""
    end_sign_ins(session, account.id)
    session.flush()


def _keep_a_lead(session: Session, but: Account) -> None:
    """Raise BadInput unless another lead is left who can sign in."""
    others = select(Account.id).filter(
        Account.role == "lead", ~Account.disabled, ~Account.gone, Account.id != but.id
    )
    if but.role == "lead" and session.scalar(others.limit(1)) is None:
        raise BadInput(
            f"{but.name} is the only lead who can sign in.",
            where=but.username,
            hint="Make somebody else a lead first.",
        )


def get(session: Session, account_id: int) -> Account:
    """Return an account that was not deleted; raises Missing."""
    account = session.get(Account, account_id)
    if account is None or account.gone:
        raise Missing("That account does not exist.", where=str(account_id))
    return account


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
    if entry is None or entry.expires_at <= datetime.now(UTC) or entry.account.disabled:
        return None
    return entry


def sign_out(session: Session, token: str) -> None:
    """End the sign-in of a token, and what is open under it."""
    entry = session.get(SignIn, _hash(token))
    if entry:
        tell(session, "signed out", account=entry.account_id, sign_ins=[_mark(entry.token_hash)])
        session.delete(entry)


def end_sign_ins(session: Session, account_id: int, but: str = "") -> None:
    """End all sign-ins of an account, and what is open under them, `but` that of a token."""
    ended = select(SignIn).filter(SignIn.account_id == account_id, SignIn.token_hash != _hash(but))
    found = session.scalars(ended).all()
    marks = [_mark(entry.token_hash) for entry in found]
    for entry in found:
        session.delete(entry)
    tell(session, "signed out", account=account_id, sign_ins=marks)


def _mark(token_hash: str) -> str:
    """Return what a sign-in is called in notices: no secret, and nobody gets in with it."""
    return hashlib.sha256(token_hash.encode()).hexdigest()[:16]


def mark_of(entry: SignIn) -> str:
    """Return what a sign-in is called in notices."""
    return _mark(entry.token_hash)


def names(session: Session, ids: Collection[int]) -> dict[int, str]:
    """Return the names of people by id; those that are gone are left out."""
    query = select(Account.id, Account.name).filter(Account.id.in_(ids))
    return {row.id: row.name for row in session.execute(query)}
