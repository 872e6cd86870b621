"""Defects and where they were seen."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Missing, UnknownName, check_version
from lantern.core.review.defects import PRIORITIES, SEVERITIES, STATES, Failure, fingerprint
from lantern.store import handing, requirements, runs, tables, tests
from lantern.store.database import tell
from lantern.store.models import Account, Cast, Defect, DefectChange, Result, Run, Sighting
from lantern.store.rows import unpacked


def failure_of(session: Session, result_id: int) -> tuple[Failure, Result, Run]:
    """Return what is known of a failed step; raises Missing, or BadInput if it did not fail."""
    result = session.get(Result, result_id)
    if result is None:
        raise Missing("That result does not exist any more.", where=str(result_id))
    if result.outcome != "failed":
        raise BadInput("A defect is raised from a step that failed.", where=str(result_id))
    query = select(Run).join(Cast).filter(Cast.id == result.cast_id)
    # Held: what a defect shows is not tidied away while the defect is being raised.
    run = session.scalar(query.with_for_update(read=True, key_share=True, of=Run))
    if run is None:
        raise Missing("The run of that result does not exist any more.")
    before = session.scalars(
        select(Result.sentence)
        .filter(
            Result.cast_id == result.cast_id,
            Result.taking == result.taking,
            Result.position < result.position,
            Result.outcome != "skipped",
        )
        .order_by(Result.position)
    ).all()
    failure = Failure(
        test=str(run.test_id or run.test_name),
        step_id=result.step_id,
        sentence=result.sentence,
        reason=result.reason,
        message=result.message,
        expected=result.expected,
        found=result.found,
        before=before,
    )
    return failure, result, run


def same_as(session: Session, failure: Failure) -> Sequence[Defect]:
    """Return the defects that were raised for the same failure, those not closed first."""
    found = session.scalars(
        select(Defect).filter_by(fingerprint=fingerprint(failure)).order_by(Defect.id.desc())
    ).all()
    return sorted(found, key=lambda defect: defect.state == "closed")


def check_severity(severity: str) -> str:
    """Return the severity; raises UnknownName."""
    if severity not in SEVERITIES:
        raise UnknownName("severity", severity, SEVERITIES)
    return severity


def see(session: Session, defect: Defect, *result_ids: int) -> None:
    """Take note that a defect was seen in results; a fixed or closed one is open again.

    Results that are gone, or did not fail, are passed over.
    """
    failed = select(Result.id).filter(Result.id.in_(result_ids), Result.outcome == "failed")
    rows = [{"defect_id": defect.id, "result_id": key} for key in session.scalars(failed)]
    if rows:
        session.execute(insert(Sighting).values(rows).on_conflict_do_nothing())
    if defect.state in ("fixed", "closed"):
        note(session, defect, "state", defect.state, "open", None)
        defect.state = "open"
        defect.version += 1
        handing.changed(session, defect.id)
    defect.changed_at = datetime.now(UTC)
    tell(session, "defect", id=defect.id)


def note(
    session: Session, defect: Defect, what: str, before: str, after: str, account: int | None
) -> None:
    """Put a change into the history of a defect; `account` is None where seeing it did it."""
    if before != after:
        session.add(
            DefectChange(
                defect_id=defect.id, what=what, before=before, after=after, account_id=account
            )
        )


def _checked(session: Session, fields: Mapping[str, str | int | None]) -> None:
    """Raise UnknownName for a severity, priority or state that is none, Missing for an owner."""
    for name, known in (("severity", SEVERITIES), ("priority", PRIORITIES), ("state", STATES)):
        if name in fields and fields[name] not in known:
            raise UnknownName(name, str(fields[name]), known)
    owner = fields.get("owner_id")
    if owner is not None:
        account = session.get(Account, owner)
        if account is None or account.gone:
            raise Missing("That person does not work here any more.", where="owner")


def change(
    session: Session,
    defect_id: int,
    version: int,
    fields: Mapping[str, str | int | None],
    account: int | None = None,
) -> Defect:
    """Change a defect that was read as `version`; raises Conflict, Missing or UnknownName.

    What was changed, and by which account, is put into its history.
    """
    defect = session.scalar(select(Defect).filter_by(id=defect_id).with_for_update(of=Defect))
    if defect is None:
        raise Missing(f"There is no defect {defect_id}.", where=str(defect_id))
    check_version("The defect", defect.version, version)
    _checked(session, fields)
    for name, value in fields.items():
        before = getattr(defect, name)
        if name == "owner_id":
            was, now = _name(session, before), _name(session, value)
            note(session, defect, "owner", was, now, account)
        else:
            note(session, defect, name, str(before), str(value), account)
        setattr(defect, name, value)
    defect.version += 1
    defect.changed_at = datetime.now(UTC)
    handing.changed(session, defect.id)
    tell(session, "defect", id=defect.id)
    return defect


def _name(session: Session, account_id: object) -> str:
    account = session.get(Account, account_id) if account_id else None
    return account.name if account else ""


def history(session: Session, defect_id: int) -> Sequence[DefectChange]:
    """Return what was changed of a defect, oldest first."""
    query = select(DefectChange).filter_by(defect_id=defect_id).order_by(DefectChange.id)
    return session.scalars(query).all()


@dataclass(frozen=True)
class Passed:
    """A row in which a defect was seen, and that passed since: the run, and of which release."""

    run: int
    release: str


def passed_since(session: Session, defect: Defect) -> Passed | None:
    """Return the run in which all rows passed in which a defect had been seen; None for none.

    It was on another release than the defect was raised on, and after it was seen last: the defect
    asks to be closed then.
    """
    seen = sightings(session, defect.id)
    if not seen or defect.state == "closed":
        return None
    last = max(result.id for result, _ in seen)
    rows = {(run.test_id, _row(session, result)) for result, run in seen}
    since = session.execute(
        select(Cast, Run)
        .join(Run, Run.id == Cast.run_id)
        .filter(
            Run.test_id.in_({test for test, _ in rows}),
            Cast.outcome.in_(["passed", "unsteady", "failed"]),
            Run.release.not_in(["", defect.release]),
            Cast.id.in_(select(Result.cast_id).filter(Result.id > last)),
        )
        .order_by(Cast.id)
    )
    # The last time counts: what passed once and failed again asks for nothing.
    came = {(run.test_id, _key(cast.values)): (cast.outcome, run) for cast, run in since}
    if any(came.get(row, ("", None))[0] != "passed" for row in rows):
        return None
    newest = max((came[row][1] for row in rows), key=lambda run: run.id)
    return Passed(newest.id, newest.release)


def _key(values: Mapping[str, object]) -> str:
    return json.dumps(values, sort_keys=True, default=str)


def _row(session: Session, result: Result) -> str:
    return _key(session.get_one(Cast, result.cast_id).values)


def retest(session: Session, defect: Defect, account: int) -> list[int]:
    """Run the rows again in which a defect was seen; returns the runs.

    Raises BadInput where neither the tests nor the rows are there any more.
    """
    wanted: dict[int, set[str]] = {}
    for result, run in sightings(session, defect.id):
        if run.test_id is not None:
            wanted.setdefault(run.test_id, set()).add(_row(session, result))
    made = []
    for test_id, rows in wanted.items():
        test = tests.get(session, test_id)
        document = tables.filled(session, unpacked(test))
        places = [n for n, row in enumerate(document.rows, 1) if _key(row.values) in rows]
        if document.rows and not places:
            continue
        choice = ",".join(map(str, places)) or "all"
        made.append(runs.create(session, test, "run", choice, account).id)
    if not made:
        raise BadInput("None of the rows in which it was seen is there any more.", where="rows")
    return made


def sightings(session: Session, defect_id: int) -> Sequence[tuple[Result, Run]]:
    """Return the results in which a defect was seen, with their runs, newest first."""
    query = (
        select(Result, Run)
        .join(Sighting, Sighting.result_id == Result.id)
        .join(Cast, Cast.id == Result.cast_id)
        .join(Run, Run.id == Cast.run_id)
        .filter(Sighting.defect_id == defect_id)
        .order_by(Result.id.desc())
    )
    return [(result, run) for result, run in session.execute(query)]


def requirements_of(session: Session, defect: Defect) -> list[str]:
    """Return the requirements that the tests and rows cover in which a defect was seen."""
    seen = [
        (run, session.get_one(Cast, result.cast_id))
        for result, run in sightings(session, defect.id)
    ]
    return requirements.of_casts(session, seen)


def of_run(session: Session, run_id: int) -> Sequence[tuple[Defect, int]]:
    """Return the defects seen in a run, each with the id of the result it was seen in."""
    query = (
        select(Defect, Sighting.result_id)
        .join(Sighting, Sighting.defect_id == Defect.id)
        .join(Result, Result.id == Sighting.result_id)
        .join(Cast, Cast.id == Result.cast_id)
        .filter(Cast.run_id == run_id)
        .order_by(Defect.id)
    )
    return [(defect, result_id) for defect, result_id in session.execute(query)]
