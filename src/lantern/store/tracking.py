"""Outside trackers: kept by leads, told of defects that were handed over, asked what came of them.

A defect that was handed over is told anew whenever it changes, and asked for at its time. What
changed at the tracker since it was last seen is taken over here before anything is sent, so that
neither side overwrites what the other did.
"""

from __future__ import annotations

import re
import secrets
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any
from urllib.parse import urlsplit

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Conflict, Missing, check_version
from lantern.core.review import handing
from lantern.core.review.handing import FieldMap, Seen
from lantern.store import defects
from lantern.store import handing as handovers
from lantern.store.database import tell
from lantern.store.models import (
    Comment,
    Defect,
    DefectChange,
    Handing,
    Handover,
    Tracker,
)
from lantern.store.vault import Vault

LONGEST_NAME, LONGEST_ADDRESS, LONGEST_SECRET, MOST = 80, 500, 2000, 20
SLOWEST = 86_400
SHOWN = 100
CLOSED_EVERY = 3600
"""Seconds after which a closed defect is asked for again, at the least."""
_HEADER = re.compile(r"[A-Za-z0-9-]{1,80}")


# -- trackers -------------------------------------------------------------------------------------


def listed(session: Session) -> Sequence[Tracker]:
    """Return all trackers, by name."""
    return session.scalars(select(Tracker).order_by(Tracker.name, Tracker.id)).all()


def get(session: Session, key: int, version: int | None = None) -> Tracker:
    """Return a tracker; raises Missing.

    With a `version` it is locked to be changed; raises Conflict where it is not that any more.
    """
    tracker = session.get(Tracker, key, with_for_update=version is not None)
    if tracker is None:
        raise Missing("There is no such tracker.", where=str(key))
    if version is not None:
        check_version(f"“{tracker.name}”", tracker.version, version)
    return tracker


def put_tracker(
    session: Session,
    vault: Vault,
    tracker: Tracker,
    *,
    name: str,
    kind: str,
    address: str,
    header: str,
    token: str | None,
    inbox: str | None,
    mapping: Mapping[str, Any],
    enabled: bool,
    every: int,
) -> Tracker:
    """Make a tracker what is said; a `token` or `inbox` of None stays as it is. Raises BadInput."""
    moved = tracker.id is not None and _host(tracker.address) != _host(address)
    if moved and tracker.sealed and token is None:
        # What was said to one server is not said to another that somebody else put in.
        raise BadInput("Enter the token anew for another server.", where="token")
    tracker.name, tracker.kind = " ".join(name.split()), kind
    tracker.address, tracker.header = address.strip().rstrip("/"), header.strip()
    tracker.enabled, tracker.every = enabled, every
    tracker.mapping = FieldMap.read(mapping).write()
    _check(tracker)
    for field, value in (("sealed", token), ("inbox", inbox)):
        if value is not None:
            _check_secret(field, value)
            setattr(tracker, field, vault.seal(value) if value else None)
    if tracker.id is None:
        if len(listed(session)) >= MOST:
            raise BadInput(f"There are up to {MOST} trackers.")
        session.add(tracker)
    else:
        tracker.version += 1
    session.flush()
    tell(session, "defect", id=0)
    return tracker


def _host(address: str) -> tuple[str, str | None, int | None]:
    where = urlsplit(address.strip())
    return where.scheme, where.hostname, where.port


def _check(tracker: Tracker) -> None:
    """Raise BadInput where a tracker can not be used."""
    if not tracker.name or len(tracker.name) > LONGEST_NAME:
        raise BadInput(f"A tracker's name has 1 to {LONGEST_NAME} characters.", where="name")
    try:
        where = urlsplit(tracker.address)
        usable = where.scheme in ("http", "https") and bool(where.hostname) and where.port != 0
    except ValueError:
        usable = False
    if not usable:
        hint = "Such as https://tracker.example/api/items."
        raise BadInput("That is no address.", where="address", hint=hint)
    if len(tracker.address) > LONGEST_ADDRESS or where.username or where.password or where.query:
        raise BadInput("The address is too long, or holds a password or “?”.", where="address")
    if not _HEADER.fullmatch(tracker.header):
        raise BadInput("That is no name of a header.", where="header", hint="Mostly Authorization.")
    if not 0 <= tracker.every <= SLOWEST:
        raise BadInput(f"It is asked every 0 to {SLOWEST} seconds.", where="every")


def _check_secret(field: str, value: str) -> None:
    least = 0 if field == "sealed" or not value else 8
    if not least <= len(value) <= LONGEST_SECRET or not value.isprintable():
        what = "token" if field == "sealed" else "inbox"
        raise BadInput(f"It has {least} to {LONGEST_SECRET} printable characters.", where=what)


def drop(session: Session, key: int) -> None:
    """Delete a tracker, with what is known of defects there; raises Missing."""
    session.delete(get(session, key))
    tell(session, "defect", id=0)


# -- handing over ---------------------------------------------------------------------------------


def hand_over(session: Session, defect: Defect, tracker_id: int, account: int) -> Handover:
    """Hand a defect over with its comments; raises Missing, BadInput or Conflict.

    Where the tracker does not know it any more, it is handed over anew.
    """
    tracker = get(session, tracker_id)
    if not tracker.enabled:
        raise BadInput(f"“{tracker.name}” is switched off.", where="tracker")
    # One at a time: two presses make one item.
    session.scalar(select(Defect.id).filter_by(id=defect.id).with_for_update(key_share=True))
    link = session.scalar(
        select(Handover)
        .filter_by(defect_id=defect.id, tracker_id=tracker_id)
        .execution_options(populate_existing=True)
    )
    if link is not None and not link.gone:
        raise Conflict(f"It was handed over to “{tracker.name}” already.", where="tracker")
    link = link or Handover(defect_id=defect.id, tracker_id=tracker_id)
    link.reference, link.key, link.link = secrets.token_hex(16), "", ""
    link.sent, link.seen_state, link.seen_fixed_in = {}, "", ""
    link.gone, link.said, link.account_id = False, "", account
    session.add(link)
    session.flush()
    defects.note(session, defect, "tracker", "", tracker.name, account)
    handovers.queue(session, link)
    said = select(Comment.id).filter_by(place="defect", key=defect.id).order_by(Comment.id)
    for comment in session.scalars(said):
        handovers.queue(session, link, comment)
    tell(session, "defect", id=defect.id)
    return link


def let_go(session: Session, key: int, account: int) -> None:
    """Tell a tracker no more of a defect; its item there stays. Raises Missing."""
    link = session.get(Handover, key)
    if link is None:
        raise Missing("It is not handed over any more.", where=str(key))
    defects.note(session, link.defect, "tracker", link.tracker.name, "", account)
    tell(session, "defect", id=link.defect_id)
    session.delete(link)


def log_of(session: Session, tracker_id: int) -> Sequence[Handing]:
    """Return the newest messages to a tracker; raises Missing."""
    get(session, tracker_id)
    query = select(Handing).join(Handover).filter(Handover.tracker_id == tracker_id)
    return session.scalars(query.order_by(Handing.id.desc()).limit(SHOWN)).all()


# -- what is told, and what is taken over ---------------------------------------------------------


def parts_of(session: Session, defect: Defect, address: str) -> dict[str, str]:
    """Return what there is to tell of a defect, by part; `address` is where Lantern is reached."""
    parts = {
        part: str(getattr(defect, part))
        for part in handing.PARTS
        if part not in ("description", "owner", "address", "reference", "requirements")
    }
    return parts | {
        "description": handing.description(parts),
        "owner": defect.owner.name if defect.owner else "",
        "address": f"{address}/defects/{defect.id}",
        "reference": f"lantern-{defect.id}",
        "requirements": ", ".join(defects.requirements_of(session, defect)),
    }


def locked(session: Session, handover_id: int) -> Handover | None:
    """Return a handover that nobody else speaks of to its tracker while this is held."""
    # Held while the tracker answers: a lock that lets messages about it be queued meanwhile.
    query = select(Handover).filter_by(id=handover_id).with_for_update(key_share=True, of=Handover)
    return session.scalar(query.execution_options(populate_existing=True))


def take_over(session: Session, link: Handover, now: Seen) -> None:
    """Take note of what a tracker says of a defect: what it changed there is changed here."""
    mapping = FieldMap.read(link.tracker.mapping)
    before = Seen(link.key, link.link, link.seen_state, link.seen_fixed_in)
    link.link = now.link or link.link
    link.seen_state, link.seen_fixed_in = now.state, now.fixed_in
    link.looked_at, link.said = datetime.now(UTC), ""
    _apply(session, link, handing.news(mapping, before, now))


def _apply(session: Session, link: Handover, news: Mapping[str, str]) -> None:
    query = select(Defect).filter_by(id=link.defect_id)
    defect = session.scalar(query.with_for_update(key_share=True, of=Defect))
    if defect is None:
        return
    fresh = {part: value for part, value in news.items() if getattr(defect, part) != value}
    for part, value in fresh.items():
        change = DefectChange(
            defect_id=defect.id,
            what=part,
            before=str(getattr(defect, part)),
            after=value,
            source=link.tracker.name,
        )
        session.add(change)
        setattr(defect, part, value)
    mapping = FieldMap.read(link.tracker.mapping)
    known = {mapping.fields[part] for part in news if part in mapping.fields}
    said = handing.told(mapping, {part: str(getattr(defect, part)) for part in news})
    # What it says itself is not said back to it.
    link.sent = {**link.sent, **{path: said[path] for path in known}}
    if fresh:
        defect.version += 1
        defect.changed_at = datetime.now(UTC)
        tell(session, "defect", id=defect.id)
        for other in handovers.kept(session, defect.id):
            if other.id != link.id:
                handovers.queue(session, other)


def lost(session: Session, link: Handover) -> None:
    """Take note that a tracker does not know a defect any more."""
    link.gone, link.look_at = True, None
    tell(session, "defect", id=link.defect_id)


# -- asking ---------------------------------------------------------------------------------------


def look_soon(session: Session, tracker_id: int, key: str) -> int:
    """Have an item asked for at once; returns how many defects it is."""
    links = session.scalars(
        select(Handover).filter_by(tracker_id=tracker_id, key=key, gone=False)
    ).all()
    for link in links:
        link.look_at = datetime.now(UTC)
    return len(links)


def due(session: Session, lease: timedelta) -> int | None:
    """Take a handover whose time to be asked for has come; nobody else does for the lease."""
    now = datetime.now(UTC)
    link = session.scalar(
        select(Handover)
        .join(Tracker)
        .filter(Handover.look_at <= now, ~Handover.gone, Handover.key != "", Tracker.enabled)
        .order_by(Handover.look_at)
        .limit(1)
        .with_for_update(skip_locked=True, of=Handover)
    )
    if link is None:
        return None
    link.look_at = now + lease
    return link.id


def look_later(session: Session, link: Handover) -> None:
    """Say when a handover is asked for next."""
    every = link.tracker.every
    state = session.scalar(select(Defect.state).filter_by(id=link.defect_id))
    if state == "closed":
        every = max(every, CLOSED_EVERY) if every else 0
    link.look_at = datetime.now(UTC) + timedelta(seconds=every) if every else None
