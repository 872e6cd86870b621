"""Casts in the database: core.runs.life applied to what is found there.

Every change of a cast's or a run's state goes through `happen`, under a lock of the run, so two
processes never see different lives of one run.
"""

from __future__ import annotations

import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, distinct, func, literal, select, text, update
from sqlalchemy.dialects.postgresql import distinct_on, insert
from sqlalchemy.orm import Session, undefer, undefer_group

from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import Missing
from lantern.core.runs import life
from lantern.core.runs.life import Event, TooLate
from lantern.core.runs.places import queue_of
from lantern.core.values.redaction import everywhere
from lantern.core.values.templates import masked
from lantern.store import queue, sharing, stations
from lantern.store.database import tell
from lantern.store.models import Cast, Result, Run

WORDS = ("sentence", "message", "hint", "expected", "found")
"""What a result says in words."""
NAMED = ("title", "comment", "thing", "contrary")
"""What people call a sentence, and what it really acted on; kept in the details of its result."""
SHORT = 20
"""Seconds that a page may need from reading a run until it is told of changes."""
MOST_TOLD = 200
"""Casts that one notice names: it has to fit into 8,000 bytes."""
_LIFE = (
    Cast.id, Cast.outcome, Cast.engine, Cast.job, Cast.token, Cast.takings, Cast.message,
    Cast.failures, Cast.cancel_asked,
)  # fmt: skip
_CHANGED = {
    "outcome": "state",
    "job": "job",
    "token": "token",
    "takings": "takings",
    "message": "message",
    "failures": "failures",
    "cancel_asked": "cancel_asked",
}


def load(session: Session, run_id: int) -> tuple[Run, life.Run]:
    """Return a run, locked until the session's end, and its life; raises Missing."""
    run = session.scalar(
        select(Run).filter_by(id=run_id).with_for_update(of=Run),
        execution_options={"populate_existing": True},
    )
    if run is None:
        raise Missing(f"There is no run {run_id}.", where=str(run_id))
    rows = session.execute(select(*_LIFE).filter_by(run_id=run_id).order_by(Cast.position))
    casts = tuple(life.Cast(*row) for row in rows)  # type: ignore[arg-type]
    state: life.RunState = run.state  # type: ignore[assignment]
    now = life.Run(casts, state, run.cancel_asked, run.stopped, run.again, run.message)
    return run, replace(now, retries=run.retries, fragile=run.fragile)


def happen(session: Session, run_id: int, *events: Event) -> life.Run:
    """Let events happen to a run, offer what is to be played next, and tell whoever watches.

    Raises TooLate, then nothing is changed, and Missing.
    """
    run, before = load(session, run_id)
    now = before
    for event in events:
        now = life.after(now, event)
    if run.plan_run_id is None:
        now = _feed(session, run, now)
    _write(session, run, before, now)
    return now


def feed(session: Session, run_id: int, lanes: int) -> life.Run:
    """Offer casts of a run of a plan, so that `lanes` of it are offered or under way."""
    run, before = load(session, run_id)
    now = _feed(session, run, before, lanes)
    _write(session, run, before, now)
    return now


def _feed(session: Session, run: Run, now: life.Run, most: int | None = None) -> life.Run:
    """Offer the next casts: `most` lanes, or one for each station that could play them."""
    wanted = {cast.engine for cast in now.casts if cast.state == "waiting" and not cast.job}
    if not wanted or now.ending or now.over:
        return now
    offered = stations.offers(session)
    lanes = sum(any(one.suits(engine, run.needs) for engine in wanted) for one in offered)
    # Without a station the first waits in the queue, and begins as soon as there is one.
    engines = {name for name in wanted if any(one.suits(name, run.needs) for one in offered)}
    for cast in life.to_feed(now, most or max(1, lanes), engines or wanted):
        priority = sharing.priority(session, run.share_id) if run.share_id else 0
        job = queue.offer(session, cast.id, queue_of(cast.engine, run.needs), priority)
        now = life.after(now, life.Fed(cast.id, job))
    return now


def _write(session: Session, run: Run, before: life.Run, now: life.Run) -> None:
    """Write what changed, withdraw jobs that are of no use any more, and tell who is to stop."""
    if now == before:
        return
    clock = datetime.now(UTC)
    for old, new in zip(before.casts, now.casts, strict=True):
        if old == new:
            continue
        values: dict[str, Any] = {
            column: getattr(new, name)
            for column, name in _CHANGED.items()
            if getattr(new, name) != getattr(old, name)
        }
        if new.state == "running":
            values |= {"started_at": clock, "ended_at": None}
        elif new.over or old.state == "running":
            values |= {"ended_at": clock if old.state == "running" else None}
            values |= {"current": "", "current_step": ""}
        session.execute(update(Cast).filter_by(id=new.id).values(**values))
        if old.state == "waiting" and old.job and not new.job:
            queue.withdraw(session, old.job)
    run.state, run.message, run.stopped = now.state, now.message, now.stopped
    if now.cancel_asked and not before.cancel_asked:
        run.cancel_asked, run.cancel_asked_at = True, clock
    if now.state == "running" and run.started_at is None:
        run.started_at = clock
    if now.over and run.ended_at is None:
        run.ended_at = clock
    if stopping := life.to_stop(now):
        tell(session, "stop", casts=[cast.id for cast in stopping])
        for cast in stopping:
            queue.withdraw(session, cast.job)
    session.flush()
    changed = [new.id for old, new in zip(before.casts, now.casts, strict=True) if old != new]
    if len(changed) > MOST_TOLD:  # then what follows the run reads it anew
        tell(session, "run", id=run.id)
    else:
        tell(session, "run", id=run.id, casts=changed)
    if run.plan_run_id is not None:
        tell(session, "plan run", id=run.plan_run_id)


def cancel_one(session: Session, cast_id: int) -> None:
    """Stop one cast, at once where it waits; the others of its run go on. Raises Missing."""
    run = run_of(session, cast_id)
    if run is None:
        raise Missing("That row does not exist any more.", where=str(cast_id))
    cancel_some(session, run, [cast_id])


def cancel_some(session: Session, run_id: int, cast_ids: Sequence[int]) -> None:
    """Stop some casts of a run; the others go on. Raises Missing."""
    happen(session, run_id, *map(life.CastCancelAsked, cast_ids))


def run_of(session: Session, cast_id: int) -> int | None:
    """Return the id of the run that a cast is of; None when it is gone."""
    return session.scalar(select(Cast.run_id).filter_by(id=cast_id))


def take(session: Session, cast_id: int, job: int, station_id: str) -> tuple[Run, Cast] | None:
    """Take a cast for a station, with a token of its own; None when it is not to be had."""
    run_id = run_of(session, cast_id)
    if run_id is None:
        return None
    try:
        happen(session, run_id, life.Taken(cast_id, job, secrets.token_hex(16)))
    except TooLate:
        return None
    sharing.took(session, session.scalar(select(Run.share_id).filter_by(id=run_id)), job)
    cast = session.get_one(Cast, cast_id, populate_existing=True)
    cast.station_id = station_id
    session.flush()
    whole = (undefer(Run.body), undefer_group("content"))  # it is played without a session
    return session.get_one(Run, run_id, options=whole, populate_existing=True), cast


def began(session: Session, cast_id: int, token: str, version: str) -> None:
    """Take note of the browser that a cast is played in; raises TooLate."""
    session.execute(  # the run before the cast, as everywhere: two locks, one order
        update(Run)
        .filter(Run.id == run_of(session, cast_id), func.strpos(Run.browser, version) == 0)
        .values(browser=func.concat_ws(", ", func.nullif(Run.browser, ""), version))
    )
    hold(session, cast_id, token).version = version


def hold(session: Session, cast_id: int, token: str) -> Cast:
    """Return a cast that is played under a token, locked; raises TooLate when it is not."""
    cast = session.scalar(
        select(Cast).filter_by(id=cast_id, token=token).with_for_update(),
        execution_options={"populate_existing": True},
    )
    if cast is None or not token:
        raise TooLate(f"Cast {cast_id} is not played under that token any more.")
    return cast


def set_current(session: Session, cast_id: int, token: str, sentence: str, step: str) -> None:
    """Take note of the sentence that a cast is at, and of its step; raises TooLate."""
    cast = hold(session, cast_id, token)
    cast.current, cast.current_step = sentence, step[:32]
    tell(session, "run", id=cast.run_id, casts=[cast.id], small=True)


def keep_result(
    session: Session,
    cast_id: int,
    token: str,
    place: int,
    result: StepResult,
    console: Sequence[str],
    requests: Sequence[str],
    hidden: Mapping[str, str],
) -> None:
    """Keep how a step ended, as the `place`-th result (from 1) of the taking; raises TooLate.

    Kept twice, it is there once. What is `hidden` is masked in all that is said.
    """
    cast = hold(session, cast_id, token)
    words = {name: getattr(result, name) for name in WORDS}
    details: dict[str, Any] = {
        "files": list(result.files),
        "within": list(result.within),
        "lookups": list(result.lookups),
        "console": list(console),
        "requests": list(requests),
        **{name: getattr(result, name) for name in NAMED},
        **({"late": dict(result.late)} if result.late else {}),
    }
    kept = dict(result.kept)
    words, details, kept = everywhere([words, details, kept], lambda text: masked(text, hidden))
    query = insert(Result).values(
        **words,
        cast_id=cast_id,
        taking=cast.takings,
        place=place,
        position=result.position,
        step_id=result.step_id,
        outcome=result.outcome,
        reason=result.reason,
        used=result.used,
        limit=result.limit,
        picture=result.picture,
        details=details
        | {"attempts": result.attempts, "box": vars(result.box) if result.box else None},
    )
    made = session.scalar(
        query.on_conflict_do_nothing(
            index_elements=["cast_id", "taking", "place"], index_where=text("place > 0")
        ).returning(Result.id)
    )
    if kept:
        cast.kept = {**cast.kept, **kept}
    fresh = [made] if made else []
    tell(session, "run", id=cast.run_id, casts=[cast_id], results=fresh, small=True)


def take_in_hand(session: Session, cast_id: int, token: str, name: str) -> None:
    """Note that a person took a cast in hand while it was played; raises TooLate."""
    cast = hold(session, cast_id, token)
    cast.hand = name
    tell(session, "run", id=cast.run_id, casts=[cast_id])


def following(session: Session, run_id: int) -> str | None:
    """Return the browser of the next cast of a run that nobody has taken; None when none waits."""
    query = select(Cast.browser).filter_by(run_id=run_id, outcome="waiting")
    return session.scalars(query.order_by(Cast.position)).first()


def played_by(session: Session, station_id: str) -> dict[int, str]:
    """Return the casts that a station has taken and not ended, with their tokens."""
    query = select(Cast.id, Cast.token).filter_by(station_id=station_id, outcome="running")
    return {row.id: row.token for row in session.execute(query)}


def to_stop(session: Session, cast_ids: Sequence[int]) -> list[int]:
    """Return those of the casts that are to end, alone or with their run."""
    query = (
        select(Cast.id)
        .join(Run, Run.id == Cast.run_id)
        .filter(Cast.id.in_(cast_ids), Run.cancel_asked | (Run.stopped != "") | Cast.cancel_asked)
    )
    return list(session.scalars(query))


@dataclass(frozen=True)
class Summary:
    """What the results of a cast's last taking come to.

    `reached` are the ids of the steps that were carried out, `failed` of those that failed;
    `sentence` and `message` are those of the first that failed, "" for none.
    """

    reached: frozenset[str] = frozenset()
    failed: frozenset[str] = frozenset()
    sentence: str = ""
    message: str = ""


NO_RESULTS = Summary()


def summaries(
    session: Session, run_id: int, cast_ids: Sequence[int] | None = None
) -> dict[int, Summary]:
    """Return what came of casts of a run (None: all), without reading results one by one."""
    counts = [Cast.run_id == run_id, Result.taking == func.greatest(Cast.takings, 1)]
    if cast_ids is not None:
        counts.append(Cast.id.in_(cast_ids))

    def steps(condition: ColumnElement[bool]) -> ColumnElement[Sequence[str]]:
        return func.array_agg(distinct(Result.step_id)).filter(condition)

    of = Result.cast_id
    each = (
        select(of, steps(Result.outcome != "skipped"), steps(Result.outcome == "failed"))
        .join(Cast, Cast.id == of)
        .filter(*counts)
        .group_by(of)
    )
    first = (
        select(of, Result.sentence, Result.message)
        .join(Cast, Cast.id == of)
        .filter(*counts, Result.outcome == "failed")
        .order_by(of, Result.position, Result.id)
        .ext(distinct_on(of))
    )
    told = {cast: (sentence, message) for cast, sentence, message in session.execute(first)}
    return {
        cast: Summary(frozenset(done or ()), frozenset(bad or ()), *told.get(cast, ("", "")))
        for cast, done, bad in session.execute(each)
    }


def results_by_cast(session: Session, run_id: int) -> dict[int, list[Result]]:
    """Return the results of the last taking of each cast of a run, in the order of the steps."""
    found: dict[int, list[Result]] = {}
    query = (
        select(Result)
        .join(Cast, Cast.id == Result.cast_id)
        .filter(Cast.run_id == run_id, Result.taking == func.greatest(Cast.takings, 1))
        .order_by(Result.cast_id, Result.position, Result.id)
    )
    for result in session.scalars(query):
        found.setdefault(result.cast_id, []).append(result)
    return found


def lasting(session: Session, result_ids: Sequence[int]) -> Sequence[Result]:
    """Return those of some results that are of the last taking of their cast."""
    return session.scalars(
        select(Result)
        .join(Cast, Cast.id == Result.cast_id)
        .filter(Result.id.in_(result_ids), Result.taking == func.greatest(Cast.takings, 1))
        .order_by(Result.position, Result.id)
    ).all()


def some(session: Session, run_id: int, cast_ids: Sequence[int] | None) -> Sequence[Cast]:
    """Return some casts of a run; None for those that play, or ended within SHORT seconds."""
    query = select(Cast).filter_by(run_id=run_id).order_by(Cast.position)
    if cast_ids is None:
        lately = func.clock_timestamp() - timedelta(seconds=SHORT)
        query = query.filter((Cast.outcome == "running") | (Cast.ended_at > lately))
    else:
        query = query.filter(Cast.id.in_(cast_ids))
    return session.scalars(query).all()


def results(session: Session, cast_id: int, taking: int | None = None) -> Sequence[Result]:
    """Return the results of a cast's last taking, or of another, in the order of the steps."""
    which = func.greatest(Cast.takings, 1) if taking is None else literal(taking)
    return session.scalars(
        select(Result)
        .join(Cast, Cast.id == Result.cast_id)
        .filter(Result.cast_id == cast_id, Result.taking == which)
        .order_by(Result.position, Result.id)
    ).all()
