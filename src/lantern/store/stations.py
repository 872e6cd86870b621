"""Stations: who owns browsers, what each offers, and who has stopped saying that it lives."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, Date, Row, cast, delete, func, select
from sqlalchemy.orm import Session

from lantern.core.engine.browsers import engine_called
from lantern.core.problems import BadInput, Missing
from lantern.core.runs.places import MODES, Mode, Offer, check_labels, folded
from lantern.store.database import tell
from lantern.store.models import Cast, Run, Station

BEAT = 2.0
"""Seconds between two signs of life."""

DEAD_AFTER = timedelta(seconds=8)
FORGOTTEN = timedelta(days=30)
"""How long a station is listed that is not there any more."""


def beat(session: Session, station_id: str, **fields: object) -> Station:
    """Say that a station lives, creating its entry with `fields` the first time; returns it."""
    station = session.get(Station, station_id)
    now = datetime.now(UTC)
    if station is None:
        station = Station(id=station_id, **fields)
        session.add(station)
        tell(session, "stations")
        return station
    if station.ended_at is not None or station.beat_at < now - DEAD_AFTER:
        station.started_at, station.ended_at = now, None
        tell(session, "stations")
    station.beat_at = now
    for name, value in fields.items():
        setattr(station, name, value)
    return station


def leave(session: Session, station_id: str) -> None:
    """Take note that a station ended in good order."""
    station = session.get(Station, station_id)
    if station is not None:
        station.ended_at, station.busy = datetime.now(UTC), 0
        tell(session, "stations")


def alive(session: Session) -> Sequence[Station]:
    """Return the stations that live, the least busy first."""
    since = func.now() - DEAD_AFTER
    query = select(Station).filter(Station.beat_at > since, Station.ended_at.is_(None))
    return session.scalars(query.order_by(Station.busy, Station.id)).all()


def is_alive(station: Station) -> bool:
    """Tell whether a station lives."""
    return station.ended_at is None and station.beat_at > datetime.now(UTC) - DEAD_AFTER


def known(session: Session) -> Sequence[Station]:
    """Return all stations, also those that are not there any more, by name."""
    return session.scalars(select(Station).order_by(Station.name, Station.id)).all()


def forget_gone(session: Session) -> None:
    """Delete the stations that have not been there for long."""
    session.execute(delete(Station).filter(Station.beat_at < func.now() - FORGOTTEN))


def offer_of(station: Station) -> Offer:
    """Return what a station offers."""
    mode: Mode = station.mode  # type: ignore[assignment]  # as `change` has checked
    return Offer(frozenset(station.engines), folded(station.labels), mode, station.places)


def offers(session: Session) -> list[Offer]:
    """Return what the stations offer that live."""
    return [offer_of(one) for one in alive(session)]


def missing(session: Session, engines: Iterable[str], needs: Sequence[str]) -> list[str]:
    """Return in words what no station offers that lives and works: engines, with what is needed."""
    there = offers(session)
    told = f" labelled {', '.join(needs)}" if needs else ""
    return [
        f"{engine_called(one).title}{told}"
        for one in sorted(set(engines))
        if not any(offer.suits(one, needs) for offer in there)
    ]


def get(session: Session, station_id: str) -> Station:
    """Return a station; raises Missing."""
    station = session.get(Station, station_id)
    if station is None:
        raise Missing("That station is not known any more.", where=station_id)
    return station


def change(
    session: Session,
    station_id: str,
    *,
    mode: str | None = None,
    labels: Iterable[object] | None = None,
) -> Station:
    """Let a station work, pause or drain, and give it labels; raises Missing or BadInput."""
    station = get(session, station_id)
    if mode is not None:
        if mode not in MODES:
            raise BadInput(f"A station {', '.join(MODES)}.", where="mode")
        station.mode = mode
    if labels is not None:
        station.labels = list(check_labels(labels))
    session.flush()
    tell(session, "stations")
    return station


def forget(session: Session, station_id: str) -> None:
    """Delete what is known of a station that is down; raises Missing, BadInput while it lives."""
    station = get(session, station_id)
    if is_alive(station):
        raise BadInput(
            f"{station.name} is up.", where=station.name, hint="Drain it and stop it first."
        )
    session.delete(station)
    tell(session, "stations")


def playing(session: Session, *of: ColumnElement[bool]) -> Sequence[Row[Any]]:
    """Return what stations play: station, cast, run, test, row, browser, sentence, since when.

    `of` narrows it by conditions on casts and their runs.
    """
    shown: tuple[Any, ...] = (
        Cast.station_id.label("station"),
        Cast.id.label("cast"),
        Cast.run_id.label("run"),
        Run.test_name.label("test"),
        Cast.number,
        Cast.browser,
        Cast.current.label("sentence"),
        Cast.started_at.label("since"),
    )
    query = select(*shown).join(Run, Run.id == Cast.run_id)
    query = query.filter(Cast.outcome == "running", *of)
    return session.execute(query.order_by(Cast.started_at)).all()


def days(session: Session, station_id: str, most: int = 14) -> Sequence[Row[Any]]:
    """Return how many casts a station ended by day and outcome, of the last days."""
    day = cast(Cast.ended_at, Date).label("day")
    since = func.now() - timedelta(days=most)
    shown: tuple[Any, ...] = (day, Cast.outcome, func.count().label("casts"))
    query = (
        select(*shown)
        .filter(Cast.station_id == station_id, Cast.ended_at > since)
        .group_by(day, Cast.outcome)
        .order_by(day)
    )
    return session.execute(query).all()


def last_failures(session: Session, station_id: str, most: int = 10) -> Sequence[Row[Any]]:
    """Return the last casts that a station ended otherwise than well."""
    shown: tuple[Any, ...] = (
        Cast.id.label("cast"),
        Cast.run_id.label("run"),
        Run.test_name.label("test"),
        Cast.number,
        Cast.browser,
        Cast.outcome,
        Cast.message,
        Cast.ended_at,
    )
    query = (
        select(*shown)
        .join(Run, Run.id == Cast.run_id)
        .filter(Cast.station_id == station_id, Cast.outcome.in_(("failed", "interrupted")))
        .order_by(Cast.ended_at.desc().nulls_last())
        .limit(most)
    )
    return session.execute(query).all()
