"""Mails: the server that takes them, whom a run of a plan is told, and what is to be sent."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import Row, func, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from lantern.core.plans.going import together
from lantern.core.plans.model import Plan
from lantern.core.plans.posting import BAD, Event
from lantern.core.plans.schedule import Schedule
from lantern.core.plans.telling import Part, check_email, hear
from lantern.core.problems import BadInput
from lantern.store import calls, tests
from lantern.store.database import tell
from lantern.store.models import (
    Account,
    Cast,
    ElementVersion,
    Mail,
    MailServer,
    PlanRun,
    Run,
    Test,
    Version,
)
from lantern.store.rows import unpacked
from lantern.store.vault import Vault

SECURITIES = ("none", "starttls", "tls")
SHOWN = 100
"""Mails that the log shows."""
MOST_IN_DIGEST = 200
_HOST = re.compile(r"[A-Za-z0-9.\-:\[\]]{1,255}")
_CLOCK = re.compile(r"([01]\d|2[0-3]):[0-5]\d")


# -- the server -----------------------------------------------------------------------------------


def server(session: Session) -> MailServer | None:
    """Return the server that takes mails, None where none was said yet."""
    return session.get(MailServer, 1)


def works(session: Session) -> bool:
    """Tell whether mails are sent at all."""
    return bool(session.scalar(select(MailServer.enabled).filter_by(id=1)))


def put_server(
    session: Session,
    vault: Vault,
    *,
    enabled: bool,
    host: str,
    port: int,
    security: str,
    username: str,
    password: str | None,
    sender: str,
    digest_at: str,
    zone: str,
    stand_in: bool = False,
) -> MailServer:
    """Say which server takes mails; a `password` of None stays as it is. Raises BadInput."""
    row = server(session) or MailServer(id=1)
    if not _HOST.fullmatch(host.strip()):
        raise BadInput("That is no name of a server.", where="host", hint="Such as mail.example.")
    if not 1 <= port <= 65535:
        raise BadInput(
            "A port is from 1 to 65535.", where="port", hint="Usual are 25, 465 and 587."
        )
    if security not in SECURITIES:
        raise BadInput(f"The security is one of {', '.join(SECURITIES)}.", where="security")
    if not _CLOCK.fullmatch(digest_at):
        raise BadInput("That is no time of day.", where="digest_at", hint="Such as 07:00.")
    if not check_email(sender):
        raise BadInput("Say which address mails come from.", where="sender")
    next_digest(digest_at, zone, datetime.now(UTC))  # raises BadInput for a zone that there is not
    moved = row.host is not None and (row.host, row.port) != (host.strip(), port)
    if moved and row.sealed and password is None:
        # What was said to one server is not said to another that somebody else put in.
        raise BadInput("Enter the password anew for another server.", where="password")
    row.enabled, row.host, row.port, row.security = enabled, host.strip(), port, security
    row.username, row.sender = username.strip()[:255], check_email(sender)
    row.digest_at, row.zone, row.stand_in = digest_at, zone, stand_in
    if password is not None:
        row.sealed = vault.seal(password) if password else None
    session.add(row)
    session.flush()
    tell(session, "plans")
    return row


def next_digest(clock: str, zone: str, after: datetime) -> datetime:
    """Return the next time of day `clock` in a zone; raises BadInput."""
    hour, minute = clock.split(":")
    schedule = Schedule.read({"cron": f"{int(minute)} {int(hour)} * * *", "zone": zone})
    return schedule.next(after) or after + timedelta(days=1)


# -- what is to be sent ---------------------------------------------------------------------------


def happened(session: Session, run: PlanRun, events: Sequence[Event]) -> None:
    """Queue the mails about a run of a plan that ended, in the transaction in which it did."""
    tells = Plan.read(run.body).tells
    if "end" not in events or not tells or not works(session):
        return
    needs_parts = any(one.whom != "person" for one in tells)
    told = hear(tells, events, _parts(session, run) if needs_parts else ())
    people = select(Account).filter(Account.id.in_(told), ~Account.gone, ~Account.disabled)
    for person in session.scalars(people.order_by(Account.id)):
        hears = told[person.id]
        if hears.digest:
            _into_digest(session, person, run)
        else:
            add(session, person, "run", plan_run_id=run.id, why=hears.why)


def add(session: Session, person: Account, kind: str, **more: Any) -> Mail:  # noqa: ANN401 - columns
    """Queue a mail to a person; one without an address is given up at once."""
    now = datetime.now(UTC)
    one = Mail(account_id=person.id, kind=kind, **{"next_at": now, "address": person.email, **more})
    if not person.email:
        one.state, one.next_at, one.done_at = "given up", None, now
        one.said = f"{person.name} has no mail address."
    session.add(one)
    session.flush()
    return one


def _into_digest(session: Session, person: Account, run: PlanRun) -> None:
    """Put a run into the next digest of a person, of which there is one at a time."""
    lock = func.hashtext(f"digest {person.id}")
    session.execute(select(func.pg_advisory_xact_lock(lock)))
    row = session.scalar(
        select(Mail)
        .filter_by(account_id=person.id, kind="digest", state="waiting", tries=0)
        .with_for_update(of=Mail)
    )
    if row is not None:
        row.runs = [*row.runs, run.id][-MOST_IN_DIGEST:]
        return
    place = session.get_one(MailServer, 1)
    at = next_digest(place.digest_at, place.zone, datetime.now(UTC))
    why = "You get one mail a day about plans whose list you are on."
    add(session, person, "digest", runs=[run.id], next_at=at, why=why)


def try_out(session: Session, person: Account) -> Mail:
    """Queue a mail that only shows that mails arrive; raises BadInput for who has no address."""
    if not person.email:
        raise BadInput("Say your own mail address first.", where="email")
    if not works(session):
        raise BadInput("No mail is sent: the server is not switched on.", where="enabled")
    return add(session, person, "try", why="You asked for it.")


def log_of(session: Session, plan_run: int | None = None) -> Sequence[Mail]:
    """Return the newest mails, of one run of a plan if asked."""
    query = select(Mail).order_by(Mail.id.desc()).limit(SHOWN)
    if plan_run is not None:
        query = query.filter(Mail.plan_run_id == plan_run)
    return session.scalars(query).all()


# -- whom a test concerns -------------------------------------------------------------------------


def _parts(session: Session, run: PlanRun) -> list[Part]:
    """Return how the tests of a run of a plan came out, with whom they concern."""
    found: dict[int, list[str]] = {}
    names: dict[int, str] = {}
    for row in _casts(session, run.id):
        found.setdefault(row.test_id, []).append(row.outcome)
        names[row.test_id] = row.test_name
    before = _outcomes_before(session, run, found)
    owners = dict(_owners(session, found))
    return [
        _part(session, run, key, names[key], together(states), before.get(key, ""), owners.get(key))
        for key, states in found.items()
    ]


def _casts(session: Session, key: int) -> Sequence[Row[Any]]:
    shown: tuple[Any, ...] = (Run.test_id, Run.test_name, Cast.outcome)
    query = (
        select(*shown)
        .join(Cast, Cast.run_id == Run.id)
        .filter(Run.plan_run_id == key, Run.phase == "main", Run.test_id.is_not(None))
    )
    return session.execute(query.order_by(Run.place)).all()


def _part(
    session: Session,
    run: PlanRun,
    key: int,
    name: str,
    outcome: str,
    before: str,
    owner: int | None,
) -> Part:
    if outcome in BAD:
        return Part(name, "failed", owner, _changers(session, key, run))
    if outcome == "passed" and before in BAD:
        return Part(name, "fixed", owner)
    return Part(name, "", owner)


def _owners(session: Session, ids: Iterable[int]) -> Iterable[tuple[int, int | None]]:
    rows = session.execute(select(Test.id, Test.created_by).filter(Test.id.in_(list(ids))))
    return ((row.id, row.created_by) for row in rows)


def _outcomes_before(session: Session, run: PlanRun, ids: Iterable[int]) -> dict[int, str]:
    """Return the states of the runs on record of tests before this run of a plan."""
    query = (
        select(Run.test_id, Run.state)
        .ext(distinct_on(Run.test_id))
        .filter(Run.test_id.in_(list(ids)), Run.kind == "run", Run.ended_at.is_not(None))
        .filter(func.coalesce(Run.plan_run_id, 0) != run.id, Run.queued_at < run.queued_at)
        .order_by(Run.test_id, Run.id.desc())
    )
    return {row.test_id: row.state for row in session.execute(query)}


def _changers(session: Session, key: int, run: PlanRun) -> set[int]:
    """Return who changed a test, its flows or elements since it last passed; nobody if never."""
    passed = select(func.max(Run.queued_at)).filter(
        Run.test_id == key, Run.state == "passed", Run.kind == "run"
    )
    since = session.scalar(passed)
    if since is None:
        return set()
    document = unpacked(tests.get(session, key))
    flows = calls.load(session, document.flow_ids())
    elements = list(calls.element_ids(document, flows))
    tests_of = [key, *(int(one) for one in flows)]
    changed = select(Version.author_id).filter(Version.test_id.in_(tests_of), Version.at > since)
    learned = select(ElementVersion.author_id).filter(
        ElementVersion.element_id.in_(elements), ElementVersion.at > since
    )
    found = [*session.scalars(changed), *session.scalars(learned)]
    return {one for one in found if one is not None}
