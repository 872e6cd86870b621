"""Reports: what there is to tell of a run, a run of a plan or trends, and reports on order."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import UTC, datetime
from typing import Any, Literal, get_args
from zoneinfo import ZoneInfo, available_timezones

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.plans.schedule import Schedule
from lantern.core.problems import BadInput, Missing, UnknownName, check_version
from lantern.core.review import trends as core
from lantern.core.review.records import SlowRecord, StandingRecord, Told, TrendRecord
from lantern.core.review.reporting import Template, template
from lantern.store import mails, plan_runs, records, runs, trends
from lantern.store.database import Database, tell
from lantern.store.models import Account, Mail, PlanRun, ReportOrder

What = Literal["run", "plan run", "trends"]
WHATS: tuple[What, ...] = get_args(What)
MOST_DAYS = 400
MOST_ORDERS, MOST_PEOPLE, LONGEST_NAME = 100, 50, 80
LONGEST_WORD = 2000


@dataclass(frozen=True)
class Asked:
    """Which report: of which run (`key`), or of how many `days` in a time zone; how, and as what.

    `form` is the ending of its files.
    """

    what: What
    key: int = 0
    template: str = "short"
    form: str = "html"
    days: int = 30
    zone: str = "UTC"

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Asked:
        """Build it from JSON; raises BadInput or UnknownName for what there is not."""
        made = cls(**{name: raw[name] for name in cls.__dataclass_fields__ if name in raw})
        if made.what not in WHATS:
            raise UnknownName("report", str(made.what), WHATS, where="what")
        template(made.template)
        if not 1 <= made.days <= MOST_DAYS:
            raise BadInput(f"Trends are of 1 to {MOST_DAYS} days.", where="days")
        if made.zone not in available_timezones():
            raise BadInput("There is no such time zone.", where="zone")
        return made

    def write(self) -> dict[str, Any]:
        """Return it as JSON."""
        return asdict(self)

    @property
    def name(self) -> str:
        """What its file is called, without the ending."""
        return {"run": f"run-{self.key}", "plan run": f"plan-run-{self.key}"}.get(
            self.what, f"trends-{self.days}-days"
        )


def told(session: Session, asked: Asked, *, templated: bool = True) -> Told:
    """Return what there is to tell; pictures are read where the template has some.

    Raises Missing for a run that there is not.
    """
    parts = template(asked.template)
    if asked.what == "trends":
        return _trends(session, asked)
    if asked.what == "run":
        return _run(session, asked.key, parts, templated)
    return _plan_run(session, asked.key, parts, templated)


def _run(session: Session, key: int, parts: Template, templated: bool) -> Told:
    run = runs.get(session, key)
    pictured: records.Pictured = "all" if templated and parts.pictured else "none"
    before = templated and "strip" in parts.parts
    made = records.record_of(session, run, pictured=pictured, before=before)
    return replace(
        made,
        causes=records.causes_of(session, [run.id], run.plan_run_id),
        changes=records.changes_of_run(session, run),
        defects=records.defects_of(session, [run.id]),
    )


def _plan_run(session: Session, key: int, parts: Template, templated: bool) -> Told:
    row = plan_runs.get(session, key)
    ids = [run.id for run in row.runs]
    pictured: records.Pictured = "failed" if templated and parts.pictured else "none"
    return replace(
        records.plan_record_of(session, row, pictured=pictured),
        causes=records.causes_of(session, ids, row.id),
        changes=records.changes_of_plan(session, row),
        defects=records.defects_of(session, ids),
    )


def _trends(session: Session, asked: Asked) -> TrendRecord:
    found = trends.plays(session, asked.days)
    days = core.by_day(found.plays, ZoneInfo(asked.zone))
    tests = [_test(found.names[test], plays) for test, plays in core.of_tests(found.plays)]
    slow = [
        SlowRecord(found.names.get(one.test, ""), one.sentence, one.pace.now, one.pace.usual,
                   one.pace.slower)
        for one in trends.slow(session, asked.days)
    ]  # fmt: skip
    return TrendRecord(
        asked.days,
        datetime.now(UTC),
        [(day.isoformat(), dict(counts)) for day, counts in days.items()],
        sorted(tests, key=lambda one: one.name.casefold()),
        slow,
    )


def _test(name: str, plays: Sequence[core.Play]) -> StandingRecord:
    standing, since = core.standing(core.runs_of(plays))
    shaky = core.unsteadiness(plays)
    failed = sum(one.outcome == "failed" for one in plays)
    share = round(shaky.share, 4)
    low, high = round(shaky.low, 4), round(shaky.high, 4)
    return StandingRecord(name, standing, since, len(plays), failed, share, low, high)


# -- mailed ---------------------------------------------------------------------------------------


def mail(session: Session, asked: Asked, people: Sequence[int], word: str, why: str) -> list[Mail]:
    """Queue a report for people; raises BadInput where nobody is named, or no mail is sent."""
    if not mails.works(session):
        raise BadInput("No mail is sent: the server is not switched on.", where="people")
    if len(word) > LONGEST_WORD:
        raise BadInput(f"A word has up to {LONGEST_WORD} letters.", where="word")
    found = _people(session, people)
    report = {**asked.write(), "word": word.strip()}
    return [mails.add(session, one, "report", report=report, why=why) for one in found]


def _people(session: Session, ids: Sequence[int]) -> Sequence[Account]:
    wanted = list(dict.fromkeys(ids))
    if not 0 < len(wanted) <= MOST_PEOPLE:
        raise BadInput(f"Name 1 to {MOST_PEOPLE} people.", where="people")
    query = select(Account).filter(Account.id.in_(wanted), ~Account.gone, ~Account.disabled)
    found = session.scalars(query.order_by(Account.id)).all()
    if len(found) < len(wanted):
        raise Missing("Somebody of them does not work here any more.", where="people")
    return found


# -- on order -------------------------------------------------------------------------------------


def orders(session: Session) -> Sequence[ReportOrder]:
    """Return the reports on order, by name."""
    return session.scalars(select(ReportOrder).order_by(ReportOrder.name, ReportOrder.id)).all()


def order(session: Session, key: int, version: int | None = None) -> ReportOrder:
    """Return a report on order; raises Missing.

    With a `version` it is locked to be changed; raises Conflict where it is not that any more.
    """
    row = session.get(ReportOrder, key, with_for_update=version is not None)
    if row is None:
        raise Missing("That report is not on order any more.", where=str(key))
    if version is not None:
        check_version(f"“{row.name}”", row.version, version)
    return row


def put_order(
    session: Session,
    row: ReportOrder,
    *,
    name: str,
    asked: Asked,
    plan: int | None,
    people: Sequence[int],
    schedule: Schedule,
) -> ReportOrder:
    """Make a report on order what is said; raises BadInput, Missing or UnknownName."""
    row.name = " ".join(name.split())
    if not row.name or len(row.name) > LONGEST_NAME:
        raise BadInput(f"Its name has 1 to {LONGEST_NAME} letters.", where="name")
    if (asked.what == "trends") == (plan is not None) or asked.what == "run":
        raise BadInput("It is of trends, or of a plan's newest run.", where="what")
    row.people = [one.id for one in _people(session, people)]
    row.report, row.plan_id = asked.write(), plan
    row.body, row.next_at = schedule.as_json(), schedule.first(datetime.now(UTC))
    if row.id is None:
        if len(orders(session)) >= MOST_ORDERS:
            raise BadInput(f"Up to {MOST_ORDERS} reports are on order.")
        session.add(row)
    else:
        row.version += 1
    session.flush()
    tell(session, "plans")
    return row


def drop_order(session: Session, key: int) -> None:
    """Let a report be mailed no more; raises Missing."""
    session.delete(order(session, key))
    tell(session, "plans")


def send_due(database: Database) -> int:
    """Queue the mails of the orders whose time has come; returns how many orders there were."""
    count = 0
    while True:
        with database.session() as session:
            if not _send_one(session):
                return count
        count += 1


def _send_one(session: Session) -> bool:
    now = datetime.now(UTC)
    row = session.scalar(
        select(ReportOrder)
        .filter(ReportOrder.next_at <= now)
        .order_by(ReportOrder.next_at)
        .limit(1)
        .with_for_update(skip_locked=True)
    )
    if row is None:
        return False
    row.next_at = Schedule.read(row.body).next(now)
    asked = Asked.read(row.report)
    if row.plan_id is not None:
        newest = select(PlanRun.id).filter_by(plan_id=row.plan_id)
        key = session.scalar(
            newest.filter(PlanRun.ended_at.is_not(None)).order_by(PlanRun.id.desc()).limit(1)
        )
        if key is None:
            return True  # it never ran: there is nothing to tell
        asked = replace(asked, key=key)
    there = select(Account.id).filter(Account.id.in_(row.people), ~Account.gone, ~Account.disabled)
    people = session.scalars(there).all()
    if people and mails.works(session):
        mail(session, asked, people, "", f"“{row.name}” is on order for you.")
    return True
