"""Sending messages in the background of the web process: each kind in a thread of its own."""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import partial

import structlog

from lantern.store import reporting
from lantern.store.database import Database
from lantern.store.models import Delivery, Handing, Mail
from lantern.store.outbox import send_due
from lantern.store.vault import Vault
from lantern.web.mailing import mailer
from lantern.web.posting import poster
from lantern.web.reporting import make
from lantern.web.tracking import look_due, teller

log = structlog.get_logger()
EVERY = 2.0
"""Seconds between two looks for what is to be sent."""


def begin(database: Database, vault: Vault, address: str) -> None:
    """Send from now on what is due, for as long as the process lives.

    `address` is where people reach Lantern, for links in mails.
    """
    wait = threading.Event().wait
    for name, work in (
        ("posting", lambda: send_due(database, Delivery, poster(vault))),
        (
            "mailing",
            lambda: send_due(database, Mail, mailer(vault, address, partial(make, database))),
        ),
        ("ordering", lambda: reporting.send_due(database)),
        ("handing", lambda: send_due(database, Handing, teller(vault, address))),
        ("looking", lambda: look_due(database, vault)),
    ):
        threading.Thread(target=keep, args=(work, wait), name=name, daemon=True).start()


def keep(work: Callable[[], object], stopped: Callable[[float], bool]) -> None:
    """Do a work again and again until `stopped`, told how many seconds to wait, says so."""
    while not stopped(EVERY):
        try:
            work()
        except Exception:
            log.exception("sending_failed")  # the database may be away for a while
