"""Outside trackers: kept by leads; defects handed over to them, and what trackers tell."""

from __future__ import annotations

import hmac
import os
import re
import time
from urllib.parse import urlsplit

from flask import Response, request
from sqlalchemy.orm import Session

from lantern.core.plans.posting import signature
from lantern.core.problems import Missing, UnknownName
from lantern.core.review.handing import PARTS, USUAL
from lantern.store import audit, handing, outbox, tracking
from lantern.store import models as tables
from lantern.web import shapes
from lantern.web.context import (
    Forbidden,
    blueprint,
    done,
    me,
    need_lead,
    need_version,
    reply,
    services,
)
from lantern.web.trackers import KINDS, Untaken, speaking_to

api = blueprint("trackers")
OLDEST = 300
"""Seconds after which what a tracker signed is not taken any more."""


def _out(session: Session, one: tables.Tracker) -> shapes.TrackerOut:
    newest = next(iter(tracking.log_of(session, one.id)), None)
    shown = os.environ.get("LANTERN_SLATE", "") if one.stand_in else ""
    return shapes.TrackerOut(
        id=one.id,
        name=one.name,
        kind=one.kind,
        address=one.address,
        header=one.header,
        has_token=one.sealed is not None,
        has_inbox=one.inbox is not None,
        mapping=shapes.FieldMapShape.model_validate(one.mapping),
        enabled=one.enabled,
        every=one.every,
        stand_in=one.stand_in,
        shown=shown,
        version=one.version,
        failing=bool(newest and newest.tries and newest.state != "sent"),
    )


@api.get("/trackers", operation_id="listTrackers", responses={200: shapes.TrackerList})
def list_trackers() -> Response:
    """List the trackers; for leads."""
    need_lead()
    with services().database.session() as session:
        found = [_out(session, one) for one in tracking.listed(session)]
    shape = shapes.TrackerList(
        trackers=found,
        kinds=[shapes.TrackerKind(name=name, title=kind.title) for name, kind in KINDS.items()],
        parts=list(PARTS),
        usual=shapes.FieldMapShape.model_validate(USUAL.write()),
    )
    return reply(shape)


@api.get("/trackers/names", operation_id="namesOfTrackers", responses={200: shapes.TrackerNames})
def names_of_trackers() -> Response:
    """List the trackers that defects may be handed over to."""
    with services().database.session() as session:
        found = [
            shapes.TrackerName(id=one.id, name=one.name)
            for one in tracking.listed(session)
            if one.enabled
        ]
    return reply(shapes.TrackerNames(trackers=found))


@api.post("/trackers", operation_id="makeTracker", responses={200: shapes.TrackerOut})
def make_tracker(body: shapes.TrackerIn) -> Response:
    """Make a tracker known; for leads."""
    return _put(tables.Tracker(), body)


@api.put("/trackers/<int:id>", operation_id="changeTracker", responses={200: shapes.TrackerOut})
def change_tracker(path: shapes.ById, body: shapes.TrackerIn) -> Response:
    """Change a tracker; for leads."""
    return _put(path.id, body)


def _put(which: tables.Tracker | int, body: shapes.TrackerIn) -> Response:
    need_lead()
    if body.kind not in KINDS:
        raise UnknownName("kind of tracker", body.kind, KINDS, where="kind")
    with services().database.session() as session:
        one = which
        if isinstance(one, int):
            one = tracking.get(session, one, need_version(body.version))
        said = body.model_dump(exclude={"version"})
        tracking.put_tracker(session, services().vault, one, **said)
        told = f"{one.name}, at {urlsplit(one.address).hostname}"
        audit.note(session, "tracker changed", me().name, told, request.remote_addr or "")
        shape = _out(session, one)
    return reply(shape)


@api.delete("/trackers/<int:id>", operation_id="deleteTracker", responses={200: shapes.Done})
def delete_tracker(path: shapes.ById) -> Response:
    """Forget a tracker, with what is known of defects there; for leads."""
    need_lead()
    with services().database.session() as session:
        name = tracking.get(session, path.id).name
        tracking.drop(session, path.id)
        audit.note(
            session, "tracker changed", me().name, f"{name}: gone", request.remote_addr or ""
        )
    return done()


@api.post("/trackers/<int:id>/try", operation_id="tryTracker", responses={200: shapes.TrackerTried})
def try_tracker(path: shapes.ById) -> Response:
    """Find out whether a tracker can be spoken to; for leads."""
    need_lead()
    with services().database.session() as session:
        outside = speaking_to(tracking.get(session, path.id), services().vault)
    try:
        outside.reach()
    except Untaken as error:
        return reply(shapes.TrackerTried(said=error.why))
    return reply(shapes.TrackerTried(said=""))


@api.get(
    "/trackers/<int:id>/messages", operation_id="messagesToTracker",
    responses={200: shapes.HandingList},
)  # fmt: skip
def messages_to_tracker(path: shapes.ById) -> Response:
    """List what a tracker was told, newest first; for leads."""
    need_lead()
    with services().database.session() as session:
        found = [_message(one) for one in tracking.log_of(session, path.id)]
    return reply(shapes.HandingList(messages=found))


def _message(one: tables.Handing) -> shapes.HandingOut:
    return shapes.HandingOut(
        id=one.id,
        defect=one.handover.defect_id,
        about="comment" if one.comment_id else "defect",
        state=one.state,
        tries=one.tries,
        said=one.said,
        made_at=one.made_at,
        next_at=one.next_at,
        done_at=one.done_at,
    )


@api.post(
    "/tracker-messages/<int:id>/again", operation_id="tellAgain",
    responses={200: shapes.HandingOut},
)  # fmt: skip
def tell_again(path: shapes.ById) -> Response:
    """Send a message to a tracker once more; for leads."""
    need_lead()
    with services().database.session() as session:
        shape = _message(outbox.again(session, tables.Handing, path.id))
    return reply(shape)


# -- defects --------------------------------------------------------------------------------------


@api.post("/defects/<int:id>/handovers", operation_id="handOver", responses={200: shapes.Done})
def hand_over(path: shapes.ById, body: shapes.HandOverAsk) -> Response:
    """Hand a defect over to a tracker."""
    with services().database.session() as session:
        defect = session.get(tables.Defect, path.id)
        if defect is None:
            raise Missing(f"There is no defect {path.id}.", where=str(path.id))
        tracking.hand_over(session, defect, body.tracker, me().id)
    return done()


@api.post("/handovers/<int:id>/again", operation_id="handAgain", responses={200: shapes.Done})
def hand_again(path: shapes.ById) -> Response:
    """Tell a tracker once more what it has not taken, and ask it how the defect is."""
    with services().database.session() as session:
        link = session.get(tables.Handover, path.id)
        if link is None:
            raise Missing("It is not handed over any more.", where=str(path.id))
        handing.again(session, link)
    return done()


@api.delete("/handovers/<int:id>", operation_id="letGo", responses={200: shapes.Done})
def let_go(path: shapes.ById) -> Response:
    """Tell a tracker no more of a defect; what it has stays there."""
    with services().database.session() as session:
        tracking.let_go(session, path.id, me().id)
    return done()


# -- what trackers tell ---------------------------------------------------------------------------


@api.post("/trackers/told", operation_id="trackerTold", responses={200: shapes.Done})
def tracker_told(body: shapes.LookAsk) -> Response:
    """Take from a tracker that an item changed: it is asked for at once.

    `Lantern-Time` (seconds since 1970) and `Lantern-Signature` sign the body with the secret that
    both know, as Lantern signs its own messages. What the item is now is asked of the tracker.
    """
    origin = request.remote_addr or ""
    with services().database.session() as session:
        signed = [one for one in tracking.listed(session) if _signed(one)]
        for one in signed:
            tracking.look_soon(session, one.id, body.id)
        if not signed:
            audit.note_once(session, "token refused", origin=origin)
    if not signed:
        raise Forbidden("That is not signed by a tracker of ours.")
    return done()


def _signed(tracker: tables.Tracker) -> bool:
    """Tell whether the request was signed with a tracker's secret, not long ago."""
    stamp = request.headers.get("Lantern-Time", "")
    if tracker.inbox is None or not re.fullmatch(r"[0-9]{1,12}", stamp):
        return False
    fresh = abs(time.time() - int(stamp)) <= OLDEST
    secret = services().vault.open(tracker.inbox)
    said = request.headers.get("Lantern-Signature", "").encode()
    wanted = signature(secret, int(stamp), request.get_data()).encode()
    return hmac.compare_digest(said, wanted) and fresh
