"""The first lead of a new Lantern: let in once, by a token that only who started it was told."""

from __future__ import annotations

import hmac
import secrets

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Problem
from lantern.store import accounts
from lantern.store.models import Account, Preference
from lantern.store.tokens import hashed

NAME = "first lead"


class NotInvited(Problem):
    """The token is not the one that was made, or somebody has an account already."""

    code = "not_invited"


def needed(session: Session) -> bool:
    """Tell whether nobody has an account yet."""
    return session.scalar(select(Account.id).limit(1)) is None


def invite(session: Session) -> str:
    """Return a token for the first lead, "" where somebody has an account; older ones are over."""
    if not needed(session):
        return ""
    token = secrets.token_urlsafe(24)
    value = {"hash": hashed(token)}
    query = insert(Preference).values(name=NAME, value=value)
    session.execute(query.on_conflict_do_update(index_elements=["name"], set_={"value": value}))
    return token


def make(session: Session, token: str, username: str, name: str, password: str) -> Account:
    """Make the first lead's account; raises NotInvited, and BadInput for what is wrong of it."""
    # Two who come at once with the same token are one after the other.
    session.execute(select(func.pg_advisory_xact_lock(func.hashtext(NAME))))
    row = session.get(Preference, NAME)
    right = row is not None and hmac.compare_digest(str(row.value["hash"]), hashed(token))
    if row is None or not right or not needed(session):
        raise NotInvited(
            "That address is not good (any more).",
            hint="Each start of Lantern without any account says a new one.",
        )
    if not username.strip():
        raise BadInput("Say a name to sign in with.", where="username")
    account = accounts.create(session, username, name, "lead", password)
    session.delete(row)
    return account
