"""What stations that joined over the network ask and tell; each of them for itself alone."""

from __future__ import annotations

from typing import Any, cast

from flask import Response, g, request

from lantern import __version__
from lantern.core.problems import Conflict, Missing
from lantern.core.runs.life import Ended, Lost, TooLate
from lantern.store import audit, casts, joining, pictures, plan_runs, stations, works
from lantern.store import models as tables
from lantern.store.noting import Noting
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, need_lead, reply, services

api = blueprint("joined")
LARGEST = 100 * 1024 * 1024


def _me() -> tables.Station:
    return cast(tables.Station, g.station)


@api.post("/stations/invitations", operation_id="inviteStation", responses={200: shapes.Invited})
def invite() -> Response:
    """Make a token by which one station can join; it is told only now. For leads."""
    need_lead()
    with services().database.session() as session:
        token, ends = joining.invite(session, me().name)
        audit.note(session, "station invited", me().name, origin=request.remote_addr or "")
    return reply(shapes.Invited(token=token, ends_at=ends))


@api.post("/stations/<key>/retire", operation_id="retireStation", responses={200: shapes.Done})
def retire(path: shapes.ByKey) -> Response:
    """Let a station that joined in no more; what it plays goes to others. For leads."""
    need_lead()
    with services().database.session() as session:
        station = joining.retire(session, path.key)
        origin = request.remote_addr or ""
        audit.note(session, "station retired", me().name, station.name, origin)
    return done()


@api.post("/joining", operation_id="joinAsStation", responses={200: shapes.Joined})
def join(body: shapes.Joining) -> Response:
    """Make a station of who has a token to join."""
    origin = request.remote_addr or ""
    try:
        with services().database.session() as session:
            station, secret = joining.join(session, body.token, body.name, body.places)
            audit.note(session, "station joined", station.name, origin=origin)
            made = shapes.Joined(station=station.id, secret=secret)
    except joining.NotInvited:
        with services().database.session() as session:
            audit.note_once(session, "token refused", origin=origin)
        raise
    return reply(made)


@api.post("/joined/beat", operation_id="joinedBeat", responses={200: shapes.Orders})
def beat(body: shapes.JoinedBeat) -> Response:
    """Say that the station lives and what it plays; returns what it is to do."""
    if body.version != __version__:
        raise Conflict(
            f"This Lantern is {__version__}, the station {body.version}.",
            hint="Install the same release there, and start it again.",
        )
    fields = body.model_dump(exclude={"plays", "version"})
    with services().database.session() as session:
        station = stations.get(session, _me().id)
        stop = joining.beat(session, station, body.plays, **fields)
        told = shapes.Orders(mode=stations.offer_of(station).mode, stop=stop)
    return reply(told)


@api.post("/joined/take", operation_id="joinedTake", responses={200: shapes.Taken})
def take(body: shapes.JoinedTake) -> Response:
    """Take the next cast that this station can play."""
    service = services()
    with service.database.session() as session:
        station = stations.get(session, _me().id)
        work = joining.take(session, service.vault, station, body.plays)
    if work is not None and work.plan_run is not None:
        with service.database.session() as session:
            plan_runs.begun(session, work.plan_run)
    return reply(shapes.Taken(work=work.as_json() if work else None))


def _mine(cast_id: int, token: str) -> tables.Cast:
    """Return a cast that this station plays under a token; raises TooLate."""
    with services().database.session() as session:
        found = casts.hold(session, cast_id, token)
    if found.station_id != _me().id:
        raise TooLate("Another station plays it.")
    return found


@api.post("/joined/casts/<int:id>/notes", operation_id="joinedNote", responses={200: shapes.Done})
def note(path: shapes.ById, body: shapes.JoinedNotes) -> Response:
    """Put in place what the station tells of a cast."""
    _mine(path.id, body.token)
    service = services()
    with service.database.session() as session:
        noting = Noting(session, service.vault, path.id, body.token)
        for one in body.notes:
            noting.take(one)
    return done()


@api.post(
    "/joined/casts/<int:id>/contents", operation_id="joinedKeep", responses={200: shapes.Done}
)
def keep(path: shapes.ById, query: shapes.JoinedContent) -> Response:
    """Keep a picture or a file, which is the request's body."""
    _mine(path.id, query.token)
    request.max_content_length = LARGEST  # what a page lets one download may be large
    content = request.get_data()
    with services().database.session() as session:
        pictures.keep(session, content, query.mime)
    return done()


@api.get("/joined/casts/<int:id>/file", operation_id="joinedFile", responses={200: shapes.Done})
def file(path: shapes.ById, query: shapes.JoinedFile) -> Response:
    """Return a file of the test that the cast is of; the answer is the file."""
    cast_row = _mine(path.id, query.token)
    with services().database.session() as session:
        run = session.get_one(tables.Run, cast_row.run_id)
        kept = pictures.load(session, run.files[query.name]) if query.name in run.files else None
        if kept is None:
            raise Missing("There is no such file.", where=query.name)
        return Response(kept.content, mimetype="application/octet-stream")


@api.get(
    "/joined/casts/<int:id>/following",
    operation_id="joinedFollowing",
    responses={200: shapes.Following},
)
def following(path: shapes.ById, query: shapes.JoinedToken) -> Response:
    """Return the browser of the next cast of the run."""
    run = _mine(path.id, query.token).run_id
    with services().database.session() as session:
        return reply(shapes.Following(browser=casts.following(session, run)))


@api.post("/joined/casts/<int:id>/end", operation_id="joinedEnd", responses={200: shapes.Done})
def end(path: shapes.ById, body: shapes.JoinedEnd) -> Response:
    """Let the end of a cast happen, and go on with its plan."""
    database = services().database
    told: dict[str, Any] = body.ended.model_dump()
    lost = told.pop("lost")
    ended: Ended | Lost = (
        Lost(path.id, body.token, told["message"]) if lost else Ended(path.id, body.token, **told)
    )
    try:
        run_id = _mine(path.id, body.token).run_id
        with database.session() as session:
            works.over(session, run_id, ended, body.release)
    finally:  # whatever became of the cast meanwhile, this station is done with the job
        with database.session() as session:
            joining.finish(session, stations.get(session, _me().id), body.job)
    with database.session() as session:
        plan_run = session.get_one(tables.Run, run_id).plan_run_id
    if plan_run is not None:
        with database.session() as session:
            plan_runs.go_on(session, plan_run)
    return done()


@api.post("/joined/leave", operation_id="joinedLeave", responses={200: shapes.Done})
def leave() -> Response:
    """Say that the station ends."""
    with services().database.session() as session:
        joining.leave(session, stations.get(session, _me().id))
    return done()
