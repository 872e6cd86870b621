"""Loading what the team said and did about its runs: defects with their history, comments."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, date, datetime, time, timedelta

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.core.review.defects import fingerprint, steps_to_repeat
from lantern.demo.team.project import NIGHTLY, Project
from lantern.demo.team.story import COMMENTS, DEFECTS, Raised, Said
from lantern.store import commenting, defects, tracking
from lantern.store.models import (
    Cast,
    Defect,
    DefectChange,
    Mention,
    PlanRun,
    Result,
    Run,
    Sighting,
    Tracker,
)

FIRST_AT_WORK = time(8, 20)
NEW = 3
"""Days for which what mentions somebody is new to them."""


def load_talk(session: Session, project: Project, today: date) -> None:
    """Load defects and comments about the sixty days before a day."""
    made = {
        one.key: _raise(session, project, one, today, number) for number, one in enumerate(DEFECTS)
    }
    for number, said in enumerate(COMMENTS):
        _say(session, project, said, made, _at(today, said.ago, number))
    session.flush()


def _at(today: date, ago: int, minutes: int = 0) -> datetime:
    day = today - timedelta(days=ago)
    return datetime.combine(day, FIRST_AT_WORK, UTC) + timedelta(minutes=11 * minutes)


def _failures(session: Session, project: Project, one: Raised, today: date) -> Sequence[Result]:
    """Return the failed results in which a defect was seen, oldest first."""
    begin = datetime.combine(today - timedelta(days=one.seen.stop - 1), time(), UTC)
    end = datetime.combine(today - timedelta(days=one.seen.start - 1), time(), UTC)
    query = (
        select(Result)
        .join(Cast, Cast.id == Result.cast_id)
        .join(Run, Run.id == Cast.run_id)
        .filter(
            Run.test_id == project.tests[one.test],
            Run.environment_id == project.here,
            Result.outcome == "failed",
            Result.at.between(begin, end),
        )
        .order_by(Result.id)
    )
    if one.number:
        query = query.filter(Cast.number == one.number)
    return session.scalars(query).all()


def _raise(session: Session, project: Project, one: Raised, today: date, minutes: int) -> int:
    """Raise a defect as somebody did then; returns its number."""
    seen = _failures(session, project, one, today)
    failure, result, run = defects.failure_of(session, seen[0].id)
    at = _at(today, one.ago, minutes)
    made = Defect(
        title=one.title, severity=one.severity, steps=steps_to_repeat(failure),
        expected=result.expected, found=result.found or result.message, notes=one.notes,
        environment=f"{run.environment_name} ({run.address})", browser=result.cast.version,
        release=run.release, picture=result.picture, fingerprint=fingerprint(failure),
        account_id=project.people[one.who], created_at=at, changed_at=at,
    )  # fmt: skip
    session.add(made)
    session.flush()
    rows = [{"defect_id": made.id, "result_id": each.id, "at": each.at} for each in seen]
    session.execute(insert(Sighting).values(rows))
    names = {"Bram Tollard": "bram", "Odo Fennick": "odo"}
    for place, change in enumerate(one.changes, 1):
        when = _at(today, change.ago, minutes + place)
        session.add(
            DefectChange(
                defect_id=made.id, what=change.part, before=change.before, after=change.after,
                account_id=project.people[change.who], at=when,
            )
        )  # fmt: skip
        if change.part == "owner":
            made.owner_id = project.people[names[change.after]]
        else:
            setattr(made, change.part, change.after)
        made.version, made.changed_at = made.version + 1, when
    session.flush()
    tracker = session.scalar(select(Tracker).filter_by(stand_in=True))
    if one.handed and tracker is not None:
        tracking.hand_over(session, made, tracker.id, project.people["bram"])
    return made.id


def _say(
    session: Session, project: Project, said: Said, made: dict[str, int], at: datetime
) -> None:
    who = project.people[said.who]
    if said.on in made:
        comment = commenting.add(session, "defect", made[said.on], said.text, who)
    else:
        night = datetime.combine(at.date(), time(), UTC)
        query = (
            select(Run.id)
            .join(PlanRun, PlanRun.id == Run.plan_run_id)
            .filter(Run.test_id == project.tests[said.on], PlanRun.plan_name == NIGHTLY)
            .filter(PlanRun.queued_at.between(night, at))
        )
        run = session.scalars(query).one()
        comment = commenting.add(session, "run", run, said.text, who, looked=said.looked)
    comment.at = at
    session.flush()
    if said.ago > NEW:
        for mention in session.scalars(select(Mention).filter_by(comment_id=comment.id)):
            mention.seen_at = at + timedelta(hours=2)
