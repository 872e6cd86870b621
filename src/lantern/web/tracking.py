"""Telling trackers of defects, and asking them what came of those."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy.orm import Session

from lantern.core.problems import Problem
from lantern.core.review import handing
from lantern.core.review.handing import FieldMap
from lantern.store import tracking
from lantern.store.database import Database, tell
from lantern.store.models import Comment, Handing, Handover
from lantern.store.outbox import Refused, Send
from lantern.store.vault import Vault
from lantern.web.trackers import Gone, Outside, Untaken, speaking_to

LEASE = timedelta(minutes=5)
"""How long a tracker that could not be asked is left alone, and who asks has for it."""
EARLIER = "What was to be said before this was not taken yet."


def teller(vault: Vault, address: str) -> Send[Handing]:
    """Return what tells a tracker; `address` is where people reach Lantern, for links."""

    def send(session: Session, one: Handing) -> Refused | None:
        # One at a time for one defect at one tracker: nothing is made twice.
        link = tracking.locked(session, one.handover_id)
        if link is None or link.gone:
            return Refused("It is not handed over any more.", for_good=True)
        if not link.tracker.enabled:
            return Refused(f"“{link.tracker.name}” is switched off.")
        tell(session, "defect", id=link.defect_id)
        try:
            outside = speaking_to(link.tracker, vault)
            if one.comment is not None:
                return _comment(outside, link, one.comment)
            _tell(session, outside, link, address)
        except Gone as error:
            tracking.lost(session, link)
            return Refused(error.why, for_good=True)
        except Untaken as error:
            return Refused(error.why, for_good=error.for_good)
        except Problem as error:
            return Refused(error.message)
        return None

    return send


def _comment(outside: Outside, link: Handover, comment: Comment) -> Refused | None:
    if not link.key:
        return Refused(EARLIER)
    author = comment.account.name if comment.account else "someone"
    outside.comment(link.key, comment.text, author, f"{link.reference}-{comment.id}")
    return None


def _tell(session: Session, outside: Outside, link: Handover, address: str) -> None:
    """Make the item of a defect, or change what of it is not as it was told last."""
    mapping = FieldMap.read(link.tracker.mapping)
    if link.key:
        # What was done there meanwhile comes first: it is not overwritten unseen.
        tracking.take_over(session, link, outside.look(link.key))
    session.flush()
    session.refresh(link.defect)
    values = handing.told(mapping, tracking.parts_of(session, link.defect, address))
    if not link.key:
        found = outside.create(values, link.reference)
        link.key = found.key
    else:
        fresh = {path: value for path, value in values.items() if link.sent.get(path) != value}
        if not fresh:
            return
        found = outside.update(link.key, fresh)
    link.sent = values
    link.link = found.link or link.link
    link.seen_state, link.seen_fixed_in = found.state, found.fixed_in
    tracking.look_later(session, link)
    session.flush()


def look_due(database: Database, vault: Vault) -> int:
    """Ask trackers for the defects whose time has come; returns how many there were."""
    count = 0
    while True:
        with database.session() as session:
            key = tracking.due(session, LEASE)
        if key is None:
            return count
        with database.session() as session:
            link = tracking.locked(session, key)
            if link is not None and not link.gone:
                _look(session, link, vault)
        count += 1


def _look(session: Session, link: Handover, vault: Vault) -> None:
    try:
        tracking.take_over(session, link, speaking_to(link.tracker, vault).look(link.key))
    except Gone:
        tracking.lost(session, link)
    except Untaken as error:
        link.said = error.why
    except Problem as error:
        link.said = error.message
    else:
        tracking.look_later(session, link)
