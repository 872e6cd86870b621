"""Loading the sixty days: each mood's plays once, then dated copies of them, made in the database.

A copy differs from its play in its dates alone. Rows that were not in the test yet are left out.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from typing import Any

from sqlalchemy import delete, insert, select, text
from sqlalchemy.orm import Session

from lantern.core.plans import going
from lantern.core.runs.life import RUN_OVER
from lantern.core.steps.model import Document
from lantern.demo.team import plays
from lantern.demo.team.project import AHEAD, NIGHTLY, SMOKE, Project
from lantern.demo.team.story import NEW_ROW, Past, sixty_days
from lantern.demo.team.tests import TESTS
from lantern.store import calls, elements, files, pictures, plan_runs, preferences, tables
from lantern.store.models import Cast, Environment, Plan, PlanRun, Result, Run, Test
from lantern.store.rows import unpacked

CAUSE = "sample data"
GROWN = ("Quotes by clay and cone", 6)
"""The test, and the number of its row, that came later."""
_RUNS = text(
    """
    INSERT INTO runs (kind, state, test_id, test_name, test_version, environment_name,
        environment_id, address, body, elements, files, choice, seed, variables, flows, browser,
        release, message, cancel_asked, place, retries, plan_run_id, queued_at, started_at,
        ended_at)
    SELECT kind, state, test_id, test_name, test_version, environment_name, environment_id,
        address, body, elements, files, choice, seed, variables, flows, browser, release, message,
        false, place, retries, :copy, queued_at + :later, started_at + :later, ended_at + :later
    FROM runs WHERE plan_run_id = :play AND test_name = ANY(:tests) ORDER BY place
    """
)
_CASTS = text(
    """
    INSERT INTO casts (run_id, position, number, values, browser, engine, version, takings,
        failures, cancel_asked, station_id, message, kept, outcome, started_at, ended_at)
    SELECT n.id, c.position, c.number, c.values, c.browser, c.engine, c.version, c.takings,
        c.failures, false, c.station_id, c.message, c.kept, c.outcome, c.started_at + :later,
        c.ended_at + :later
    FROM casts c JOIN runs o ON o.id = c.run_id
    JOIN runs n ON n.plan_run_id = :copy AND n.place = o.place
    WHERE o.plan_run_id = :play AND NOT (:young AND o.test_name = :grown AND c.number = :number)
    ORDER BY n.place, c.position
    """
)
_RESULTS = text(
    """
    INSERT INTO results (cast_id, taking, place, position, step_id, sentence, outcome, reason,
        message, hint, expected, found, used, "limit", picture, details, at)
    SELECT m.id, r.taking, r.place, r.position, r.step_id, r.sentence, r.outcome, r.reason,
        r.message, r.hint, r.expected, r.found, r.used, r."limit", r.picture, r.details,
        r.at + :later
    FROM results r JOIN casts c ON c.id = r.cast_id JOIN runs o ON o.id = c.run_id
    JOIN runs n ON n.plan_run_id = :copy AND n.place = o.place
    JOIN casts m ON m.run_id = n.id AND m.position = c.position
    WHERE o.plan_run_id = :play
    ORDER BY m.id, r.id
    """
)
_STATES = text(
    """
    UPDATE runs SET state = 'passed', message = '' WHERE plan_run_id = :copy AND state = 'failed'
    AND NOT EXISTS (SELECT 1 FROM casts WHERE run_id = runs.id AND outcome <> 'passed')
    """
)


@dataclass(frozen=True)
class Play:
    """A mood as it was put into the database: the run of the plan, and when that was."""

    run: int
    at: datetime


def load_history(session: Session, project: Project, sample: str, today: date) -> None:
    """Load sixty days of runs; `sample` is where the desk answers."""
    for _, content in plays.pictures():
        pictures.keep(session, content)
    told = plays.read(sample)
    bodies = {row.name: Body.of(session, row) for row in session.scalars(
        select(Test).filter(Test.id.in_(project.tests.values())))}  # fmt: skip
    known: dict[str, Play] = {}
    for past in sixty_days(today):
        play = known.get(past.mood)
        if play is None:
            first = replace(past, plan=AHEAD if past.plan == AHEAD else NIGHTLY)
            play = known[past.mood] = Play(_plan_run(session, project, first), past.at)
            _put(session, project, bodies, told[past.mood], first, play.run)
        _copy(session, project, past, play)
    played = [one.run for one in known.values()]
    session.execute(delete(Run).filter(Run.plan_run_id.in_(played)))
    session.execute(delete(PlanRun).filter(PlanRun.id.in_(played)))


def _plan_run(session: Session, project: Project, past: Past) -> int:
    plan = session.get_one(Plan, project.plans[past.plan])
    row = PlanRun(
        plan_id=plan.id, plan_name=plan.name, plan_version=plan.version, body=plan.body,
        state="passed", seed="emberhall", cause=CAUSE, queued_at=past.at, started_at=past.at,
        ended_at=past.at,
    )  # fmt: skip
    session.add(row)
    session.flush()
    return row.id


@dataclass(frozen=True)
class Body:
    """What a run takes along of its test."""

    test: Test
    columns: Mapping[str, Any]

    @classmethod
    def of(cls, session: Session, test: Test) -> Body:
        """Read it, as a run would be made of the test now."""
        project = preferences.get(session)
        document: Document = tables.filled(session, unpacked(test))
        document = replace(document, settings=document.settings.within(project.settings))
        called = calls.load(session, document.flow_ids())
        known = elements.load(session, calls.element_ids(document, called))
        return cls(
            test,
            {
                "body": replace(document, rows=()).as_json(),
                "elements": {key: one.as_json() for key, one in known.items()},
                "files": files.digests(session, test.id),
                "flows": {
                    key: {"name": one.name, "body": one.document.as_json()}
                    for key, one in called.items()
                },
            },
        )


def _put(
    session: Session,
    project: Project,
    bodies: Mapping[str, Body],
    mood: Mapping[str, Any],
    past: Past,
    key: int,
) -> None:
    """Put a mood's plays into the database, as if they had been played at that time."""
    where = session.get_one(Environment, project.ahead if past.plan == AHEAD else project.here)
    begun = past.at
    for place, (name, told) in enumerate(_in_order(mood["runs"]), 1):
        body = bodies[name]
        seconds = max(cast["seconds"] for cast in told["casts"])
        run = Run(
            kind="run", state=told["state"], message=told["message"], release=told["release"],
            browser=told["browser"], test_id=body.test.id, test_name=name, plan_run_id=key,
            test_version=body.test.version, environment_name=where.name, place=place,
            environment_id=where.id, address=where.address, seed="emberhall", queued_at=past.at,
            started_at=begun, ended_at=begun + timedelta(seconds=seconds),
            retries=1 if past.plan == NIGHTLY else 0, **body.columns,
        )  # fmt: skip
        session.add(run)
        session.flush()
        for one in told["casts"]:
            _put_cast(session, run, one, begun)
        begun += timedelta(seconds=seconds)


def _in_order(runs: Mapping[str, Any]) -> Iterable[tuple[str, Any]]:
    return ((one.name, runs[one.name]) for one in TESTS if one.name in runs)


def _put_cast(session: Session, run: Run, told: Mapping[str, Any], at: datetime) -> None:
    cast = Cast(
        run_id=run.id, station_id="", started_at=at,
        ended_at=at + timedelta(seconds=told["seconds"]),
        **{name: told[name] for name in plays.CAST},
    )  # fmt: skip
    session.add(cast)
    session.flush()
    rows = [
        {
            **{name: one[name] for name in plays.RESULT},
            "cast_id": cast.id,
            "at": at + timedelta(seconds=one["after"]),
        }
        for one in told["results"]
    ]
    session.execute(insert(Result), rows)


def _copy(session: Session, project: Project, past: Past, play: Play) -> None:
    """Copy a mood's run of the plan to another time, of the tests that this plan has."""
    key = _plan_run(session, project, past)
    smoke = [one.name for one in TESTS if past.plan != SMOKE or "smoke" in one.labels]
    young = past.ago > NEW_ROW
    asked = {
        "play": play.run, "copy": key, "later": past.at - play.at, "tests": smoke, "young": young,
        "grown": GROWN[0], "number": GROWN[1],
    }  # fmt: skip
    for statement in (_RUNS, _CASTS, _RESULTS):
        names = statement.compile().params.keys()
        session.execute(statement, {name: asked[name] for name in names})
    _settle(session, key, young=young)


def _settle(session: Session, key: int, *, young: bool) -> None:
    """Say how a run of a plan came out, as Lantern says it of any."""
    if young:
        session.execute(_STATES, {"copy": key})
    row = session.get_one(PlanRun, key, populate_existing=True)
    row.state, row.message = going.verdict(plan_runs.going_of(session, key))
    ends: Sequence[datetime] = session.scalars(
        select(Run.ended_at).filter_by(plan_run_id=key)
    ).all()  # type: ignore[assignment]
    row.ended_at = max(ends, default=row.started_at)
    assert row.state in RUN_OVER  # noqa: S101 - plays are over
    session.flush()
