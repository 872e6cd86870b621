"""Stations: who owns browsers, and who has stopped saying that it lives."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from lantern.store.database import tell
from lantern.store.models import Station

BEAT = 2.0
"""Seconds between two signs of life."""

DEAD_AFTER = timedelta(seconds=8)


def beat(session: Session, station_id: str, **fields: object) -> None:
    """Say that a station lives, creating its entry with `fields` the first time."""
    station = session.get(Station, station_id)
    if station is None:
        session.add(Station(id=station_id, **fields))
        tell(session, "stations")
        return
    station.beat_at = datetime.now(UTC)
    for name, value in fields.items():
        setattr(station, name, value)


def leave(session: Session, station_id: str) -> None:
    """Take a station out that ends in good order."""
    session.execute(delete(Station).filter_by(id=station_id))
    tell(session, "stations")


def alive(session: Session) -> Sequence[Station]:
    """Return the stations that live, the least busy first."""
    since = func.now() - DEAD_AFTER
    query = select(Station).filter(Station.beat_at > since).order_by(Station.busy)
    return session.scalars(query).all()
