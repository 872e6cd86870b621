"""Making reports: read from the database, written in a form, printed by a station where need be."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from lantern.core.problems import UnknownName
from lantern.core.review.reporting import template
from lantern.exchange.reports import FORMS, Form
from lantern.store import reporting
from lantern.store.database import Database
from lantern.store.printing import print_pdf
from lantern.store.reporting import Asked


@dataclass(frozen=True)
class Made:
    """A report as a file."""

    name: str
    mime: str
    content: bytes
    title: str


def form_of(ending: str) -> Form:
    """Return the form with an ending; raises UnknownName."""
    if ending not in FORMS:
        raise UnknownName("form of reports", ending, FORMS, where="form")
    return FORMS[ending]


def make(database: Database, asked: Asked) -> Made:
    """Return a report; raises Missing for a run that is gone, NotPrinted where no browser is."""
    form = form_of(asked.form)
    with database.session() as session:
        told = reporting.told(session, asked, templated=form.templated)
    content = form.make(told, template(asked.template), partial(print_pdf, database))
    title = getattr(told, "test", "") or getattr(told, "name", "") or "Trends"
    state = getattr(told, "state", "")
    said = f"{title}: {state}" if state else title
    return Made(f"{asked.name}.{asked.form}", form.mime, content, said)
