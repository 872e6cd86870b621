"""Webhooks: kept with a sealed secret, told of runs of plans, with a log of what was sent."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import UTC, datetime
from urllib.parse import urlsplit

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.plans.posting import EVENTS, Event
from lantern.core.problems import BadInput, Missing
from lantern.store.database import tell
from lantern.store.models import Delivery, Hook, PlanRun
from lantern.store.vault import Vault

LONGEST_NAME, LONGEST_ADDRESS, LONGEST_SECRET, MOST = 80, 500, 200, 50
SHOWN = 100
"""Messages that the log shows."""


def listed(session: Session) -> Sequence[Hook]:
    """Return all hooks, by name."""
    return session.scalars(select(Hook).order_by(Hook.name, Hook.id)).all()


def get(session: Session, key: int) -> Hook:
    """Return a hook; raises Missing."""
    hook = session.get(Hook, key)
    if hook is None:
        raise Missing("There is no such webhook.", where=str(key))
    return hook


def put(
    session: Session,
    vault: Vault,
    hook: Hook,
    *,
    name: str,
    address: str,
    events: Iterable[str],
    plan: int | None,
    enabled: bool,
    secret: str | None,
) -> Hook:
    """Make a hook what is said; a `secret` of None stays as it is. Raises BadInput."""
    hook.name = " ".join(name.split())
    hook.address = address.strip()
    hook.events = [one for one in EVENTS if one in set(events)]
    hook.plan_id, hook.enabled = plan, enabled
    if not hook.name or len(hook.name) > LONGEST_NAME:
        raise BadInput(f"A webhook's name has 1 to {LONGEST_NAME} characters.", where="name")
    where = urlsplit(hook.address)
    if where.scheme not in ("http", "https") or not where.hostname:
        raise BadInput("That is no address.", where="address", hint="Such as https://ci.example/x.")
    if len(hook.address) > LONGEST_ADDRESS or where.username or where.password:
        raise BadInput("The address is too long, or holds a password.", where="address")
    if not hook.events:
        raise BadInput(f"Say when it is told: {', '.join(EVENTS)}.", where="events")
    if secret is not None:
        if not 8 <= len(secret) <= LONGEST_SECRET:
            raise BadInput(f"The secret has 8 to {LONGEST_SECRET} characters.", where="secret")
        hook.sealed = vault.seal(secret)
    if hook.id is None:
        if len(listed(session)) >= MOST:
            raise BadInput(f"There are up to {MOST} webhooks.")
        session.add(hook)
    session.flush()
    tell(session, "plans")
    return hook


def drop(session: Session, key: int) -> None:
    """Delete a hook with its log; raises Missing."""
    session.delete(get(session, key))
    tell(session, "plans")


def log_of(session: Session, key: int, most: int = SHOWN) -> Sequence[Delivery]:
    """Return the newest messages to a hook, so many at the most; raises Missing."""
    get(session, key)
    query = select(Delivery).filter_by(hook_id=key).order_by(Delivery.id.desc()).limit(most)
    return session.scalars(query).all()


def happened(session: Session, run: PlanRun, events: Sequence[Event]) -> None:
    """Queue what is to be told of a run of a plan, in the transaction in which it happened."""
    if not events:
        return
    query = select(Hook).filter(
        Hook.enabled, Hook.plan_id.is_(None) | (Hook.plan_id == run.plan_id)
    )
    now = datetime.now(UTC)
    for hook in session.scalars(query):
        for event in events:
            if event in hook.events:
                body = {
                    "event": event,
                    "at": now.isoformat(),
                    "plan": {"id": run.plan_id, "name": run.plan_name},
                    "run": {
                        "id": run.id,
                        "state": run.state,
                        "message": run.message,
                        "path": f"/plan-runs/{run.id}",
                    },
                }
                session.add(
                    Delivery(
                        hook_id=hook.id, plan_run_id=run.id, event=event, body=body, next_at=now
                    )
                )
