"""Plans: kept with all their versions, copied, deleted, and what they come to when they start."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lantern.core.plans.model import (
    FLOWS,
    LAST_FAILED,
    LONGEST_NAME,
    Pick,
    Plan,
    check_name,
    differences,
)
from lantern.core.problems import BadInput, Conflict, Missing
from lantern.store import calls, models
from lantern.store.database import tell
from lantern.store.lists import having
from lantern.store.models import PlanVersion, Run, Test

MOST_TESTS = 2000
"""Tests that one plan comes to at the most."""


def get(session: Session, plan_id: int, *, lock: bool = False) -> models.Plan:
    """Return a plan, locked against other changes if asked; raises Missing."""
    query = select(models.Plan).filter_by(id=plan_id)
    if lock:
        query = query.with_for_update().execution_options(populate_existing=True)
    found = session.scalar(query)
    if found is None:
        raise Missing("That plan does not exist.", where=str(plan_id))
    return found


def named(session: Session, name: str) -> models.Plan:
    """Return the plan of a name, whatever its case; raises Missing."""
    query = select(models.Plan).filter(func.lower(models.Plan.name) == name.strip().lower())
    found = session.scalar(query)
    if found is None:
        raise Missing(f"There is no plan named “{name.strip()}”.", where="plan")
    return found


def _free_name(session: Session, name: str, but: int | None = None) -> str:
    name = check_name(name)
    query = select(models.Plan.id).filter(func.lower(models.Plan.name) == name.lower())
    if session.scalar(query) not in (None, but):
        raise BadInput(f"There is a plan named “{name}” already.", where="name")
    return name


def create(
    session: Session, name: str, plan: Plan, account_id: int | None, summary: str = "made"
) -> models.Plan:
    """Make a plan; raises BadInput for its name or for what it says."""
    _check(session, plan)
    row = models.Plan(
        name=_free_name(session, name), body=plan.as_json(), version=1, created_by=account_id
    )
    session.add(row)
    session.flush()
    _keep(session, row, summary, account_id)
    return row


def change(
    session: Session,
    plan_id: int,
    plan: Plan,
    account_id: int | None,
    *,
    base: int,
    name: str | None = None,
    summary: str = "",
) -> models.Plan:
    """Make what is said the plan's newest version, unless nothing changes.

    Raises Conflict where somebody changed it since the version `base`, BadInput, Missing.
    """
    row = get(session, plan_id, lock=True)
    if row.version != base:
        raise Conflict(
            "The plan was changed by someone else meanwhile.",
            where=row.name,
            hint="The newest version is shown now; make your change again if it is needed.",
        )
    _check(session, plan)
    changed = differences(Plan.read(row.body), plan)
    name = row.name if name is None else _free_name(session, name, but=row.id)
    if name != row.name:
        changed.insert(0, "name")
    if not changed:
        return row
    row.name, row.body, row.version = name, plan.as_json(), row.version + 1
    row.changed_at = datetime.now(UTC)
    _keep(session, row, summary or f"{', '.join(changed)} changed", account_id)
    return row


def restore(
    session: Session, plan_id: int, number: int, account_id: int | None, *, base: int
) -> models.Plan:
    """Make an earlier version the newest; raises Missing, Conflict, BadInput."""
    version = session.get(PlanVersion, (plan_id, number))
    if version is None:
        raise Missing(f"The plan has no version {number}.", where="version")
    told = f"version {number} restored"
    return change(
        session,
        plan_id,
        Plan.read(version.body),
        account_id,
        base=base,
        name=version.name,
        summary=told,
    )


def copy(session: Session, plan_id: int, account_id: int | None) -> models.Plan:
    """Copy a plan under a name of its own; raises Missing."""
    row = get(session, plan_id)
    number = 2
    while session.scalar(
        select(models.Plan.id).filter_by(name=(name := f"{row.name[: LONGEST_NAME - 6]} {number}"))
    ):
        number += 1
    return create(session, name, Plan.read(row.body), account_id, f"copied from “{row.name}”")


def drop(session: Session, plan_id: int) -> None:
    """Delete a plan; its runs stay on record. Raises Missing."""
    session.delete(get(session, plan_id, lock=True))
    tell(session, "plans")


def versions(session: Session, plan_id: int) -> Sequence[PlanVersion]:
    """Return the versions of a plan, newest first."""
    query = select(PlanVersion).filter_by(plan_id=plan_id).order_by(PlanVersion.number.desc())
    return session.scalars(query).all()


def _keep(session: Session, row: models.Plan, summary: str, account_id: int | None) -> None:
    session.add(
        PlanVersion(
            plan_id=row.id,
            number=row.version,
            name=row.name,
            body=row.body,
            summary=summary,
            author_id=account_id,
        )
    )
    session.flush()
    tell(session, "plans")


def _check(session: Session, plan: Plan) -> None:
    """Raise BadInput where a plan names what there is not, or a flow that needs values."""
    for part in FLOWS:
        if key := getattr(plan, part):
            calls.check_plain(session, key)
    known = set(session.scalars(select(models.Environment.id)))
    for one in plan.environments:
        if one not in known:
            raise BadInput("That environment does not exist.", where="environments")


# -- what it comes to ------------------------------------------------------------------------------


@dataclass(frozen=True)
class Chosen:
    """A test that a plan takes, with the rows of it and the environment (None: its own)."""

    test: Test
    rows: str
    environment: int | None = None


@dataclass(frozen=True)
class Comes:
    """What a plan comes to: its tests in the order of its picks, and what leads to nothing."""

    tests: tuple[Chosen, ...]
    empty: tuple[str, ...] = ()


def comes_to(session: Session, plan: Plan) -> Comes:
    """Return what a plan comes to now; a test that is picked twice is there once, as picked first.

    Raises BadInput for too many tests.
    """
    found: dict[int, Chosen] = {}
    empty = []
    for pick in plan.picks:
        tests = _picked(session, pick)
        if not tests:
            empty.append(_nothing(pick))
        for test in tests:
            if test.id not in found:
                found[test.id] = Chosen(test, pick.rows)
    if len(found) > MOST_TESTS:
        raise BadInput(f"That is {len(found):,} tests; a plan has at most {MOST_TESTS:,}.")
    chosen = [_with_rows(session, one) for one in found.values()]
    left = [one for one in chosen if one.rows]
    environments = plan.environments or (None,)
    return Comes(
        tuple(replace(one, environment=place) for place in environments for one in left),
        tuple(empty),
    )


def _picked(session: Session, pick: Pick) -> Sequence[Test]:
    query = select(Test).filter(Test.kind == "test").order_by(func.lower(Test.name))
    if pick.kind == "test":
        query = query.filter(Test.id == pick.test)
    elif pick.kind == "label":
        query = query.filter(having(pick.words))
    else:
        query = query.filter(Test.name.icontains(pick.words, autoescape=True))
    return session.scalars(query.limit(MOST_TESTS + 1)).all()


def _nothing(pick: Pick) -> str:
    if pick.kind == "test":
        return "A test that was picked does not exist any more."
    if pick.kind == "label":
        return f"No test has the label “{pick.words}”."
    return f"No test has “{pick.words}” in its name."


def _with_rows(session: Session, chosen: Chosen) -> Chosen:
    """Return it with rows that core.data.choosing knows; "" where nothing failed the last time."""
    if chosen.rows != LAST_FAILED:
        return chosen
    last = session.execute(
        select(Run.id, Run.state)
        .filter(Run.test_id == chosen.test.id, Run.kind == "run", Run.ended_at.is_not(None))
        .order_by(Run.id.desc())
        .limit(1)
    ).first()
    bad = last is not None and last.state in ("failed", "interrupted")
    return replace(chosen, rows=f"failed of {last.id}" if last is not None and bad else "")
