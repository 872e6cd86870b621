"""Stations: which there are, what each does, and what a lead lets them do."""

from __future__ import annotations

from datetime import date

from flask import Response, request
from sqlalchemy.orm import Session

from lantern.core.engine.browsers import ENGINES, REMOTE, engine_called
from lantern.store import audit, stations
from lantern.store import models as tables
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, need_lead, reply, services

api = blueprint("stations")


def _station(one: tables.Station) -> shapes.StationOut:
    return shapes.StationOut(
        id=one.id,
        name=one.name,
        up=stations.is_alive(one),
        joined=one.secret_hash is not None,
        mode=stations.offer_of(one).mode,
        labels=list(one.labels),
        engines=[
            shapes.EngineHere(
                name=name,
                title=engine_called(name).title,
                version=str(one.versions.get(name, "")),
            )
            for name in one.engines
            if name in ENGINES or name.startswith(REMOTE)
        ],
        browser=one.browser,
        busy=one.busy,
        places=one.places,
        load=one.load,
        started_at=one.started_at,
        beat_at=one.beat_at,
        ended_at=one.ended_at,
    )


@api.get("/stations", operation_id="listStations", responses={200: shapes.Stations})
def list_stations() -> Response:
    """List the stations that are known, those first that live."""
    with services().database.session() as session:
        found = [_station(one) for one in stations.known(session)]
    return reply(shapes.Stations(stations=sorted(found, key=lambda one: not one.up)))


@api.get("/stations/<key>", operation_id="getStation", responses={200: shapes.StationWhole})
def get_station(path: shapes.ByKey) -> Response:
    """Return a station with what it plays and what it did lately."""
    with services().database.session() as session:
        shape = _whole(session, path.key)
    return reply(shape)


def _whole(session: Session, key: str) -> shapes.StationWhole:
    days: dict[date, dict[str, int]] = {}
    for one in stations.days(session, key):
        days.setdefault(one.day, {})[one.outcome] = one.casts
    return shapes.StationWhole(
        station=_station(stations.get(session, key)),
        plays=[
            shapes.Playing(**one._mapping)
            for one in stations.playing(session, tables.Cast.station_id == key)
        ],
        days=[shapes.StationDay(day=day, casts=casts) for day, casts in days.items()],
        failures=[
            shapes.StationFailure(**one._mapping) for one in stations.last_failures(session, key)
        ],
    )


@api.patch("/stations/<key>", operation_id="changeStation", responses={200: shapes.StationWhole})
def change_station(path: shapes.ByKey, body: shapes.StationChange) -> Response:
    """Let a station work, pause or drain, and give it labels; for leads."""
    need_lead()
    with services().database.session() as session:
        one = stations.change(session, path.key, mode=body.mode, labels=body.labels)
        told = f"{one.name}: {one.mode}, {', '.join(one.labels) or 'no labels'}"
        audit.note(session, "station changed", me().name, told, request.remote_addr or "")
        shape = _whole(session, path.key)
    return reply(shape)


@api.delete("/stations/<key>", operation_id="forgetStation", responses={200: shapes.Done})
def forget_station(path: shapes.ByKey) -> Response:
    """Forget a station that is down; for leads."""
    need_lead()
    with services().database.session() as session:
        stations.forget(session, path.key)
    return done()
