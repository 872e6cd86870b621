"""Stations: who owns browsers, and who has stopped saying that it lives."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from lantern.store.database import tell
from lantern.store.models import Run, RunRow, Station

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


def sweep(session: Session) -> list[int]:
    """Mark the runs of dead stations as interrupted; returns their ids.

    What was recorded of such a run stays; its rows under way end as interrupted. Entries of
    stations that are long dead are removed.
    """
    living = select(Station.id).filter(Station.beat_at > func.now() - DEAD_AFTER)
    lost = session.scalars(
        select(Run)
        .filter(Run.state == "running", Run.station_id.is_not(None), Run.station_id.not_in(living))
        .with_for_update(of=Run, skip_locked=True)
    ).all()
    for run in lost:
        run.state = "interrupted"
        run.message = "The station that carried out this run stopped."
        run.ended_at = datetime.now(UTC)
        session.execute(
            update(RunRow)
            .filter(RunRow.run_id == run.id, RunRow.outcome.in_(("running", "waiting")))
            .values(outcome="interrupted", current="")
        )
        tell(session, "run", id=run.id)
    session.execute(delete(Station).filter(Station.beat_at < func.now() - timedelta(hours=1)))
    return [run.id for run in lost]
