"""What a change would touch: the tests that use something, the plans that play those, the people.

A kind of thing is one entry in `KINDS`: how the tests and flows are found that use it themselves.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal, get_args

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from lantern.core.plans.model import Plan
from lantern.core.problems import BadInput, Missing, UnknownName
from lantern.store import elements, flows, models, plans, tables, variables
from lantern.store.models import Account, Environment, Run, Schedule, Test, Version

Kind = Literal["element", "page", "flow", "table", "variable", "environment"]
KIND_NAMES: tuple[Kind, ...] = get_args(Kind)
Uses = Mapping[int, str]
"""Why tests and flows are touched, by their ids."""


@dataclass(frozen=True)
class TouchedTest:
    """A test or flow that is touched: through what, and how it came out last ("" for never)."""

    id: int
    kind: str
    name: str
    via: str
    outcome: str = ""
    run: int = 0
    at: datetime | None = None


@dataclass(frozen=True)
class TouchedPlan:
    """A plan that plays some of them: how many, and when it starts by itself next."""

    id: int
    name: str
    tests: int
    next_at: datetime | None


@dataclass(frozen=True)
class Concerned:
    """A person whom it concerns, and why."""

    id: int
    name: str
    why: tuple[str, ...]


@dataclass(frozen=True)
class Impact:
    """What a change would touch."""

    name: str
    tests: Sequence[TouchedTest] = ()
    plans: Sequence[TouchedPlan] = ()
    people: Sequence[Concerned] = ()


@dataclass
class _Found:
    name: str
    uses: dict[int, str] = field(default_factory=dict)


def of(session: Session, kind: Kind, key: str) -> Impact:
    """Return what a change of something would touch; raises Missing or UnknownName."""
    if kind not in KINDS:
        raise UnknownName("thing", kind, KINDS, where="kind")
    found = KINDS[kind](session, key)
    touched = _climbed(session, found.uses)
    rows = {row.id: row for row in session.scalars(select(Test).filter(Test.id.in_(touched)))}
    last = _last(session, rows)
    told = [_test(rows[one], touched[one], last.get(one)) for one in touched if one in rows]
    told.sort(key=lambda one: (one.kind != "test", one.name.casefold()))
    played = {one.id for one in told if one.kind == "test"}
    place = _number(key) if kind == "environment" else None
    planned = _plans(session, played, place)
    return Impact(found.name, told, planned, _people(session, rows.values(), planned))


def _test(row: Test, via: str, last: Run | None) -> TouchedTest:
    if last is None:
        return TouchedTest(row.id, row.kind, row.name, via)
    return TouchedTest(row.id, row.kind, row.name, via, last.state, last.id, last.queued_at)


def _climbed(session: Session, direct: Uses) -> dict[int, str]:
    """Return what is touched with all that calls it in turn."""
    found = dict(direct)
    waiting = list(direct)
    while waiting:
        flow = waiting.pop()
        row = session.get(Test, flow)
        if row is None or row.kind != "flow":
            continue
        for use in flows.uses(session, flow):
            if use.id not in found:
                found[use.id] = f"by way of {row.name}"
                waiting.append(use.id)
    return found


def _last(session: Session, ids: Iterable[int]) -> dict[int, Run]:
    query = (
        select(Run)
        .ext(distinct_on(Run.test_id))
        .filter(Run.test_id.in_(list(ids)), Run.kind == "run", Run.ended_at.is_not(None))
        .order_by(Run.test_id, Run.id.desc())
    )
    return {run.test_id: run for run in session.scalars(query) if run.test_id is not None}


def _plans(session: Session, played: set[int], environment: int | None) -> list[TouchedPlan]:
    """Return the plans that play some of these tests, or anything in an environment."""
    soon = {
        row[0]: row[1]
        for row in session.execute(
            select(Schedule.plan_id, func.min(Schedule.next_at)).group_by(Schedule.plan_id)
        )
    }
    found = []
    for row in session.scalars(select(models.Plan).order_by(func.lower(models.Plan.name))):
        plan = Plan.read(row.body)
        try:
            theirs = {one.test.id for one in plans.comes_to(session, plan).tests}
        except BadInput:
            continue  # too many tests: it can not be played either
        there = environment is not None and environment in plan.environments
        elsewhere = environment is not None and plan.environments and not there
        some = theirs if there else set() if elsewhere else theirs & played
        if some:
            found.append(TouchedPlan(row.id, row.name, len(some), soon.get(row.id)))
    return found


def _people(
    session: Session, rows: Iterable[Test], planned: Sequence[TouchedPlan]
) -> list[Concerned]:
    why: dict[int, dict[str, None]] = {}

    def concern(person: int | None, reason: str) -> None:
        if person is not None:
            why.setdefault(person, {})[reason] = None

    ids = []
    for row in rows:
        ids.append(row.id)
        concern(row.created_by, "made some of them")
    newest = (
        select(Version)
        .ext(distinct_on(Version.test_id))
        .filter(Version.test_id.in_(ids))
        .order_by(Version.test_id, Version.number.desc())
    )
    for version in session.scalars(newest):
        concern(version.author_id, "changed some last")
    for one in planned:
        for tell in Plan.read(plans.get(session, one.id).body).tells:
            if tell.whom == "person":
                concern(tell.account, f"is told of {one.name}")
    people = select(Account).filter(Account.id.in_(why), ~Account.gone)
    return [
        Concerned(one.id, one.name, tuple(why[one.id]))
        for one in session.scalars(people.order_by(func.lower(Account.name)))
    ]


# -- what uses something itself -------------------------------------------------------------------


def _numbers(places: Sequence[int]) -> str:
    return f"sentence {places[0]}" if len(places) == 1 else f"{len(places)} sentences"


def _element(session: Session, key: str) -> _Found:
    row = elements.get(session, key)
    found = _Found(row.name)
    for test, _, places in elements.uses(session, key).get(key, []):
        found.uses[test] = _numbers(places)
    return found


def _page(session: Session, key: str) -> _Found:
    rows = elements.of_page(session, key)
    if not rows:
        raise Missing(f"No element is known on a page “{key}”.", where=key)
    found = _Found(key)
    by_test: dict[int, list[str]] = {}
    names = {row.id: row.name for row in rows}
    for element, some in elements.uses(session, *names).items():
        for test, _, _ in some:
            by_test.setdefault(test, []).append(names[element])
    for test, used in by_test.items():
        found.uses[test] = used[0] if len(used) == 1 else f"{len(used)} elements"
    return found


def _flow(session: Session, key: str) -> _Found:
    row = flows.get(session, _number(key))
    found = _Found(row.name)
    for use in flows.uses(session, row.id):
        found.uses[use.id] = _numbers(use.sentences)
    return found


def _table(session: Session, key: str) -> _Found:
    row = tables.get(session, _number(key))
    return _Found(row.name, {one.id: "its rows" for one in tables.uses(session, row.id)})


def _variable(session: Session, key: str) -> _Found:
    found = _Found(key)
    for use in variables.uses(session, key):
        found.uses[use.test.id] = _numbers(use.sentences)
    for element in variables.elements_with(session, key):
        for test, _, _ in elements.uses(session, element.id).get(element.id, []):
            found.uses.setdefault(test, f"by way of {element.name}")
    return found


def _environment(session: Session, key: str) -> _Found:
    row = session.get(Environment, _number(key))
    if row is None:
        raise Missing("That environment does not exist.", where=key)
    of_it = select(Test.id).filter_by(environment_id=row.id).filter(Test.kind != "table")
    return _Found(row.name, dict.fromkeys(session.scalars(of_it), "its own environment"))


def _number(key: str) -> int:
    if not key.isdecimal() or len(key) > len("2147483647"):
        raise Missing("That does not exist.", where=key)
    return int(key)


KINDS: dict[str, Callable[[Session, str], _Found]] = {
    "element": _element,
    "page": _page,
    "flow": _flow,
    "table": _table,
    "variable": _variable,
    "environment": _environment,
}
"""What can be asked for, and how what uses it itself is found."""
