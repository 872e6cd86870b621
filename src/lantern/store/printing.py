"""Documents that a browser is to print: asked for by one process, printed by another."""

from __future__ import annotations

import time
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete
from sqlalchemy.orm import Session

from lantern.core.problems import Problem
from lantern.store.database import Database
from lantern.store.models import Print
from lantern.store.queue import offer_print

PATIENCE = 90.0
"""Seconds within which a document is printed, or is not."""
AGAIN = 0.4
"""The share of these after which it is offered once more: who took it may have died."""
LOOK = 0.2
OLD = timedelta(hours=1)
"""After which nobody waits for a document any more."""


class NotPrinted(Problem):
    """A document was not printed."""

    code = "not_printed"


def print_pdf(database: Database, html: bytes, patience: float = PATIENCE) -> bytes:
    """Return an HTML document as PDF, printed by a station; raises NotPrinted."""
    with database.session() as session:
        session.execute(delete(Print).filter(Print.at < datetime.now(UTC) - OLD))
        asked = Print(html=html)
        session.add(asked)
        session.flush()
        key = asked.id
        offer_print(session, key)
    try:
        return _waited(database, key, patience)
    finally:
        with database.session() as session:
            session.execute(delete(Print).filter_by(id=key))


def _waited(database: Database, key: int, patience: float) -> bytes:
    begun = time.monotonic()
    offered = False
    while (waited := time.monotonic() - begun) < patience:
        if not offered and waited > AGAIN * patience:
            offered = True
            with database.session() as session:
                offer_print(session, key)
        with database.session() as session:
            row = session.get(Print, key)
            if row is not None and row.done_at is not None:
                if row.pdf:
                    return row.pdf
                raise NotPrinted("The report could not be printed.", hint=row.said)
        time.sleep(LOOK)
    raise NotPrinted(
        "No station printed the report in time.",
        hint="A station with Chromium has to be up. HTML and DOCX need none.",
    )


def html_of(session: Session, key: int) -> str | None:
    """Return the document that is to be printed, None where nobody wants it any more."""
    row = session.get(Print, key)
    return row.html.decode() if row and row.done_at is None else None


def done(session: Session, key: int, pdf: bytes, said: str) -> None:
    """Keep what came of printing: the PDF, or why there is none."""
    row = session.get(Print, key)
    if row is not None:
        row.pdf, row.said, row.done_at = pdf, said[:1000], datetime.now(UTC)
