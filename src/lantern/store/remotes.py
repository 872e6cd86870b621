"""Browsers elsewhere, by an address that speaks WebDriver, as leads say them."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any
from urllib.parse import urlsplit

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.engine.browsers import (
    BROWSERS,
    LONGEST_REMOTE,
    REMOTE,
    Browser,
    Engine,
    browser_named,
    engine_called,
)
from lantern.core.problems import BadInput, Conflict, Missing
from lantern.store.database import tell
from lantern.store.models import RemoteBrowser
from lantern.store.vault import Vault

PLACE = "${password}"
"""Stands in capabilities for the password, where a driver wants it among them."""
LONGEST_ADDRESS, LONGEST_CAPABILITIES = 500, 20_000
_NAME = re.compile(r"[\w][\w .-]*")


def listed(session: Session) -> Sequence[RemoteBrowser]:
    """Return the remote browsers by name."""
    return session.scalars(select(RemoteBrowser).order_by(RemoteBrowser.name)).all()


def catalogue(session: Session) -> dict[str, Browser]:
    """Return all browsers that rows can run in, by name: those of the core, then remote ones."""
    here = {
        one.engine: replace(browser_named(one.engine), title=f"Remote {one.name}")
        for one in listed(session)
    }
    return BROWSERS | here


def get(session: Session, key: int) -> RemoteBrowser:
    """Return a remote browser; raises Missing."""
    row = session.get(RemoteBrowser, key)
    if row is None:
        raise Missing("There is no such browser.", where=str(key))
    return row


def by_engine(session: Session, engine: str) -> RemoteBrowser | None:
    """Return the one that an engine's name is of; None for none."""
    return session.scalar(select(RemoteBrowser).filter_by(engine=engine))


def engine(session: Session, name: str) -> Engine:
    """Return an engine by its name, with what is known of it; raises UnknownName."""
    row = by_engine(session, name) if name.startswith(REMOTE) else None
    known = row.told if row else {}
    told = {one: bool(known.get(one)) for one in ("status", "ahead")}
    return engine_called(name, **told)


def put(
    session: Session,
    vault: Vault,
    row: RemoteBrowser,
    *,
    name: str,
    address: str,
    user: str,
    password: str | None,
    capabilities: str,
) -> RemoteBrowser:
    """Make or change a remote browser; a `password` of None stays as it is.

    It does not go to another server than it was said for, and stands where capabilities hold PLACE.
    Raises BadInput or Conflict.
    """
    name = " ".join(name.split())
    if not _NAME.fullmatch(name) or len(name.lower().encode()) > LONGEST_REMOTE:
        raise BadInput(
            f"A name has up to {LONGEST_REMOTE} letters, digits, spaces, dots and dashes.",
            where="name",
        )
    key = REMOTE + name.lower()
    other = by_engine(session, key)
    if other is not None and other is not row:
        raise Conflict(f"There is a browser “{key}” already.", where="name")
    address = _checked_address(address)
    moved = urlsplit(row.address or "")[:2] != urlsplit(address)[:2]
    if password is None and row.sealed is not None and moved:
        raise BadInput("Say the password again: it was meant for another server.", where="password")
    used = bool(user.strip()) or PLACE in capabilities
    if password is not None or not used:  # nobody is let in by a password alone
        row.sealed = vault.seal(password) if password and used else None
    wanted = _checked(capabilities)
    if (row.address, row.capabilities) != (address, wanted):
        row.told = {}
    row.name, row.engine, row.address, row.user = name, key, address, user.strip()
    row.capabilities = wanted
    session.add(row)
    session.flush()
    tell(session, "stations")
    return row


def _checked_address(address: str) -> str:
    where = urlsplit(address.strip())
    try:
        right = where.scheme in ("http", "https") and where.hostname and where.port != 0
    except ValueError:
        right = False
    if not right or len(address) > LONGEST_ADDRESS:
        raise BadInput(
            "That is no address of a driver.",
            where="address",
            hint="Such as https://grid.example:4444 or http://10.0.0.7:9515.",
        )
    if where.username or where.password or where.query or where.fragment:
        raise BadInput(
            "An address holds no name, password or query.",
            where="address",
            hint="Say who is let in beside it.",
        )
    return address.strip().rstrip("/")


def _checked(capabilities: str) -> dict[str, Any]:
    if len(capabilities) > LONGEST_CAPABILITIES:
        raise BadInput("That is too long.", where="capabilities")
    try:
        read = json.loads(capabilities or "{}")
    except ValueError as error:
        raise BadInput(f"That is no JSON: {error}.", where="capabilities") from error
    if not isinstance(read, dict):
        raise BadInput(
            "Capabilities are one JSON object.",
            where="capabilities",
            hint='Such as {"browserName": "chrome"}.',
        )
    if {"alwaysMatch", "firstMatch"} & set(read):
        raise BadInput(
            "Say the capabilities themselves, as within alwaysMatch.", where="capabilities"
        )
    return read


def drop(session: Session, key: int) -> None:
    """Delete a remote browser; rows that name it wait for it then. Raises Missing."""
    session.delete(get(session, key))
    tell(session, "stations")


def learned(session: Session, engine: str, told: Mapping[str, Any]) -> None:
    """Keep what the last session showed of a browser."""
    row = by_engine(session, engine)
    if row is not None and row.told != told:
        row.told = dict(told)
