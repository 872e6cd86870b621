"""Browsers elsewhere: said, tried and deleted by leads."""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Response, request
from sqlalchemy.orm import Session

from lantern.store import audit, remotes
from lantern.store import models as tables
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, need_lead, reply, services
from lantern.web.stations import asked

api = blueprint("remotes")
TRIAL = 90.0
"""Seconds that a session may need to come about."""


def _out(session: Session, row: tables.RemoteBrowser) -> shapes.RemoteOut:
    return shapes.RemoteOut(
        id=row.id,
        name=row.name,
        engine=row.engine,
        address=row.address,
        user=row.user,
        password_kept=row.sealed is not None,
        capabilities=row.capabilities,
        browser=str(row.told.get("browser", "")),
        lacks=list(remotes.engine(session, row.engine).lacks),
    )


@api.get("/remotes", operation_id="listRemotes", responses={200: shapes.RemoteList})
def list_remotes() -> Response:
    """List the remote browsers; for leads."""
    need_lead()
    with services().database.session() as session:
        found = [_out(session, one) for one in remotes.listed(session)]
    return reply(shapes.RemoteList(remotes=found))


@api.post("/remotes", operation_id="makeRemote", responses={200: shapes.RemoteOut})
def make_remote(body: shapes.RemoteIn) -> Response:
    """Make a remote browser; for leads."""
    return _put(None, body)


@api.put("/remotes/<int:id>", operation_id="changeRemote", responses={200: shapes.RemoteOut})
def change_remote(path: shapes.ById, body: shapes.RemoteIn) -> Response:
    """Change a remote browser; for leads."""
    return _put(path.id, body)


def _put(key: int | None, body: shapes.RemoteIn) -> Response:
    need_lead()
    with services().database.session() as session:
        row = tables.RemoteBrowser(told={}) if key is None else remotes.get(session, key)
        remotes.put(session, services().vault, row, **body.model_dump())
        told = f"{row.name}, at {urlsplit(row.address).hostname}"
        audit.note(session, "remote browser changed", me().name, told, request.remote_addr or "")
        shape = _out(session, row)
    return reply(shape)


@api.delete("/remotes/<int:id>", operation_id="deleteRemote", responses={200: shapes.Done})
def delete_remote(path: shapes.ById) -> Response:
    """Delete a remote browser; for leads."""
    need_lead()
    with services().database.session() as session:
        remotes.drop(session, path.id)
    return done()


@api.post("/remotes/<int:id>/try", operation_id="tryRemote", responses={200: shapes.RemoteTried})
def try_remote(path: shapes.ById) -> Response:
    """Have a station make a session and end it; for leads."""
    need_lead()
    with services().database.session() as session:
        remotes.get(session, path.id)
    told = asked({"remote": path.id}, {}, TRIAL)
    with services().database.session() as session:
        shape = _out(session, remotes.get(session, path.id))
    return reply(shapes.RemoteTried(error=str(told.get("error", "")), remote=shape))
