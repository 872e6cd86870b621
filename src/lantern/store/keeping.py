"""How long things are kept: what there is, what rules would free, and freeing it bit by bit.

Everything is freed in small transactions, each of which checks anew what it frees: nobody waits
long for a lock, what is needed again meanwhile stays, and what an ended process has left undone is
done by the next.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, and_, cast, delete, exists, func, or_, select, text, update
from sqlalchemy.dialects.postgresql import JSONB, insert
from sqlalchemy.orm import Session

from lantern.core.keeping import Rules, RunFact, kind_of, runs_to_free, versions_to_free
from lantern.core.problems import Missing
from lantern.core.runs.life import RUN_OVER
from lantern.store import commenting, queue, unneeded
from lantern.store.database import Database, tell
from lantern.store.models import (
    Act,
    Cast,
    Preference,
    Result,
    Run,
    SavedPage,
    Sighting,
    Test,
    Version,
)

RULES, TIDIED = "keeping", "tidied"
AT_ONCE = 20
"""Runs that one transaction deletes."""
MANY = 500
"""Other things that one transaction deletes."""
JOBS_STAY = timedelta(days=7)
"""For how long the queue remembers what is over."""
FRESH = timedelta(days=1)
"""How long a picture stays that nothing shows: what shows it may still be written."""
ALONE = 0x4C54_4944
"""The key of the advisory lock of whoever tidies."""


def rules(session: Session) -> Rules:
    """Return how long things are kept."""
    row = session.get(Preference, RULES)
    return Rules.read(row.value) if row else Rules()


def put_rules(session: Session, wanted: Rules) -> None:
    """Set how long things are kept."""
    _put(session, RULES, wanted.as_json())
    tell(session, "project")


def tidied(session: Session) -> dict[str, Any]:
    """Return what was freed the last time, by kind, and `at` when; empty before that."""
    row = session.get(Preference, TIDIED)
    return dict(row.value) if row else {}


def _put(session: Session, name: str, value: dict[str, Any]) -> None:
    query = insert(Preference).values(name=name, value=value)
    session.execute(query.on_conflict_do_update(index_elements=["name"], set_={"value": value}))


# -- what is needed ------------------------------------------------------------------------------


def _shown_by_defect() -> ColumnElement[bool]:
    return exists().where(
        Cast.run_id == Run.id, Result.cast_id == Cast.id, Sighting.result_id == Result.id
    )


def _of_baseline() -> ColumnElement[bool]:
    return exists().where(
        Test.id == Run.test_id, Test.baseline == Run.test_version, Run.state == "passed"
    )


def _held() -> ColumnElement[bool]:
    """Return which runs somebody or something needs."""
    return or_(Run.pinned, _of_baseline(), _shown_by_defect())


def runs_known(session: Session) -> list[RunFact]:
    """Return all runs that are over, with whether something needs them."""
    at = func.coalesce(Run.ended_at, Run.queued_at)
    query = select(Run.id, Run.test_id, Run.kind, Run.state, at, _held()).filter(
        Run.state.in_(RUN_OVER)
    )
    return [
        RunFact(key, test, kind_of(kind, state), ended, needed)
        for key, test, kind, state, ended, needed in session.execute(query)
    ]


def _versions(session: Session, wanted: Rules, now: datetime) -> dict[int, list[int]]:
    """Return by test which versions are thinned out."""
    if not wanted.versions:
        return {}
    held: dict[int, set[int]] = {}
    for key, version, baseline, table in session.execute(
        select(Test.id, Test.version, Test.baseline, Test.table_version)
    ):
        held[key] = {version, table} | ({baseline} if baseline else set())
    found: dict[int, list[tuple[int, datetime]]] = {}
    for key, number, at in session.execute(select(Version.test_id, Version.number, Version.at)):
        found.setdefault(key, []).append((number, at))
    freed = {
        key: versions_to_free(every, held.get(key, set()), wanted, now)
        for key, every in found.items()
    }
    return {key: numbers for key, numbers in freed.items() if numbers}


def _old_pictures(days: int, now: datetime) -> ColumnElement[bool]:
    """Return which results have a picture that goes: of passed rows that nothing holds."""
    return and_(
        Result.picture != "",
        Result.at < now - timedelta(days=days),
        exists().where(Cast.id == Result.cast_id, Cast.outcome == "passed", Run.id == Cast.run_id,
                       ~Run.pinned, ~_of_baseline()),
        ~exists().where(Sighting.result_id == Result.id),
    )  # fmt: skip


def _old_pages(days: int, now: datetime) -> ColumnElement[bool]:
    """Return which saved pages go: not the newest of each title, nor of a run that is held."""
    newest = select(func.max(SavedPage.id)).group_by(SavedPage.page)
    return and_(
        SavedPage.at < now - timedelta(days=days),
        SavedPage.id.not_in(newest),
        ~exists().where(Run.id == SavedPage.run_id, _held()),
    )


# -- what there is, and what would go --------------------------------------------------------------


@dataclass(frozen=True)
class Holding:
    """How much there is of a kind, in bytes where that is known, and how much rules would free."""

    kind: str
    count: int
    size: int
    frees: int


_SIZES = text(
    "SELECT relname, pg_total_relation_size(relid) FROM pg_stat_user_tables "
    "WHERE relname IN ('results', 'casts', 'runs', 'pictures', 'saved_pages', 'versions')"
)


def holdings(session: Session, wanted: Rules) -> list[Holding]:
    """Return what there is of each kind and what rules would free now."""
    now = datetime.now(UTC)
    known = runs_known(session)
    freed = runs_to_free(known, wanted, now)
    sizes = {name: int(size) for name, size in session.execute(_SIZES)}
    of_runs = sum(sizes.get(name, 0) for name in ("results", "casts", "runs"))
    found = []
    for kind in ("tries", "passed", "failed"):
        count = sum(run.kind == kind for run in known)
        share = of_runs * count // max(1, len(known))
        found.append(Holding(kind, count, share, sum(run.kind == kind for run in freed)))
    pictured = select(func.count()).select_from(Result)
    passed = exists().where(Cast.id == Result.cast_id, Cast.outcome == "passed")
    pictures = _count(session, pictured.filter(Result.picture != "", passed))
    old = wanted.pictures and _count(session, pictured.filter(_old_pictures(wanted.pictures, now)))
    found.append(Holding("pictures", pictures, sizes.get("pictures", 0), old))
    paged = select(func.count()).select_from(SavedPage)
    pages = wanted.pages and _count(session, paged.filter(_old_pages(wanted.pages, now)))
    found.append(Holding("pages", _count(session, paged), sizes.get("saved_pages", 0), pages))
    versions = _count(session, select(func.count()).select_from(Version))
    thinned = sum(map(len, _versions(session, wanted, now).values()))
    found.append(Holding("versions", versions, sizes.get("versions", 0), thinned))
    return found


def _count(session: Session, query: Any) -> int:  # noqa: ANN401 - a query of one number
    return session.scalar(query) or 0


# -- freeing ---------------------------------------------------------------------------------------


def tidy(database: Database, stop: unneeded.Stop = lambda: False) -> dict[str, int]:
    """Free what the rules do not keep, and what nothing needs; returns how much of each kind.

    Ends early when it is to `stop`: what is left is freed the next time. While another process
    does it, nothing is done and nothing returned.
    """
    with database.engine.connect() as alone:  # the lock goes with the connection, however it ends
        if not alone.scalar(text("SELECT pg_try_advisory_lock(:key)"), {"key": ALONE}):
            return {}
        try:
            return _tidy(database, stop)
        finally:
            alone.execute(text("SELECT pg_advisory_unlock(:key)"), {"key": ALONE})


@dataclass(frozen=True)
class _Work:
    """What freeing works with: the rules, as of when, and whether it is to end."""

    database: Database
    rules: Rules
    now: datetime
    stop: unneeded.Stop


def _tidy(database: Database, stop: unneeded.Stop) -> dict[str, int]:
    with database.session() as session:
        wanted, now = rules(session), datetime.now(UTC)
        runs = [run.id for run in runs_to_free(runs_known(session), wanted, now)]
        versions = _versions(session, wanted, now)
    work = _Work(database, wanted, now, stop)
    freed = {
        "runs": sum(_free_runs(work, runs)),
        "pictures": sum(_drop_pictures(work)),
        "pages": sum(_free_pages(work)),
        "versions": sum(_thin(work, versions)),
        "files": sum(unneeded.free(database, unneeded.PICTURES, now - FRESH, stop)),
        "rows": sum(unneeded.free(database, unneeded.CHUNKS, now, stop)),
    }
    _forget_jobs(work)
    with database.session() as session:
        commenting.forget_gone(session)
    with database.session() as session:
        _put(session, TIDIED, {"at": now.isoformat(), **freed})
        tell(session, "project")
    return freed


def _forget_jobs(work: _Work) -> None:
    """Let the queue forget what it did: whatever came of it stands with the runs."""
    forgotten = MANY
    while forgotten == MANY and not work.stop():
        with work.database.session() as session:
            forgotten = queue.forget_done(session, work.now - JOBS_STAY, MANY)


def _free_runs(work: _Work, ids: Sequence[int]) -> Iterator[int]:
    for part in unneeded.parts(ids, AT_ONCE, work.stop):
        with work.database.session() as session:
            locked = select(Run.id).filter(Run.id.in_(part), Run.state.in_(RUN_OVER))
            there = list(session.scalars(locked.with_for_update(skip_locked=True)))
            # Somebody may have pinned one, or raised a defect from it, a moment ago.
            needed = set(session.scalars(select(Run.id).filter(Run.id.in_(there), _held())))
            gone = [key for key in there if key not in needed]
            session.execute(delete(Run).filter(Run.id.in_(gone)))
            yield len(gone)


def _drop_pictures(work: _Work) -> Iterator[int]:
    while work.rules.pictures and not work.stop():
        with work.database.session() as session:
            some = (
                select(Result.id).filter(_old_pictures(work.rules.pictures, work.now)).limit(MANY)
            )
            ids = list(session.scalars(some.with_for_update(skip_locked=True, of=Result)))
            told = Result.details.op("||")(cast({"freed": True}, JSONB))
            freed = update(Result).filter(Result.id.in_(ids)).values(picture="", details=told)
            session.execute(freed.execution_options(synchronize_session=False))
        if not ids:
            return
        yield len(ids)


def _free_pages(work: _Work) -> Iterator[int]:
    while work.rules.pages and not work.stop():
        with work.database.session() as session:
            some = select(SavedPage.id).filter(_old_pages(work.rules.pages, work.now)).limit(MANY)
            ids = list(session.scalars(some.with_for_update(skip_locked=True, of=SavedPage)))
            session.execute(delete(SavedPage).filter(SavedPage.id.in_(ids)))
        if not ids:
            return
        yield len(ids)


def _thin(work: _Work, versions: dict[int, list[int]]) -> Iterator[int]:
    """Thin out versions, and with them what could be taken back of that time.

    Undo compares a version with the one before it: where that is gone it would take back more
    than was done.
    """
    for key, numbers in versions.items():
        if work.stop():
            return
        with work.database.session() as session:
            test = session.get(Test, key, with_for_update={"of": Test})
            if test is None:
                continue
            held = {test.version, test.table_version, test.baseline}
            gone = [number for number in numbers if number not in held]
            old = work.now - timedelta(days=work.rules.versions)
            session.execute(delete(Act).filter(Act.place == key, Act.at < old))
            among = select(Version.act_id).filter(Version.test_id == key, Version.at < old)
            session.execute(delete(Act).filter(Act.id.in_(among)))
            session.execute(
                delete(Version).filter(Version.test_id == key, Version.number.in_(gone))
            )
            yield len(gone)


def pin(session: Session, run_id: int, *, pinned: bool) -> Run:
    """Keep a run for good, or no longer; raises Missing."""
    run = session.get(Run, run_id, with_for_update={"of": Run})
    if run is None:
        raise Missing(f"There is no run {run_id}.", where=str(run_id))
    run.pinned = pinned
    tell(session, "run", id=run.id)
    return run
