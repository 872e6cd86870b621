"""The lists of tests, runs and defects: what they show, without the documents behind it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from sqlalchemy import ColumnElement, FromClause, Integer, Select, case, cast, func, select, true
from sqlalchemy.orm import Session, defer

from lantern.core.problems import UnknownName
from lantern.core.review.defects import SEVERITIES
from lantern.store.models import Defect, Run, Sighting, Test
from lantern.store.paging import Order, Page, page

NEVER = "never ran"
"""The outcome of a test that has no run on record."""


def _chosen(orders: Mapping[str, Order], name: str) -> Order:
    if name not in orders:
        raise UnknownName("order", name, orders, where="order")
    return orders[name]


def _last_run() -> FromClause:
    """Return, for each row of tests, its newest run on record: its id and state."""
    newest = (
        select(Run.id, Run.state)
        .filter(Run.test_id == Test.id, Run.kind == "run")
        .order_by(Run.id.desc())
    )
    return newest.limit(1).lateral()


def of_tests(
    session: Session,
    words: str = "",
    outcomes: Sequence[str] = (),
    order: str = "changed",
    after: str = "",
) -> Page[tuple[Test, int, int, int | None]]:
    """Return a page of the tests: each with how many sentences and rows it has, and its last run.

    `words` are looked for in names, `outcomes` are those of last runs on record (none: all).
    Raises UnknownName for an order that there is not, BadInput for an `after`.
    """
    last = _last_run()
    outcome: ColumnElement[Any] = func.coalesce(last.c.state, NEVER)
    rows = cast(Test.body["rows"]["count"].astext, Integer)
    query = (
        select(Test, func.jsonb_array_length(Test.body["steps"]), rows, last.c.id)
        .outerjoin(last, true())
        .filter(Test.kind == "test")
        .options(defer(Test.body))
    )
    if words:
        query = query.filter(Test.name.icontains(words, autoescape=True))
    if outcomes:
        query = query.filter(outcome.in_(outcomes))
    key, name = Test.id.expression, func.lower(Test.name)
    orders = {
        "changed": Order((Test.changed_at.expression, key), falling=True),
        "name": Order((name, key)),
        "outcome": Order((outcome, name, key)),
    }
    return page(session, query, _chosen(orders, order), after)


def outcomes_of_tests(session: Session) -> dict[str, int]:
    """Return how many tests have each outcome of their last run on record."""
    last = _last_run()
    outcome = func.coalesce(last.c.state, NEVER)
    query = (
        select(outcome, func.count())
        .select_from(Test)
        .outerjoin(last, true())
        .filter(Test.kind == "test")
        .group_by(outcome)
    )
    return dict(session.execute(query).tuples().all())


def of_runs(
    session: Session,
    words: str = "",
    state: str = "",
    kind: str = "",
    test: int | None = None,
    after: str = "",
) -> Page[tuple[Run]]:
    """Return a page of the runs, newest first; raises BadInput for an `after` that is none."""
    query: Select[tuple[Run]] = select(Run)
    for column, wanted in ((Run.state, state), (Run.kind, kind), (Run.test_id, test)):
        if wanted:
            query = query.filter(column == wanted)
    if words:
        query = query.filter(Run.test_name.icontains(words, autoescape=True))
    return page(session, query, Order((Run.id.expression,), falling=True), after)


def of_defects(
    session: Session,
    words: str = "",
    state: str = "",
    severity: str = "",
    order: str = "newest",
    after: str = "",
) -> Page[tuple[Defect, int]]:
    """Return a page of the defects, each with how often it was seen.

    Raises UnknownName for an order that there is not, BadInput for an `after`.
    """
    seen = (
        select(func.count())
        .select_from(Sighting)
        .filter(Sighting.defect_id == Defect.id)
        .scalar_subquery()
    )
    query = select(Defect, seen)
    if state:
        query = query.filter(Defect.state == state)
    if severity:
        query = query.filter(Defect.severity == severity)
    if words:
        query = query.filter(Defect.title.icontains(words, autoescape=True))
    key = Defect.id.expression
    weight = case({name: place for place, name in enumerate(SEVERITIES)}, value=Defect.severity)
    orders = {
        "newest": Order((key,), falling=True),
        "changed": Order((Defect.changed_at.expression, key), falling=True),
        "severity": Order((weight, key)),
    }
    return page(session, query, _chosen(orders, order), after)
