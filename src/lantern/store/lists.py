"""The lists of tests, runs and defects: what they show, without the documents behind it."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any

from sqlalchemy import (
    ColumnElement,
    FromClause,
    Integer,
    Row,
    Select,
    String,
    case,
    cast,
    func,
    literal,
    or_,
    select,
    true,
    union_all,
)
from sqlalchemy.dialects.postgresql import JSONB, aggregate_order_by
from sqlalchemy.orm import InstrumentedAttribute, Session, aliased

from lantern.core.problems import UnknownName
from lantern.core.review.defects import PRIORITIES, SEVERITIES
from lantern.store.models import (
    Account,
    Cast,
    Defect,
    Element,
    Environment,
    Handover,
    Plan,
    PlanRun,
    Run,
    Sighting,
    Test,
)
from lantern.store.paging import Order, Page, page

NEVER = "never ran"
"""The outcome of a test that has no run on record."""


def _chosen(orders: Mapping[str, Order], name: str) -> Order:
    if name not in orders:
        raise UnknownName("order", name, orders, where="order")
    return orders[name]


_EACH = (
    select(Cast.outcome, func.count().label("count"))
    .filter(Cast.run_id == Run.id)
    .group_by(Cast.outcome)
    .correlate(Run)
    .subquery()
)
_CASTS = select(func.jsonb_object_agg(_EACH.c.outcome, _EACH.c.count)).scalar_subquery()
"""How many casts of a run have each outcome."""
RUN: tuple[Any, ...] = (
    Run.id,
    Run.kind,
    Run.state,
    Run.test_id,
    Run.test_name,
    Run.environment_name,
    Run.browser,
    Run.release,
    Run.queued_at,
    Run.started_at,
    Run.ended_at,
    Run.plan_run_id,
    func.coalesce(Account.name, "").label("author"),
    func.coalesce(_CASTS, cast({}, JSONB)).label("casts"),
)
"""What lists show of a run; its documents stay where they are."""
_RUNS: Select[Any] = select(*RUN).select_from(Run).outerjoin(Account, Account.id == Run.account_id)


def runs_named(session: Session, ids: Collection[int]) -> dict[int, Row[Any]]:
    """Return what lists show of the runs with these ids, by id."""
    return {row.id: row for row in session.execute(_RUNS.filter(Run.id.in_(ids)))}


def _last_run() -> FromClause:
    """Return, for each row of tests, its newest run on record: its id and state."""
    newest = (
        select(Run.id, Run.state)
        .filter(Run.test_id == Test.id, Run.kind == "run")
        .order_by(Run.id.desc())
    )
    return newest.limit(1).lateral()


def having(label: str) -> ColumnElement[bool]:
    """Return what holds for tests that have a label, whatever its case."""
    one = func.jsonb_array_elements_text(_LABELS).column_valued("label")
    return select(one).filter(func.lower(one) == label.lower()).exists()


_LABELS: ColumnElement[Any] = func.coalesce(Test.body["labels"], cast([], JSONB))
_LAST = _last_run()
_OUTCOME: ColumnElement[Any] = func.coalesce(_LAST.c.state, NEVER)
_TESTS: Select[Any] = (
    select(
        Test.id,
        Test.name,
        Environment.name.label("environment"),
        func.jsonb_array_length(Test.body["steps"]).label("steps"),
        cast(Test.body["rows"]["count"].astext, Integer).label("rows"),
        Test.changed_at,
        _LABELS.label("labels"),
        _LAST.c.id.label("last_run"),
    )
    .join(Environment, Environment.id == Test.environment_id)
    .outerjoin(_LAST, true())
    .filter(Test.kind == "test")
)
_NAME = func.lower(Test.name)
_OF_TESTS = {
    "changed": Order((Test.changed_at.expression, Test.id.expression), falling=True),
    "name": Order((_NAME, Test.id.expression)),
    "outcome": Order((_OUTCOME, _NAME, Test.id.expression)),
}
_COUNTED = (
    select(_OUTCOME, func.count())
    .select_from(Test)
    .outerjoin(_LAST, true())
    .filter(Test.kind == "test")
    .group_by(_OUTCOME)
)


def of_tests(
    session: Session,
    words: str = "",
    outcomes: Sequence[str] = (),
    order: str = "changed",
    after: str = "",
    labels: Sequence[str] = (),
) -> Page[Row[Any]]:
    """Return a page of the tests: what lists show, with the id of the last run on record.

    `words` are looked for in names, `outcomes` are those of last runs on record (none: all),
    `labels` those that a test must have.
    Raises UnknownName for an order that there is not, BadInput for an `after`.
    """
    query = _TESTS
    if words:
        query = query.filter(Test.name.icontains(words, autoescape=True))
    if outcomes:
        query = query.filter(_OUTCOME.in_(outcomes))
    query = query.filter(*map(having, labels))
    return page(session, query, _chosen(_OF_TESTS, order), after)


def outcomes_of_tests(session: Session) -> dict[str, int]:
    """Return how many tests have each outcome of their last run on record."""
    return {row[0]: row[1] for row in session.execute(_COUNTED)}


def labels_of_tests(session: Session) -> dict[str, int]:
    """Return how many tests have each label, by label."""
    each = func.jsonb_array_elements_text(_LABELS).label("label")
    one = select(each).filter(Test.kind == "test").subquery().c.label
    found = session.execute(select(one, func.count()).group_by(one).order_by(func.lower(one)))
    return {row[0]: row[1] for row in found}


def of_runs(
    session: Session,
    words: str = "",
    state: str = "",
    kind: str = "",
    test: int | None = None,
    after: str = "",
    label: str = "",
) -> Page[Row[Any]]:
    """Return a page of the runs, newest first, of tests with a label where one is given.

    Raises BadInput for an `after` that is none.
    """
    query = _RUNS
    if label:
        query = query.filter(Run.test_id.in_(select(Test.id).filter(having(label))))
    for column, wanted in ((Run.state, state), (Run.kind, kind), (Run.test_id, test)):
        if wanted:
            query = query.filter(column == wanted)
    if words:
        query = query.filter(Run.test_name.icontains(words, autoescape=True))
    return page(session, query, Order((Run.id.expression,), falling=True), after)


_SEEN = (
    select(func.count())
    .select_from(Sighting)
    .filter(Sighting.defect_id == Defect.id)
    .scalar_subquery()
)
_HANDED = (
    select(
        func.coalesce(
            func.string_agg(Handover.key, aggregate_order_by(literal(", "), Handover.id)), ""
        )
    )
    .filter(Handover.defect_id == Defect.id, Handover.key != "")
    .scalar_subquery()
)
"""What a defect is called at the trackers that it was handed over to."""
_OWNER = aliased(Account)
_DEFECTS: Select[Any] = (
    select(
        Defect.id,
        Defect.title,
        Defect.severity,
        Defect.state,
        Defect.environment,
        Defect.release,
        func.coalesce(Account.name, "").label("author"),
        Defect.created_at,
        Defect.changed_at,
        _SEEN.label("seen"),
        Defect.version,
        Defect.priority,
        Defect.owner_id,
        func.coalesce(_OWNER.name, "").label("owner"),
        Defect.fixed_in,
        _HANDED.label("handed"),
    )
    .outerjoin(Account, Account.id == Defect.account_id)
    .outerjoin(_OWNER, _OWNER.id == Defect.owner_id)
)
_WEIGHT = case({name: place for place, name in enumerate(SEVERITIES)}, value=Defect.severity)
_URGENCY = case({name: place for place, name in enumerate(PRIORITIES)}, value=Defect.priority)
_OF_DEFECTS = {
    "newest": Order((Defect.id.expression,), falling=True),
    "changed": Order((Defect.changed_at.expression, Defect.id.expression), falling=True),
    "severity": Order((_WEIGHT, Defect.id.expression)),
    "priority": Order((_URGENCY, Defect.id.expression)),
}


def of_defects(
    session: Session,
    words: str = "",
    state: str = "",
    severity: str = "",
    order: str = "newest",
    after: str = "",
    owner: int = 0,
) -> Page[Row[Any]]:
    """Return a page of the defects, of one `owner` where that is asked, each with how often `seen`.

    Raises UnknownName for an order that there is not, BadInput for an `after`.
    """
    query = _DEFECTS
    if state:
        query = query.filter(Defect.state.in_(state.split(",")))
    if severity:
        query = query.filter(Defect.severity == severity)
    if owner:
        query = query.filter(Defect.owner_id == owner)
    if words:
        there = select(Handover.defect_id).filter(Handover.key.icontains(words, autoescape=True))
        titled = Defect.title.icontains(words, autoescape=True)
        query = query.filter(titled | Defect.id.in_(there))
    return page(session, query, _chosen(_OF_DEFECTS, order), after)


def of_people(session: Session, words: str = "", after: str = "") -> Page[Row[Any]]:
    """Return a page of the accounts by name, with `words` in what they are called or sign in as.

    Raises BadInput for an `after` that is none.
    """
    shown: tuple[Any, ...] = (
        Account.id,
        Account.username,
        Account.name,
        Account.role,
        Account.disabled,
        Account.email,
    )
    query = select(*shown).filter(~Account.gone)
    if words:
        named = (one.icontains(words, autoescape=True) for one in (Account.name, Account.username))
        query = query.filter(or_(*named))
    return page(session, query, Order((func.lower(Account.name), Account.id.expression)), after)


def defects_named(session: Session, ids: Collection[int]) -> dict[int, Row[Any]]:
    """Return what lists show of the defects with these ids, by id."""
    return {row.id: row for row in session.execute(_DEFECTS.filter(Defect.id.in_(ids)))}


def named(session: Session, words: str, number: int) -> Sequence[Row[Any]]:
    """Return tests, defects, runs and elements with `words` in their names, or with a number.

    Each has its `kind`, its `key`, its `name`, and two `more` things that lists say of it.
    """

    def some(kind: str, most: int, query: Select[*tuple[Any, ...]]) -> Select[*tuple[Any, ...]]:
        key, name, more, last = query.limit(most).subquery().columns
        return select(
            literal(kind).label("kind"),
            cast(key, String).label("key"),
            name.label("name"),
            more.label("more"),
            last.label("last"),
        )

    def held(name: ColumnElement[str] | InstrumentedAttribute[str]) -> ColumnElement[bool]:
        return name.icontains(words, autoescape=True)

    nothing = literal("").label("nothing")
    tests = (
        select(Test.id, Test.name, Environment.name.label("environment"), nothing)
        .join(Environment, Environment.id == Test.environment_id)
        .filter(held(Test.name))
        .order_by(Test.changed_at.desc())
    )
    defects = (
        select(Defect.id, Defect.title, Defect.state, nothing)
        .filter(held(Defect.title) | (Defect.id == number))
        .order_by(Defect.id.desc())
    )
    runs = (
        select(Run.id, Run.test_name, Run.state, nothing)
        .filter(held(Run.test_name) | (Run.id == number))
        .order_by(Run.id.desc())
    )
    elements = (
        select(Element.id, Element.name, Element.kind, Element.page)
        .filter(held(Element.name))
        .order_by(Element.name)
    )
    plans = (
        select(Plan.id, Plan.name, nothing.label("more"), nothing)
        .filter(held(Plan.name))
        .order_by(Plan.changed_at.desc())
    )
    found = union_all(
        some("test", 8, tests),
        some("plan", 5, plans),
        some("defect", 5, defects),
        some("run", 5, runs),
        some("element", 5, elements),
    )
    return session.execute(found).all()


# -- plans ----------------------------------------------------------------------------------------

_PLAN_EACH = (
    select(Cast.outcome, func.count().label("count"))
    .join(Run, Run.id == Cast.run_id)
    .filter(Run.plan_run_id == PlanRun.id)
    .group_by(Cast.outcome)
    .correlate(PlanRun)
    .subquery()
)
_PLAN_CASTS = select(func.jsonb_object_agg(_PLAN_EACH.c.outcome, _PLAN_EACH.c.count))
_PLAN_RUN: tuple[Any, ...] = (
    PlanRun.id,
    PlanRun.plan_id,
    PlanRun.plan_name,
    PlanRun.state,
    PlanRun.message,
    func.coalesce(Account.name, "").label("author"),
    PlanRun.cause,
    PlanRun.again_of,
    PlanRun.queued_at,
    PlanRun.started_at,
    PlanRun.ended_at,
    func.coalesce(_PLAN_CASTS.scalar_subquery(), cast({}, JSONB)).label("casts"),
)
_PLAN_RUNS: Select[Any] = (
    select(*_PLAN_RUN).select_from(PlanRun).outerjoin(Account, Account.id == PlanRun.account_id)
)


def plan_runs_named(session: Session, ids: Collection[int]) -> dict[int, Row[Any]]:
    """Return what lists show of the runs of plans with these ids, by id."""
    return {row.id: row for row in session.execute(_PLAN_RUNS.filter(PlanRun.id.in_(ids)))}


def of_plan_runs(session: Session, plan: int | None = None, after: str = "") -> Page[Row[Any]]:
    """Return a page of the runs of plans, newest first; raises BadInput for a wrong `after`."""
    query = _PLAN_RUNS if plan is None else _PLAN_RUNS.filter(PlanRun.plan_id == plan)
    return page(session, query, Order((PlanRun.id.expression,), falling=True), after)


def of_plans(session: Session, words: str = "", after: str = "") -> Page[Row[Any]]:
    """Return a page of the plans by name, each with the id of its newest run.

    Raises BadInput for an `after` that is none.
    """
    newest = select(func.max(PlanRun.id)).filter(PlanRun.plan_id == Plan.id).scalar_subquery()
    query: Select[Any] = select(
        Plan.id, Plan.name, Plan.body, Plan.changed_at, newest.label("last_run")
    )
    if words:
        query = query.filter(Plan.name.icontains(words, autoescape=True))
    return page(session, query, Order((func.lower(Plan.name), Plan.id.expression)), after)
