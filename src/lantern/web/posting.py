"""Sending what webhooks are to be told, over HTTP."""

from __future__ import annotations

import json
import time

from sqlalchemy.orm import Session

from lantern.core.plans.posting import signature
from lantern.core.problems import Problem
from lantern.store.models import Delivery
from lantern.store.outbox import Refused, Send
from lantern.store.vault import Vault
from lantern.web.outbound import Unanswered, ask


def poster(vault: Vault) -> Send[Delivery]:
    """Return what sends a message to its hook, signed with the hook's secret."""

    def send(_: Session, one: Delivery) -> Refused | None:
        try:
            said = _post(one.hook.address, one, vault.open(one.hook.sealed))
        except Problem as error:
            said = error.message
        return Refused(said) if said else None

    return send


def _post(address: str, one: Delivery, secret: str) -> str:
    """Post a message; returns "" when it was taken, else what went wrong."""
    body = json.dumps({"id": one.id, "try": one.tries, **one.body}).encode()
    at = int(time.time())
    headers = {
        "Content-Type": "application/json",
        "Lantern-Event": one.event,
        "Lantern-Time": str(at),
        "Lantern-Signature": signature(secret, at, body),
    }
    try:
        answer = ask("POST", address, body, headers)
    except Unanswered as error:
        return str(error)
    return "" if answer.taken else f"The answer was {answer.status} {answer.reason}."
