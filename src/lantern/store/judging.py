"""Verdicts on what failed: made once, kept, put together by cause, and corrected by people."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import ColumnElement, Row, and_, func, or_, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Missing, UnknownName
from lantern.core.review.causes import Cause, Member, fingerprint, together
from lantern.core.review.signs import READERS
from lantern.core.review.verdicts import KINDS, judge
from lantern.store import casts, correcting
from lantern.store.evidence import Gatherer
from lantern.store.models import Cast, Correction, Judgement, Result, Run

MOST_JUDGED = 40
"""Failures that are judged at a time; whoever asks again has the next ones judged."""
EACH = 20
"""Failures of one sentence of a run, for one reason, that are looked at one by one."""


@dataclass(frozen=True)
class Failed:
    """A failure in a run: enough to name it in a list."""

    result: int
    cast: int
    run: int
    test: int | None
    test_name: str
    number: int
    browser: str
    step: str


@dataclass(frozen=True)
class Review:
    """The causes of what failed in some runs; `left` failures are still to be judged."""

    causes: list[Cause[Failed]]
    failed: int
    left: int
    corrections: dict[tuple[str, str], Correction]
    """The corrections that hold, by fingerprint and the verdict that they correct."""


def verdict_of(session: Session, result_id: int) -> Judgement:
    """Return the verdict on a failed result, made now if it was not yet.

    Raises Missing, and BadInput for one that did not fail.
    """
    result = session.get(Result, result_id)
    if result is None:
        raise Missing("That result does not exist any more.", where=str(result_id))
    if result.outcome != "failed":
        raise BadInput("Only what failed is judged.", where=str(result_id))
    run_id = casts.run_of(session, result.cast_id) or 0
    kept = session.get(Judgement, result_id)
    if kept and _is_ripe(session, kept, run_id):
        return kept
    return _judge(session, Gatherer(session, run_id), result)


def _is_ripe(session: Session, kept: Judgement, run_id: int) -> bool:
    query = select(Judgement.result_id).join(Run, Run.id == run_id)
    return session.scalar(query.filter(Judgement.result_id == kept.result_id, _ripe())) is not None


def _ripe() -> ColumnElement[bool]:
    """Return what tells that a verdict was made when all of its run was known.

    One that is made while others still play is good for as long as they do.
    """
    return or_(Run.ended_at.is_(None), Judgement.at >= Run.ended_at)


def _judge(session: Session, gatherer: Gatherer, result: Result) -> Judgement:
    """Judge a result and keep it; a verdict that a person corrected in this run stays."""
    kept = session.get(Judgement, result.id)
    if kept and _corrected(session, kept, gatherer.run):
        kept.at = datetime.now(UTC)
        session.flush()
        return kept
    case = gatherer.case(result)
    key = fingerprint(case)
    said = correcting.before(session, key, gatherer.run)
    if said:
        case = replace(case, corrected=said)
    judged = judge(case, READERS)
    body = {
        "shares": dict(judged.shares),
        "signs": [
            {"kind": sign.kind, "weight": sign.weight, "told": sign.told} for sign in judged.signs
        ],
        "act": judged.act,
        "given": dict(judged.given),
        "wants": judged.wants,
        "green": case.green.run if case.green else 0,
        "changed": case.changes.in_words() if case.green else [],
    }
    # The clock of whoever ends runs, not of the database: the two are held against each other.
    row = {"fingerprint": key, "verdict": judged.verdict, "body": body, "at": datetime.now(UTC)}
    query = insert(Judgement).values(result_id=result.id, **row)
    session.execute(query.on_conflict_do_update(index_elements=["result_id"], set_=row))
    return session.get_one(Judgement, result.id, populate_existing=True)


def _corrected(session: Session, kept: Judgement, run: Run) -> bool:
    return (kept.fingerprint, kept.verdict) in correcting.held(session, [run.id], run.plan_run_id)


def _failures(session: Session, run_ids: Sequence[int]) -> list[Row[Any]]:
    """Return the failed results of the casts that are over, with their verdicts where they have."""
    columns: tuple[Any, ...] = (
        Result.id.label("result"),
        Cast.id.label("cast"),
        Cast.run_id.label("run"),
        Run.test_id.label("test"),
        Run.test_name,
        Cast.number,
        Cast.browser,
        Result.step_id.label("step"),
        Result.reason,
        Judgement.fingerprint,
        Judgement.verdict,
        Judgement.body["shares"].label("shares"),
    )
    query = (
        select(*columns)
        .join(Cast, Cast.id == Result.cast_id)
        .join(Run, Run.id == Cast.run_id)
        .outerjoin(Judgement, and_(Judgement.result_id == Result.id, _ripe()))
        .filter(
            Cast.run_id.in_(run_ids),
            Cast.outcome.in_(("failed", "interrupted")),
            Result.taking == func.greatest(Cast.takings, 1),
            Result.outcome == "failed",
        )
        .order_by(Run.place, Run.id, Cast.position, Result.position, Result.id)
    )
    return list(session.execute(query))


def _alike(one: Row[Any]) -> tuple[int, str, str]:
    """Return what failures share of which a few are looked at for all."""
    return one.run, one.step, one.reason


def _to_judge(found: Sequence[Row[Any]]) -> list[Row[Any]]:
    """Return the failures that are to be judged still: not more than EACH of those alike."""
    looked = Counter(_alike(one) for one in found if one.verdict is not None)
    chosen = []
    for one in found:
        if one.verdict is None and looked[_alike(one)] < EACH:
            looked[_alike(one)] += 1
            chosen.append(one)
    return chosen


def review(
    session: Session, run_ids: Sequence[int], plan_run: int | None = None, most: int = MOST_JUDGED
) -> Review:
    """Put together by cause what failed in some runs, judging up to `most` that were not yet.

    Of many that failed at one sentence for one reason a few are looked at one by one; the others
    count as most of those do.
    """
    found = _failures(session, run_ids)
    missing = _to_judge(found)
    gatherers: dict[int, Gatherer] = {}
    for one in missing[:most]:
        if one.run not in gatherers:
            gatherers[one.run] = Gatherer(session, one.run)
        _judge(session, gatherers[one.run], session.get_one(Result, one.result))
    if missing:
        found = _failures(session, run_ids)
    held = correcting.held(session, run_ids, plan_run)
    return Review(
        together(list(_members(found, held))), len(found), max(0, len(missing) - most), held
    )


def _members(
    found: Sequence[Row[Any]], held: Mapping[tuple[str, str], Correction]
) -> Iterator[Member[Failed]]:
    """Give the failures with their verdicts; those that were not looked at, with that of most."""
    judged: dict[tuple[int, str, str], list[Row[Any]]] = {}
    for one in found:
        if one.verdict is not None:
            judged.setdefault(_alike(one), []).append(one)
    usual = {
        key: Counter((one.fingerprint, one.verdict) for one in rows).most_common(1)[0][0]
        for key, rows in judged.items()
    }
    for one in found:
        if one.verdict is not None:
            yield _member(one, one.fingerprint, one.verdict, one.shares, held)
        elif len(judged.get(_alike(one), ())) >= EACH:
            yield _member(one, *usual[_alike(one)], dict.fromkeys(KINDS, 0.0), held)


def _member(
    one: Row[Any],
    key: str,
    verdict: Any,  # noqa: ANN401 - as the database has it
    shares: Mapping[Any, float],
    held: Mapping[tuple[str, str], Correction],
) -> Member[Failed]:
    failed = Failed(
        one.result, one.cast, one.run, one.test, one.test_name, one.number, one.browser, one.step
    )
    said = held.get((key, verdict))
    kind: Any = said.kind if said else None
    return Member(failed, key, verdict, shares, kind)


def correct(
    session: Session, result_id: int, kind: str, word: str, account_id: int | None
) -> Correction:
    """Say what a failure and all of its cause are; raises UnknownName, Missing, BadInput."""
    if kind not in KINDS:
        raise UnknownName("kind of fault", kind, KINDS)
    judged = verdict_of(session, result_id)
    result = session.get_one(Result, result_id)
    run = session.get_one(Run, casts.run_of(session, result.cast_id))
    return correcting.add(session, judged, run, kind, word, account_id)
