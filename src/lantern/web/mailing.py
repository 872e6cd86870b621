"""Sending mails by SMTP (RFC 5321): composed when they go out, from what is on record then."""

from __future__ import annotations

import smtplib
import ssl
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from email.message import EmailMessage

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.plans.posting import BAD
from lantern.core.problems import Missing, Problem
from lantern.exchange import mail
from lantern.store import mails, plan_runs
from lantern.store.models import Cast, Mail, MailServer, PlanRun, Run
from lantern.store.outbox import Refused, Send
from lantern.store.records import plan_record_of
from lantern.store.reporting import Asked
from lantern.store.vault import Vault
from lantern.web.reporting import Made

LIMIT = 20.0
"""Seconds that a mail server may keep one waiting."""
FOR_GOOD = range(500, 600)
"""Answers that say that trying it again is no use (RFC 5321, 4.2.1)."""


Reports = Callable[[Asked], Made]
"""Makes reports that go with mails."""


def mailer(vault: Vault, address: str, reports: Reports | None = None) -> Send[Mail]:
    """Return what sends a mail; `address` is where people reach Lantern, for links."""

    def send(session: Session, one: Mail) -> Refused | None:
        place = mails.server(session)
        if place is None or not place.enabled:
            return Refused("No mail is sent: the server is not switched on.")
        person = one.account
        if person.gone or person.disabled or not person.email:
            return Refused(f"{person.name} has no mail address any more.", for_good=True)
        one.address = person.email
        key = f"lantern-mail-{one.id}"
        letter = mail.Letter(key, place.sender, person.name, person.email, one.why, address)
        try:
            message = _composed(session, one, letter, reports)
            if message is None:
                return Refused("What it was to tell of does not exist any more.", for_good=True)
            one.subject = str(message["Subject"])
            password = vault.open(place.sealed) if place.sealed else ""
        except Problem as error:
            return Refused(error.message)
        return _send(place, password, message)

    return send


def _composed(
    session: Session, one: Mail, letter: mail.Letter, reports: Reports | None
) -> EmailMessage | None:
    if one.kind == "report":
        return _report(one, letter, reports)
    if one.kind == "try":
        return mail.trial(letter)
    if one.kind == "digest":
        briefs = list(_briefs(session, one.runs))
        return mail.digest(letter, briefs) if briefs else None
    run = one.plan_run
    if run is None:
        return None
    last = plan_runs.last_before(session, run)
    fixed = last is not None and last.state in BAD
    return mail.about_run(letter, plan_record_of(session, run), fixed=fixed)


def _report(one: Mail, letter: mail.Letter, reports: Reports | None) -> EmailMessage | None:
    if reports is None:
        return None
    try:
        made = reports(Asked.read(one.report))
    except Missing:
        return None
    asked = Asked.read(one.report)
    paths = {"run": f"/runs/{asked.key}", "plan run": f"/plan-runs/{asked.key}"}
    return mail.with_report(
        letter,
        mail.Enclosed(made.name, made.mime, made.content, made.title),
        word=str(one.report.get("word", "")),
        path=paths.get(asked.what, "/trends"),
    )


def _briefs(session: Session, ids: list[int]) -> Iterator[mail.Brief]:
    for run in session.scalars(select(PlanRun).filter(PlanRun.id.in_(ids)).order_by(PlanRun.id)):
        casts = (
            select(Cast.outcome, func.count())
            .join(Run, Cast.run_id == Run.id)
            .filter(Run.plan_run_id == run.id)
            .group_by(Cast.outcome)
        )
        counts = {str(row[0]): int(row[1]) for row in session.execute(casts)}
        yield mail.Brief(run.id, run.plan_name, run.state, run.message, counts, run.ended_at)


def _send(place: MailServer, password: str, message: EmailMessage) -> Refused | None:
    try:
        with _connected(place) as server:
            if place.username:
                server.login(place.username, password)
            server.send_message(message)
    except smtplib.SMTPRecipientsRefused as error:
        code, said = next(iter(error.recipients.values()))
        return Refused(f"{code} {_words(said)}", for_good=code in FOR_GOOD)
    except smtplib.SMTPResponseException as error:
        return Refused(f"{error.smtp_code} {_words(error.smtp_error)}")
    except (smtplib.SMTPException, OSError, ValueError) as error:
        return Refused(f"{type(error).__name__}: {error}")
    return None


@contextmanager
def _connected(place: MailServer) -> Iterator[smtplib.SMTP]:
    """Connect as a server wants it; where it is to be secret, its certificate must be right."""
    secure = ssl.create_default_context()
    if place.security == "tls":
        with smtplib.SMTP_SSL(place.host, place.port, timeout=LIMIT, context=secure) as server:
            yield server
        return
    with smtplib.SMTP(place.host, place.port, timeout=LIMIT) as server:
        if place.security == "starttls":
            server.starttls(context=secure)
        yield server


def _words(said: bytes | str) -> str:
    return said.decode(errors="replace") if isinstance(said, bytes) else said
