"""Trends: how tests stand over time."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from zoneinfo import ZoneInfo, available_timezones

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput
from lantern.core.review import trends as core
from lantern.store import knowing, stations, trends
from lantern.web import shapes
from lantern.web.context import blueprint, reply, services

api = blueprint("trends")
MOST_RUNS = 40
"""Runs of a test that are listed, the newest."""


@api.get("/trends", operation_id="trends", responses={200: shapes.TrendsOut})
def show_trends(query: shapes.TrendsAsk) -> Response:
    """Tell how the tests stand over time: by day, steadiness, what is new, what got slower."""
    if query.zone not in available_timezones():
        raise BadInput(
            "There is no such time zone.", where="zone", hint="For example Europe/Berlin"
        )
    zone = ZoneInfo(query.zone)
    with services().database.session() as session:
        told = trends.plays(session, query.days, query.test)
        plays = told.plays
        shape = shapes.TrendsOut(
            days=[
                shapes.DayOut(day=day, counts=dict(counts))
                for day, counts in core.by_day(plays, zone).items()
            ],
            browsers=_split(core.split(plays, lambda one: one.browser)),
            releases=_split(core.split(plays, lambda one: one.release)),
            plans=_split(core.split(plays, lambda one: told.plans.get(one.run, ""))),
            tests=_tests(session, told),
            slow=_slow(session, told, query.days) if not query.test else [],
            left_out=told.left_out,
        )
    return reply(shape)


def _split(found: Mapping[str, Counter[str]]) -> list[shapes.SplitOut]:
    return [shapes.SplitOut(name=name, counts=dict(counts)) for name, counts in found.items()]


def _tests(session: Session, told: trends.Told) -> list[shapes.TestTrend]:
    found = []
    failing = []
    for test, plays in core.of_tests(told.plays):
        runs = core.runs_of(plays)
        standing, since = core.standing(runs)
        if standing in ("failing", "new"):
            failing += [one.run for one in runs if one.outcome == "failed"][-1:]
        shaky = core.unsteadiness(plays)
        found.append(
            shapes.TestTrend(
                test=test,
                name=told.names[test],
                standing=standing,
                since=since,
                known=0,
                plays=len(plays),
                failed=sum(one.outcome == "failed" for one in plays),
                unsteady=shapes.UnsteadyOut(
                    times=shaky.times,
                    of=shaky.of,
                    share=round(shaky.share, 4),
                    low=round(shaky.low, 4),
                    high=round(shaky.high, 4),
                ),
                runs=[
                    shapes.CellOut(
                        run=one.run,
                        at=one.at,
                        outcome=one.outcome,
                        counts=dict(one.counts),
                        release=one.release,
                    )
                    for one in runs[-MOST_RUNS:]
                ],
            )
        )
    known = knowing.defects_of(session, failing)
    for one in found:
        if one.standing in ("failing", "new"):
            last = [run.run for run in one.runs if run.outcome == "failed"][-1:]
            one.known = next((known[run] for run in last if run in known), 0)
    return sorted(found, key=lambda one: (one.name.casefold(), one.test))


def _slow(session: Session, told: trends.Told, days: int) -> list[shapes.SlowOut]:
    known = {one.id: one.name for one in stations.known(session)}
    return [
        shapes.SlowOut(
            test=one.test,
            name=told.names.get(one.test, ""),
            sentence=one.sentence,
            station=known.get(one.station, ""),
            now=one.pace.now,
            usual=one.pace.usual,
            times=one.pace.times,
            slower=one.pace.slower,
        )
        for one in trends.slow(session, days)
    ]
