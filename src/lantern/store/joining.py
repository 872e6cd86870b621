"""Stations that join over the network: invited once, known by a secret, given work, retired.

Such a station reaches nothing but the web's address. What stands here does for it what a station
beside the database does itself: takes from the queue, says that it lives, gives up what it lost.
"""

from __future__ import annotations

import json
import secrets
import uuid
from collections.abc import Collection, Mapping
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Problem
from lantern.core.runs.places import queues_of
from lantern.core.runs.work import Work
from lantern.store import casts, queue, reconciling, stations, works
from lantern.store.database import tell
from lantern.store.models import Cast, Invitation, Station
from lantern.store.tokens import hashed
from lantern.store.vault import Vault

INVITED = timedelta(hours=1)
"""How long a token to join is good for."""
JOIN_MARK, SECRET_MARK = "lantern_join_", "lantern_station_"
"""What tokens begin with, so that one that lies about is known for what it is."""
MOST_PLACES = 64
LONGEST_NAME = 80


class NotInvited(Problem):
    """The token to join is not good, or not any more."""

    code = "not_invited"


def invite(session: Session, who: str) -> tuple[str, datetime]:
    """Return a token by which one station can join, and when it ends; it is told nowhere else."""
    now = datetime.now(UTC)
    session.execute(delete(Invitation).filter(Invitation.ends_at < now))
    token = JOIN_MARK + secrets.token_urlsafe(30)
    row = Invitation(token_hash=hashed(token), made_by=who[:120], ends_at=now + INVITED)
    session.add(row)
    return token, row.ends_at


def join(session: Session, token: str, name: str, places: int) -> tuple[Station, str]:
    """Make a station of who has a token, which is used up; returns it and its secret.

    Raises NotInvited, and BadInput for its name or places.
    """
    name = " ".join(name.split())
    if not name or len(name) > LONGEST_NAME:
        raise BadInput(f"A station's name has 1 to {LONGEST_NAME} characters.", where="name")
    if not 1 <= places <= MOST_PLACES:
        raise BadInput(f"A station has from 1 to {MOST_PLACES} places.", where="places")
    used = delete(Invitation).filter_by(token_hash=hashed(token)).returning(Invitation.ends_at)
    ends = session.scalar(used)
    if ends is None or ends < datetime.now(UTC):
        raise NotInvited(
            "That token is not good (any more): each lets one station join, within an hour.",
            hint="Ask a lead for a new one: Stations, Add a station.",
        )
    secret = SECRET_MARK + secrets.token_urlsafe(30)
    station = Station(
        id=uuid.uuid4().hex[:12],
        name=name,
        address="",
        places=places,
        secret_hash=hashed(secret),
    )
    session.add(station)
    session.flush()
    tell(session, "stations")
    return station, secret


def by_secret(session: Session, secret: str) -> Station | None:
    """Return the station that a secret is of; None for none, such as one that was retired."""
    return session.scalar(select(Station).filter_by(secret_hash=hashed(secret)))


def beat(
    session: Session, station: Station, plays: Mapping[int, str], **fields: object
) -> list[int]:
    """Take note that a station lives and plays casts under tokens; returns those that are to stop.

    What counts as played there and is not is given up, unless it never began there: whoever was to
    get it can be told of it again.
    """
    stations.beat(session, station.id, **fields)
    _enlist(session, station)
    held = casts.played_by(session, station.id)
    for key, token in held.items():
        if plays.get(key) != token and _began(session, key):
            _give_up(session, key, token)
    lost = [key for key, token in plays.items() if held.get(key) != token]
    return lost + casts.to_stop(session, list(plays))


def _began(session: Session, cast_id: int) -> bool:
    """Tell whether a browser was there for a cast: nothing is done before that is on record."""
    return bool(session.scalar(select(Cast.version).filter_by(id=cast_id)))


def _enlist(session: Session, station: Station) -> int:
    """Let a station count as a living worker of the queue; returns its number there."""
    if station.worker is None or not queue.lives(session, station.worker):
        station.worker = queue.enlist(session)
        session.flush()
    return station.worker


def take(
    session: Session, vault: Vault, station: Station, plays: Collection[int] = ()
) -> Work | None:
    """Take the next cast that a station can play; None where there is none, or it takes none.

    One that it was given before and neither `plays` nor began is given to it again: the answer may
    have been lost on the way. Of the secrets of an environment it gets those that the cast names.
    """
    worker = _enlist(session, station)
    for key in casts.played_by(session, station.id):
        if key not in plays and not _began(session, key):
            lost = works.again(session, vault, key)
            if lost is not None:
                return replace(lost, secrets=_needed(lost))
    if station.mode != "works":
        return None
    queues = queues_of(station.engines, station.labels)
    while queues and (offered := queue.fetch(session, queues, worker)):
        job, cast_id = offered
        work = works.take(session, vault, cast_id, job, station.id)
        if work is not None:
            return replace(work, secrets=_needed(work))
        queue.finish(session, job)  # cancelled meanwhile
    return None


def _needed(work: Work) -> dict[str, str]:
    """Return the secrets that a cast names somewhere."""
    told = json.dumps([work.body, work.flows, dict(work.values), dict(work.variables)])
    return {name: value for name, value in work.secrets.items() if f"secret.{name}" in told}


def finish(session: Session, station: Station, job: int) -> None:
    """Let the queue know that a station is done with a job, if it has it."""
    queue.finish(session, job, station.worker)


def _give_up(session: Session, cast_id: int, token: str) -> None:
    job = session.scalar(select(Cast.job).filter_by(id=cast_id, token=token))
    if job:
        queue.finish(session, job)
    reconciling.give_up(session, cast_id, token)


def leave(session: Session, station: Station) -> None:
    """Take note that a station ended in good order; what it still plays is given up."""
    for key, token in casts.played_by(session, station.id).items():
        _give_up(session, key, token)
    if station.worker is not None:
        queue.dismiss(session, station.worker)
        station.worker = None
    stations.leave(session, station.id)


def retire(session: Session, station_id: str) -> Station:
    """Let a station that joined in no more, whether it is up or not.

    Raises Missing, and BadInput for one that stands beside the database.
    """
    station = stations.get(session, station_id)
    if station.secret_hash is None:
        raise BadInput(
            f"{station.name} did not join with a token.",
            where=station.name,
            hint="Drain it, stop it, and forget it.",
        )
    leave(session, station)
    session.delete(station)
    tell(session, "stations")
    return station
