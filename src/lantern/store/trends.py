"""What is kept of runs on record over a time, for the page of trends."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import Row, func, select
from sqlalchemy.orm import Session

from lantern.core.review.trends import Pace, Play, pace
from lantern.store.models import Cast, PlanRun, Result, Run

MOST = 60_000
"""Rows that are looked at, the newest first."""
MOST_TIMES = 60
"""Times of a sentence that are looked at, the newest."""
QUICK = 0.3
"""Seconds: what never took so long is of no interest as slow."""
MOST_SENTENCES = 400


@dataclass(frozen=True)
class Told:
    """All plays of a time, the names of their tests, and how many are left out as too old."""

    plays: list[Play]
    names: dict[int, str]
    plans: dict[int, str]
    """Names of plans by the run that was a part of one."""
    left_out: int


def _since(days: int) -> datetime:
    return datetime.now(UTC) - timedelta(days=days)


def plays(session: Session, days: int, test: int = 0) -> Told:
    """Return the rows that were played on record in the last days, of one test or of all."""
    query = (
        select(
            Run.test_id,
            Run.id,
            Run.test_name,
            Run.test_version,
            Run.release,
            Cast.values,
            Cast.browser,
            Cast.outcome,
            func.coalesce(Cast.started_at, Run.queued_at).label("at"),
            PlanRun.plan_name.label("plan"),
        )
        .join(Cast, Cast.run_id == Run.id)
        .outerjoin(PlanRun, PlanRun.id == Run.plan_run_id)
        .filter(Run.kind == "run", Run.test_id.is_not(None), Run.queued_at >= _since(days))
        .filter(Cast.outcome.not_in(["waiting", "running"]))
        .order_by(Cast.id.desc())
    )
    if test:
        query = query.filter(Run.test_id == test)
    rows = session.execute(query.limit(MOST + 1)).all()
    found = [_play(row) for row in rows[:MOST]]
    names = {row.test_id: row.test_name for row in reversed(rows)}
    plans = {row.id: row.plan for row in rows if row.plan}
    return Told(found, names, plans, max(0, len(rows) - MOST))


def _play(row: Row[Any]) -> Play:
    values = json.dumps(row.values, sort_keys=True, default=str).encode()
    return Play(
        test=row.test_id,
        run=row.id,
        row=hashlib.sha256(values).hexdigest()[:12],
        browser=row.browser,
        version=row.test_version,
        release=row.release,
        outcome="passed" if row.outcome == "unsteady" else row.outcome,
        at=row.at,
        retried=row.outcome == "unsteady",
    )


@dataclass(frozen=True)
class Slow:
    """A sentence that takes long, or longer than it did, on one station."""

    test: int
    step: str
    sentence: str
    station: str
    pace: Pace


def slow(session: Session, days: int, most: int = 12) -> Sequence[Slow]:
    """Return the sentences that got slower, then those that take longest, by their own past."""
    newest = func.max(Result.id)
    query = (
        select(
            Run.test_id,
            Result.step_id,
            Cast.station_id,
            func.array_agg(Result.used).label("times"),
            func.array_agg(Result.id).label("ids"),
            newest.label("newest"),
        )
        .join(Cast, Cast.id == Result.cast_id)
        .join(Run, Run.id == Cast.run_id)
        .filter(
            Run.kind == "run",
            Run.test_id.is_not(None),
            Run.queued_at >= _since(days),
            Result.outcome == "passed",
        )
        .group_by(Run.test_id, Result.step_id, Cast.station_id)
        .having(func.max(Result.used) >= QUICK)
        .order_by(func.percentile_cont(0.5).within_group(Result.used).desc())
        .limit(MOST_SENTENCES)
    )
    found = []
    for row in session.execute(query):
        ordered = [used for _, used in sorted(zip(row.ids, row.times, strict=True))]
        told = pace(ordered[-MOST_TIMES:])
        if told:
            found.append((row, told))
    found.sort(key=lambda one: (not one[1].slower, -one[1].now))
    chosen = found[:most]
    last = select(Result.id, Result.sentence).filter(
        Result.id.in_([row.newest for row, _ in chosen])
    )
    words = {row[0]: row[1] for row in session.execute(last)}
    return [
        Slow(row.test_id, row.step_id, words.get(row.newest, ""), row.station_id, told)
        for row, told in chosen
    ]
