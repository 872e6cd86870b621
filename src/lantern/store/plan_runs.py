"""Runs of plans: started, gone on with, stopped, and what all their runs come to."""

from __future__ import annotations

import secrets
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from typing import Any

import structlog
from sqlalchemy import Row, and_, func, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from lantern.core.engine.browsers import BROWSERS
from lantern.core.plans import going, posting
from lantern.core.plans.model import Plan
from lantern.core.plans.outlook import in_order
from lantern.core.problems import BadInput, Missing, Problem
from lantern.core.runs.life import CancelAsked, Stopped
from lantern.store import (
    casts,
    hooks,
    knowing,
    mails,
    models,
    plans,
    runs,
    sharing,
    stations,
    tests,
)
from lantern.store.database import tell
from lantern.store.models import Cast, PlanRun, Run
from lantern.store.outlooks import Outlook, outlook_of

log = structlog.get_logger()
AHEAD = 2
"""Casts that wait in the queue for each place where a plan sets no limit: no place stands idle."""


@dataclass(frozen=True)
class Ask:
    """How a run of a plan is asked for, where it is otherwise than the plan says.

    `environment` is the id of one instead of the plan's, `again_of` the run of a plan of which this
    plays some once more, `cause` what asked for it; `variables` stand in for those of the
    environment; `only` are the cells (runs.cell_of) that are played, None for all.
    """

    environment: int | None = None
    seed: str = ""
    cause: str = "a person"
    again_of: int | None = None
    variables: Mapping[str, str] = field(default_factory=dict)
    only: frozenset[str] | None = None


def get(session: Session, key: int, *, lock: bool = False) -> PlanRun:
    """Return a run of a plan, locked if asked; raises Missing."""
    query = select(PlanRun).filter_by(id=key)
    if lock:
        query = query.with_for_update(of=PlanRun).execution_options(populate_existing=True)
    found = session.scalar(query)
    if found is None:
        raise Missing(f"There is no run {key} of a plan.", where=str(key))
    return found


def start(
    session: Session, plan_id: int, account_id: int | None, ask: Ask | None = None
) -> PlanRun:
    """Start a run of a plan; its runs are created together, or none is.

    Raises Missing, and BadInput where it comes to nothing, or names what a test does not have.
    """
    ask = ask or Ask()
    row = plans.get(session, plan_id)
    plan = Plan.read(row.body)
    if ask.environment is not None:
        plan = replace(plan, environments=(ask.environment,))
    _make_way(session, row, plan)
    found = plans.comes_to(session, plan)
    if not found.tests:
        raise BadInput(
            f"“{row.name}” comes to no test.",
            where=row.name,
            hint=" ".join(found.empty) or "Pick a test, a label or a search.",
        )
    return _start(session, row, plan, found.tests, account_id, ask)


def _make_way(session: Session, row: models.Plan, plan: Plan) -> None:
    """Do what a plan says of its runs that are still going when it starts; raises BadInput."""
    for key in _going(session, row.id):
        if plan.overlap == "skip":
            raise BadInput(
                f"“{row.name}” is still running, as run {key}.",
                where=row.name,
                hint="Wait for its end or cancel it; the plan says that a new one is skipped then.",
            )
        if plan.overlap == "cancel the old":
            cancel(session, key)


def _going(session: Session, plan_id: int | None, before: int = 2**31 - 1) -> Sequence[int]:
    """Return the runs of a plan that are not over, those below a number."""
    query = select(PlanRun.id).filter(
        PlanRun.plan_id == plan_id, PlanRun.state.in_(going.GOING), PlanRun.id < before
    )
    return session.scalars(query.order_by(PlanRun.id)).all()


def _start(
    session: Session,
    row: models.Plan,
    plan: Plan,
    chosen: Sequence[plans.Chosen],
    account_id: int | None,
    ask: Ask,
) -> PlanRun:
    seed = ask.seed.strip() or plan.seed or secrets.token_hex(4)
    told = outlook_of(session, plan, chosen)
    ordered = in_order(
        list(zip(chosen, told.lasting, strict=True)),
        plan.order,
        [one.usual for one in told.lasting],
        seed,
    )
    share = sharing.new(session, weight=plan.weight)
    made = PlanRun(
        plan_id=row.id,
        plan_name=row.name,
        plan_version=row.version,
        body=plan.as_json(),
        seed=seed[:40],
        cause=ask.cause,
        account_id=account_id,
        share_id=share.id,
        again_of=ask.again_of,
        expected=_expected(told),
    )
    if plan.minutes:
        made.deadline = datetime.now(UTC) + timedelta(minutes=plan.minutes)
    session.add(made)
    session.flush()
    within = runs.Within(made.id, share.id, plan, only=ask.only)
    _around(session, plan.before, replace(within, phase="before", place=0), account_id, seed)
    for place, (one, _) in enumerate(ordered, 1):
        try:
            runs.create(
                session,
                one.test,
                "run",
                one.rows,
                account_id,
                one.environment,
                seed,
                browsers=plan.browsers,
                variables=ask.variables,
                within=replace(within, place=place),
            )
        except runs.NothingLeft:
            continue  # all its cells are taken out of the matrix
        except Problem as error:
            raise BadInput(
                f"“{one.test.name}” can not be played: {error.message}",
                where=one.test.name,
                hint=error.hint,
            ) from error
    if not session.scalar(select(func.count()).filter(Run.plan_run_id == made.id, Run.place > 0)):
        raise BadInput(f"All of “{row.name}” is left out.", where=row.name)
    last = replace(within, phase="after", place=len(ordered) + 1)
    _around(session, plan.after, last, account_id, seed)
    go_on(session, made.id)
    tell(session, "plans")
    return made


def _expected(told: Outlook) -> dict[str, Any]:
    return {} if told.whole is None else vars(told.whole)


def _around(
    session: Session, flow: str, within: runs.Within, account_id: int | None, seed: str
) -> None:
    """Create the run of a flow that is played once before or after all others."""
    if flow:
        place = within.plan.environments[0] if within.plan.environments else None
        row = tests.get(session, int(flow))
        runs.create(session, row, "run", "all", account_id, place, seed, within=within)


# -- how it goes ----------------------------------------------------------------------------------


def going_of(session: Session, key: int, at_once: int | None = None) -> going.Going:
    """Return how a run of a plan goes."""
    row = get(session, key)
    return going.Going(tuple(_parts(session, key)), at_once, row.cancel_asked, row.stopped)


def _parts(session: Session, key: int) -> Iterable[going.Part]:
    waits = and_(Cast.outcome == "waiting", Cast.job == 0)
    busy = (Cast.outcome == "running") | and_(Cast.outcome == "waiting", Cast.job > 0)
    query = (
        select(
            Run.id,
            Run.phase,
            Run.state,
            func.count().filter(busy).label("busy"),
            func.count().filter(waits).label("waiting"),
        )
        .join(Cast, Cast.run_id == Run.id)
        .filter(Run.plan_run_id == key)
        .group_by(Run.id)
        .order_by(Run.place, Run.id)
    )
    for one in session.execute(query):
        yield going.Part(one.id, one.phase, one.state, one.busy, one.waiting)


def go_on(session: Session, key: int) -> None:
    """Do what follows from how a run of a plan stands: offer casts, stop runs, end it.

    Whatever process calls it, and however often: it brings about what is to be, once.
    """
    row = get(session, key, lock=True)
    plan = Plan.read(row.body)
    if plan.on_failure == "stop everything" and not row.stopped:
        row.stopped = _failed(session, key)
    now = going.Going(tuple(_parts(session, key)), None, row.cancel_asked, row.stopped)
    late = row.deadline is not None and datetime.now(UTC) > row.deadline
    stopping = going.to_stop(now, late=late)
    if late and stopping and not row.stopped:
        row.stopped = going.TIME_IS_UP
    for run, why in stopping.items():
        casts.happen(session, run, Stopped(why))
    if not row.cancel_asked and not _waits(session, row, plan):
        now = replace(now, parts=tuple(_parts(session, key)) if stopping else now.parts)
        for run, lanes in going.may_feed(replace(now, at_once=_at_once(session, plan))):
            casts.feed(session, run, lanes)
    _settle(session, row)


def _waits(session: Session, row: PlanRun, plan: Plan) -> bool:
    """Tell whether a run of a plan waits for the end of an earlier one."""
    if plan.overlap != "wait" or row.plan_id is None:
        return False
    return bool(_going(session, row.plan_id, row.id))


def begun(session: Session, key: int) -> None:
    """Take note that something of a run of a plan has begun."""
    if session.scalar(select(PlanRun.state).filter_by(id=key)) == "queued":
        _settle(session, get(session, key, lock=True))


def _at_once(session: Session, plan: Plan) -> int:
    """Return how many casts of a plan may be offered or play."""
    working = [one.places for one in stations.offers(session) if one.mode == "works"]
    return plan.at_once or max(1, sum(working)) * AHEAD


def _failed(session: Session, key: int) -> str:
    """Return why all is to stop: the first test of which a row failed for good; "" for none."""
    name = session.scalar(
        select(Run.test_name)
        .join(Cast, Cast.run_id == Run.id)
        .filter(Run.plan_run_id == key, Run.phase == "main", Cast.outcome == "failed")
        .order_by(Cast.ended_at)
        .limit(1)
    )
    return f"“{name}” failed, and the plan stops everything then." if name else ""


def _settle(session: Session, row: PlanRun) -> None:
    """Give a run of a plan the state that its runs come to, and tell whoever watches."""
    now = going_of(session, row.id)
    state, message = going.verdict(now)
    if state == "failed" and now.over and row.body.get("known") == "passes":
        failed = [one.id for one in now.parts if one.state == "failed"]
        state, message = going.forgiven(now, knowing.all_known(session, failed)) or (state, message)
    clock = datetime.now(UTC)
    if state != "queued" and row.started_at is None:
        row.started_at = clock
    if state != row.state or message != row.message:
        last = last_before(session, row) if now.over else None
        told = posting.events_of(row.state, state, last.state if last else "")
        row.state, row.message = state, message
        _tell_outside(session, row, told)
        if now.over and row.ended_at is None:
            row.ended_at = clock
        tell(session, "plans")
        tell(session, "plan run", id=row.id)
    session.flush()


def _tell_outside(session: Session, row: PlanRun, told: Sequence[posting.Event]) -> None:
    """Queue what programs and people are told; a run ends all the same where that fails."""
    for queue in (hooks.happened, mails.happened):
        try:
            with session.begin_nested():
                queue(session, row, told)
        except SQLAlchemyError:
            raise
        except Exception:
            log.exception("nobody_told", plan_run=row.id)


def cancel(session: Session, key: int) -> PlanRun:
    """Stop all that is left of a run of a plan; raises Missing."""
    row = get(session, key, lock=True)
    if row.state in going.GOING:
        row.cancel_asked = True
        session.flush()
        for run in session.scalars(select(Run.id).filter_by(plan_run_id=key).order_by(Run.id)):
            casts.happen(session, run, CancelAsked())
        _settle(session, row)
    return row


def of_cast(session: Session, cast_id: int) -> int | None:
    """Return the run of a plan that a cast belongs to, None for none."""
    query = select(Run.plan_run_id).join(Cast, Cast.run_id == Run.id).filter(Cast.id == cast_id)
    return session.scalar(query)


def open_ones(session: Session) -> Sequence[int]:
    """Return the runs of plans that are not over."""
    query = select(PlanRun.id).filter(PlanRun.state.in_(going.GOING)).order_by(PlanRun.id)
    return session.scalars(query).all()


# -- what came of it ------------------------------------------------------------------------------


def cells(session: Session, key: int) -> Sequence[Row[Any]]:
    """Return how the cells of a run of a plan go: its runs in order, by browser and outcome.

    Each row: run, test, name, environment, phase, state, browser, outcome, how many casts, and how
    many of them failed before they passed or failed for good.
    """
    shown: tuple[Any, ...] = (
        Run.id.label("run"),
        Run.test_id,
        Run.test_name,
        Run.environment_name,
        Run.phase,
        Run.state,
        Cast.browser,
        Cast.outcome,
        func.count().label("casts"),
    )
    query = (
        select(*shown)
        .join(Cast, Cast.run_id == Run.id)
        .filter(Run.plan_run_id == key)
        .group_by(Run.id, Cast.browser, Cast.outcome)
        .order_by(Run.place, Run.id)
    )
    return session.execute(query).all()


def columns(found: Sequence[Row[Any]]) -> list[str]:
    """Return the browsers of a matrix: those of the catalogue in its order, then the others."""
    there = {one.browser for one in found}
    return [name for name in BROWSERS if name in there] + sorted(there - set(BROWSERS))


def last_before(session: Session, row: PlanRun) -> PlanRun | None:
    """Return the run of the same plan before one, that was played to its end; None for none."""
    if row.plan_id is None:
        return None
    query = (
        select(PlanRun)
        .filter(
            PlanRun.plan_id == row.plan_id,
            PlanRun.id < row.id,
            PlanRun.again_of.is_(None),
            PlanRun.state.in_(("passed", "unsteady", "failed", "interrupted")),
        )
        .order_by(PlanRun.id.desc())
        .limit(1)
    )
    return session.scalar(query)


def again(session: Session, key: int, account_id: int | None) -> PlanRun:
    """Play the rows of a run of a plan that failed or were interrupted once more, as a new run.

    Raises BadInput where none did or the plan is gone.
    """
    row = get(session, key)
    if row.plan_id is None:
        raise BadInput("The plan does not exist any more.", where=row.plan_name)
    cells_of = (
        select(Run, Cast)
        .join(Cast, Run.id == Cast.run_id)
        .filter(Run.plan_run_id == key, Run.phase == "main", Run.test_id.is_not(None))
        .filter(Cast.outcome.in_(("failed", "interrupted")))
    )
    failed = session.execute(cells_of.order_by(Run.place, Cast.position)).all()
    only = frozenset(runs.cell_of(run, cast.values, cast.browser) for run, cast in failed)
    bad = {run.id: run for run, _ in failed}.values()
    chosen = [
        plans.Chosen(
            tests.get(session, run.test_id or 0), f"failed of {run.id}", run.environment_id
        )
        for run in bad
    ]
    if not chosen:
        raise BadInput("Nothing of it failed.", where=str(key))
    ask = Ask(seed=row.seed, again_of=key, only=only)
    return _start(
        session, plans.get(session, row.plan_id), Plan.read(row.body), chosen, account_id, ask
    )
