"""Sending what webhooks are to be told, over HTTP."""

from __future__ import annotations

import http.client
import json
import socket
import time
from contextlib import suppress
from threading import Timer
from urllib.parse import urlsplit

from sqlalchemy.orm import Session

from lantern.core.plans.posting import signature
from lantern.core.problems import Problem
from lantern.store.models import Delivery
from lantern.store.outbox import Refused, Send
from lantern.store.vault import Vault

LIMIT = 10.0
"""Seconds that a receiver has in all, however slowly it answers."""
TAKEN = range(200, 300)


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
    """Post a message; returns "" when it was taken, else what went wrong.

    It is not led elsewhere: what is signed is meant for that address alone.
    """
    body = json.dumps({"id": one.id, "try": one.tries, **one.body}).encode()
    at = int(time.time())
    headers = {
        "Content-Type": "application/json",
        "User-Agent": "Lantern",
        "Lantern-Event": one.event,
        "Lantern-Time": str(at),
        "Lantern-Signature": signature(secret, at, body),
    }
    where = urlsplit(address)
    kind = http.client.HTTPSConnection if where.scheme == "https" else http.client.HTTPConnection
    connection = kind(where.hostname or "", where.port, timeout=LIMIT)
    late = Timer(LIMIT, _break_off, (connection,))
    late.daemon = True
    late.start()
    try:
        path = where.path or "/"
        connection.request("POST", f"{path}?{where.query}" if where.query else path, body, headers)
        answer = connection.getresponse()
    except (OSError, http.client.HTTPException, ValueError) as error:
        return f"{type(error).__name__}: {error}"
    finally:
        late.cancel()
        connection.close()
    return "" if answer.status in TAKEN else f"The answer was {answer.status} {answer.reason}."


def _break_off(connection: http.client.HTTPConnection) -> None:
    """End a connection under who waits for it: each letter that comes prolongs its own limit."""
    with suppress(OSError, AttributeError):  # it is not open yet, or not any more
        connection.sock.shutdown(socket.SHUT_RDWR)
