"""Webhooks: kept by leads, with a log of what was sent, and sending it once more."""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Response, request
from sqlalchemy.orm import Session

from lantern.store import audit, hooks, outbox
from lantern.store import models as tables
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, need_lead, reply, services

api = blueprint("hooks")


def _out(session: Session, hook: tables.Hook) -> shapes.HookOut:
    newest = next(iter(hooks.log_of(session, hook.id, 1)), None)
    return shapes.HookOut(
        id=hook.id,
        name=hook.name,
        address=hook.address,
        events=hook.events,
        plan=hook.plan_id,
        enabled=hook.enabled,
        failing=bool(newest and newest.tries and newest.state != "sent"),
    )


@api.get("/hooks", operation_id="listHooks", responses={200: shapes.HookList})
def list_hooks() -> Response:
    """List the webhooks; for leads."""
    need_lead()
    with services().database.session() as session:
        found = [_out(session, hook) for hook in hooks.listed(session)]
    return reply(shapes.HookList(hooks=found))


@api.post("/hooks", operation_id="makeHook", responses={200: shapes.HookOut})
def make_hook(body: shapes.HookIn) -> Response:
    """Make a webhook; for leads."""
    return _put(tables.Hook(sealed=b""), body)


@api.put("/hooks/<int:id>", operation_id="changeHook", responses={200: shapes.HookOut})
def change_hook(path: shapes.ById, body: shapes.HookIn) -> Response:
    """Change a webhook; for leads."""
    return _put(path.id, body)


def _put(which: tables.Hook | int, body: shapes.HookIn) -> Response:
    need_lead()
    with services().database.session() as session:
        hook = hooks.get(session, which) if isinstance(which, int) else which
        secret = body.secret if body.secret is not None or hook.sealed else ""
        hooks.put(
            session,
            services().vault,
            hook,
            name=body.name,
            address=body.address,
            events=body.events,
            plan=body.plan,
            enabled=body.enabled,
            secret=secret,
        )
        told = f"{hook.name}, at {urlsplit(hook.address).hostname}"  # the rest may be secret
        audit.note(session, "webhook changed", me().name, told, request.remote_addr or "")
        shape = _out(session, hook)
    return reply(shape)


@api.delete("/hooks/<int:id>", operation_id="deleteHook", responses={200: shapes.Done})
def delete_hook(path: shapes.ById) -> Response:
    """Delete a webhook with its log; for leads."""
    need_lead()
    with services().database.session() as session:
        hooks.drop(session, path.id)
    return done()


@api.get(
    "/hooks/<int:id>/deliveries",
    operation_id="listDeliveries",
    responses={200: shapes.DeliveryList},
)
def list_deliveries(path: shapes.ById) -> Response:
    """List what was sent to a webhook, newest first; for leads."""
    need_lead()
    with services().database.session() as session:
        found = [shapes.DeliveryOut.model_validate(one) for one in hooks.log_of(session, path.id)]
    return reply(shapes.DeliveryList(deliveries=found))


@api.post(
    "/deliveries/<int:id>/again", operation_id="sendAgain", responses={200: shapes.DeliveryOut}
)
def send_again(path: shapes.ById) -> Response:
    """Send a message once more; for leads."""
    need_lead()
    with services().database.session() as session:
        shape = shapes.DeliveryOut.model_validate(outbox.again(session, tables.Delivery, path.id))
    return reply(shape)
