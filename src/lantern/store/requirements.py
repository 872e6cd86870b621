"""Requirements of the project: how they are named, and what covers them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.core.review.requirements import Covering, Requirement, Scheme, matrix, releases_of
from lantern.store import models, tables
from lantern.store.database import tell
from lantern.store.models import Cast, Preference, Run, Test
from lantern.store.rows import unpacked

NAME = "requirements"


def scheme(session: Session) -> Scheme:
    """Return how requirements are named in this project."""
    row = session.get(Preference, NAME)
    return Scheme(**row.value) if row else Scheme()


def put_scheme(session: Session, wanted: Scheme) -> None:
    """Set how requirements are named, and which there are; raises BadInput for what can not be."""
    wanted.check()
    value = {
        "form": wanted.form,
        "column": wanted.column.strip(),
        "address": wanted.address.strip(),
        "known": dict(wanted.known),
    }
    query = insert(models.Preference).values(name=NAME, value=value)
    session.execute(query.on_conflict_do_update(index_elements=["name"], set_={"value": value}))
    tell(session, "project")


def all_of(session: Session) -> tuple[Scheme, list[Requirement], list[str], dict[int, str]]:
    """Return how they are named, all requirements, the releases, and names of the tests."""
    named = scheme(session)
    tests = session.scalars(select(Test).filter(Test.kind == "test")).all()
    rows = [row for test in tests for row in _covering(session, named, test)]
    found = matrix(named, rows)
    first = func.min(Run.queued_at)
    seen: dict[str, datetime] = {
        row[0]: row[1]
        for row in session.execute(
            select(Run.release, first).filter(Run.kind == "run").group_by(Run.release)
        )
    }
    return named, found, releases_of(found, seen), {test.id: test.name for test in tests}


def _covering(session: Session, named: Scheme, test: Test) -> Iterator[Covering]:
    document = tables.filled(session, unpacked(test))
    whole = named.named_by(document.labels)
    has_column = any(name.lower() == named.column.lower() for name in document.columns)
    if not whole and not has_column:
        return
    for row in document.rows or ():
        if own := named.named_in(row.values):
            yield Covering(test.id, own)
    if whole:
        yield Covering(test.id, whole)
    newest = (
        select(Cast.values, Run.release, func.max(Cast.id).label("cast"))
        .join(Run, Run.id == Cast.run_id)
        .filter(
            Run.test_id == test.id,
            Run.kind == "run",
            Cast.outcome.not_in(["waiting", "running", "skipped"]),
        )
        .group_by(Cast.values, Run.release, Cast.browser)
        .subquery()
    )
    query = select(Cast, Run.release).join(Run, Run.id == Cast.run_id)
    for cast, release in session.execute(query.filter(Cast.id.in_(select(newest.c.cast)))):
        ids = tuple(dict.fromkeys((*whole, *named.named_in(cast.values))))
        if ids:
            yield Covering(test.id, ids, release, cast.outcome, cast.run_id, cast.ended_at)


def of_casts(session: Session, seen: Iterable[tuple[Run, Cast]]) -> list[str]:
    """Return which requirements rows of runs cover, each once, as tests are labelled now."""
    named = scheme(session)
    pairs = list(seen)
    ids = {run.test_id for run, _ in pairs if run.test_id is not None}
    labels = {
        test.id: unpacked(test).labels
        for test in session.scalars(select(Test).filter(Test.id.in_(ids)))
    }
    found = dict.fromkeys(
        one
        for run, cast in pairs
        for one in (*named.named_by(labels.get(run.test_id or 0, ())), *named.named_in(cast.values))
    )
    return list(found)
