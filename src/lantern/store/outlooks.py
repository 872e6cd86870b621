"""What a plan comes to before it starts: how many casts, how long, where, and what is missing."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from sqlalchemy import Float, cast, func, select
from sqlalchemy.orm import Session

from lantern.core.data.checking import check_data
from lantern.core.engine.browsers import USUAL, engine_of
from lantern.core.plans.model import Plan
from lantern.core.plans.outlook import Span, in_order, span_of, whole
from lantern.core.problems import Problem
from lantern.store import elements, plans, remotes, runs, stations, tables
from lantern.store.models import Cast, Run, Station
from lantern.store.rows import unpacked

REMEMBERED = 20
"""How many of the newest casts of a test in a browser tell how long one takes."""


@dataclass(frozen=True)
class Outlook:
    """What is told before a plan starts.

    `tests` and `casts` count them, `lasting` are the spans of the tests in the order in which they
    were given, `whole` that of all together (None where no station plays them). `stations` are
    those that can play a part of it, `missing` says what none offers, `problems` what would
    fail for certain, by the name of the test, `lacks` what an engine can not do, by its title.
    """

    tests: int
    casts: int
    lasting: tuple[Span, ...]
    whole: Span | None
    stations: tuple[Station, ...] = ()
    missing: tuple[str, ...] = ()
    problems: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    lacks: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


def outlook_of(
    session: Session, plan: Plan, chosen: Sequence[plans.Chosen], *, check: bool = False
) -> Outlook:
    """Return what playing these tests comes to; with `check` their data is held against pages."""
    past = _seconds(session, {one.test.id for one in chosen})
    lasting: list[Span] = []
    each: list[list[Span]] = []
    wanted: set[tuple[str, tuple[str, ...]]] = set()
    problems: dict[str, tuple[str, ...]] = {}
    for one in chosen:
        try:
            names, needs = _browsers_of(session, plan, one)
            told = _problems(session, one) if check else ()
        except Problem as error:
            names, needs, told = [], (), (error.message,)
        if told:
            problems[one.test.name] = told
        wanted |= {(engine_of(name), needs) for name in names}
        spans = [span_of(past.get((one.test.id, name), ())) for name in names]
        each.append(spans)
        lasting.append(whole(spans, 1))
    able = [
        one
        for one in stations.alive(session)
        if any(stations.offer_of(one).suits(engine, needs) for engine, needs in wanted)
    ]
    missing = [
        said
        for engine, needs in sorted(wanted)
        for said in stations.missing(session, [engine], needs)
    ]
    places = sum(one.places for one in able)
    if plan.at_once:
        places = min(places, plan.at_once)
    order = in_order(each, plan.order, [one.usual for one in lasting], plan.seed)
    casts = [span for spans in order for span in spans]
    return Outlook(
        tests=len({one.test.id for one in chosen}),
        casts=len(casts),
        lasting=tuple(lasting),
        whole=whole(casts, places) if places and casts else None,
        stations=tuple(able),
        missing=tuple(dict.fromkeys(missing)),
        problems=problems,
        lacks=dict(sorted(lacking(session, {engine for engine, _ in wanted}))),
    )


def lacking(session: Session, engines: Iterable[str]) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Yield the engines that can not do all of it, by title, with what they can not."""
    for name in engines:
        engine = remotes.engine(session, name)
        if engine.lacks:
            yield engine.title, engine.lacks


def _browsers_of(
    session: Session, plan: Plan, chosen: plans.Chosen
) -> tuple[list[str], tuple[str, ...]]:
    """Return in which browser each cast of a test is played, and what it needs of a station."""
    document = tables.filled(session, unpacked(chosen.test))
    places = runs.chosen_places(session, document, chosen.rows)
    found: list[str] = []
    for place in places or [-1]:
        values = dict(document.rows[place].values) if place >= 0 else {}
        found += runs.browsers_of(document, values, plan.browsers or (USUAL,))
    left = [name for name in found if not plan.leaves_out(chosen.test.id, name)]
    return left, tuple(sorted({*document.needs, *plan.needs}))


def _problems(session: Session, chosen: plans.Chosen) -> tuple[str, ...]:
    """Return what would fail for certain in a test that is to be played."""
    document = tables.filled(session, unpacked(chosen.test))
    if not document.steps:
        return ("It has no sentences yet.",)
    found = check_data(document, elements.load(session, document.element_ids()))
    return tuple(dict.fromkeys(one.message for one in found))


def _seconds(session: Session, tests: Collection[int]) -> dict[tuple[int, str], list[float]]:
    """Return how long the newest casts took that passed, by test and browser."""
    took = cast(func.extract("epoch", Cast.ended_at - Cast.started_at), Float).label("took")
    rank = func.row_number().over(partition_by=(Run.test_id, Cast.browser), order_by=Cast.id.desc())
    ranked = (
        select(Run.test_id, Cast.browser, took, rank.label("rank"))
        .join(Run, Run.id == Cast.run_id)
        .filter(Run.test_id.in_(tests), Cast.outcome.in_(("passed", "unsteady")))
        .filter(Cast.started_at.is_not(None), Cast.ended_at.is_not(None))
        .subquery()
    )
    query = select(ranked.c.test_id, ranked.c.browser, ranked.c.took)
    found: dict[tuple[int, str], list[float]] = {}
    for test, browser, seconds in session.execute(query.filter(ranked.c.rank <= REMEMBERED)):
        found.setdefault((test, browser), []).append(seconds)
    return found
