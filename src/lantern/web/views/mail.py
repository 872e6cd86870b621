"""Mails: the server that takes them, the log, trying it out; each person's own address."""

from __future__ import annotations

import os
from typing import cast

from flask import Response, request
from sqlalchemy.orm import Session

from lantern.store import accounts, audit, mails, outbox
from lantern.store import models as tables
from lantern.web import shapes
from lantern.web.context import blueprint, me, need_lead, reply, services

api = blueprint("mail")


def _server_out(row: tables.MailServer | None) -> shapes.MailServerOut:
    if row is None:
        usual = shapes.MailServerIn(host="", sender="").model_dump(exclude={"password"})
        return shapes.MailServerOut(
            **usual | {"enabled": False},
            known=False,
            has_password=False,
            stand_in=False,
            shown="",
        )
    return shapes.MailServerOut(
        known=True,
        enabled=row.enabled,
        host=row.host,
        port=row.port,
        security=cast(shapes.Security, row.security),
        username=row.username,
        has_password=row.sealed is not None,
        sender=row.sender,
        digest_at=row.digest_at,
        zone=row.zone,
        stand_in=row.stand_in,
        shown=os.environ.get("LANTERN_MAILS", "") if row.stand_in else "",
    )


@api.get("/mail-server", operation_id="getMailServer", responses={200: shapes.MailServerOut})
def get_server() -> Response:
    """Return the server that takes mails; for leads. Its password is never told."""
    need_lead()
    with services().database.session() as session:
        shape = _server_out(mails.server(session))
    return reply(shape)


@api.put("/mail-server", operation_id="setMailServer", responses={200: shapes.MailServerOut})
def set_server(body: shapes.MailServerIn) -> Response:
    """Say which server takes mails; for leads."""
    need_lead()
    with services().database.session() as session:
        row = mails.put_server(session, services().vault, **body.model_dump())
        told = f"{row.host}:{row.port}, {'on' if row.enabled else 'off'}"
        audit.note(session, "mail server changed", me().name, told, request.remote_addr or "")
        shape = _server_out(row)
    return reply(shape)


@api.post("/mail-server/try", operation_id="tryMailServer", responses={200: shapes.MailOut})
def try_server() -> Response:
    """Send oneself a mail that shows that mails arrive; for leads."""
    need_lead()
    with services().database.session() as session:
        shape = shapes.MailOut.model_validate(
            mails.try_out(session, accounts.get(session, me().id))
        )
    return reply(shape)


def _list(session: Session, plan_run: int | None = None) -> shapes.MailList:
    found = [shapes.MailOut.model_validate(one) for one in mails.log_of(session, plan_run)]
    return shapes.MailList(mails=found, works=mails.works(session))


@api.get("/mails", operation_id="listMails", responses={200: shapes.MailList})
def list_mails() -> Response:
    """List the newest mails; for leads."""
    need_lead()
    with services().database.session() as session:
        shape = _list(session)
    return reply(shape)


@api.get("/plan-runs/<int:id>/mails", operation_id="mailsOfRun", responses={200: shapes.MailList})
def mails_of_run(path: shapes.ById) -> Response:
    """List the mails about a run of a plan."""
    with services().database.session() as session:
        shape = _list(session, path.id)
    return reply(shape)


@api.post("/mails/<int:id>/again", operation_id="mailAgain", responses={200: shapes.MailOut})
def send_again(path: shapes.ById) -> Response:
    """Send a mail once more; for leads."""
    need_lead()
    with services().database.session() as session:
        shape = shapes.MailOut.model_validate(outbox.again(session, tables.Mail, path.id))
    return reply(shape)


@api.put("/me/email", operation_id="setEmail", responses={200: shapes.Person})
def set_email(body: shapes.EmailAsk) -> Response:
    """Say where one's own mails go, "" for nowhere."""
    with services().database.session() as session:
        account = accounts.get(session, me().id)
        accounts.change(session, account, email=body.email)
        shape = shapes.Person.model_validate(account)
    return reply(shape)
