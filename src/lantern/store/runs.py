"""Runs: what is queued, what is going on and what came out."""

from __future__ import annotations

import re
import secrets
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any, Literal

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from lantern.core.data.choosing import choose_rows
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import BadInput, Missing
from lantern.core.steps.model import Document
from lantern.core.values.templates import masked
from lantern.store import calls, elements, files, preferences, tables, tests
from lantern.store.database import tell
from lantern.store.models import Environment, Result, Run, RunRow, Sighting, Test
from lantern.store.rows import unpacked

Kind = Literal["try", "run"]
LONGEST_SEED = 40
_FAILED_OF = re.compile(r"failed of (\d+)")
OVER = ("passed", "failed", "interrupted", "cancelled")


def create(
    session: Session,
    test: Test,
    kind: Kind,
    choice: str,
    account_id: int | None,
    environment_id: int | None = None,
    seed: str = "",
    version: int | None = None,
) -> Run:
    """Create a run of the chosen rows, as the test is now or was in a version; queue it then.

    With the `seed` of an earlier run the same values are made up again. Only the newest try per
    test and author is kept. Raises BadInput when there is nothing to run or the choice names no
    row, Missing when the environment is gone.
    """
    document = unpacked(test)
    if version is not None:
        document = tests.document_of(session, test.id, version)
    document = tables.filled(session, document)
    if not document.steps:
        raise BadInput("The test has no sentences yet.", hint="Record something first.")
    environment = session.get(Environment, environment_id or test.environment_id)
    if environment is None:
        raise Missing("That environment does not exist.", where="environment")
    places = chosen_places(session, document, choice)
    project = preferences.get(session)
    document = replace(document, settings=document.settings.within(project.settings))
    if test.kind == "test":
        document = preferences.surrounded(document, project)
    called = calls.load(session, document.flow_ids())
    known = elements.load(session, calls.element_ids(document, called))
    if kind == "try":
        session.execute(
            delete(Run).filter(
                Run.kind == "try",
                Run.test_id == test.id,
                Run.account_id == account_id,
                Run.state.in_(OVER),
                # What a defect was seen in stays, even from a try.
                Run.id.not_in(
                    select(RunRow.run_id)
                    .join(Result)
                    .join(Sighting, Sighting.result_id == Result.id)
                ),
            )
        )
    run = Run(
        kind=kind,
        state="queued",
        test_id=test.id,
        test_name=test.name,
        test_version=version or test.version,
        environment_name=environment.name,
        environment_id=environment.id,
        address=environment.address,
        body=replace(document, rows=()).as_json(),
        elements={key: element.as_json() for key, element in known.items()},
        files=files.digests(session, test.id),
        choice=choice,
        seed=seed.strip()[:LONGEST_SEED] or secrets.token_hex(4),
        variables=dict(environment.variables),
        flows={
            key: {"name": flow.name, "body": flow.document.as_json()}
            for key, flow in called.items()
        },
        account_id=account_id,
    )
    for position, place in enumerate(places or [-1]):
        values = dict(document.rows[place].values) if place >= 0 else {}
        run.rows.append(RunRow(position=position, number=place + 1, values=values))
    session.add(run)
    session.flush()
    tell(session, "run", id=run.id)
    return run


def chosen_places(session: Session, document: Document, choice: str) -> list[int]:
    """Return the places (from 0) of the rows that a choice names; raises BadInput or Missing.

    Beside what core.data.choosing knows, "failed of 12" means the rows that failed in run 12, by
    their values: rows may have moved since.
    """
    earlier = _FAILED_OF.fullmatch(choice.strip().lower())
    if not earlier:
        return choose_rows(document.rows, choice)
    run = get(session, int(earlier[1]))
    failed = [dict(row.values) for row in run.rows if row.outcome in ("failed", "interrupted")]
    found = [place for place, row in enumerate(document.rows) if dict(row.values) in failed]
    if document.rows and not found:
        raise BadInput(
            f"No row that failed in run {run.id} is in the table as it was then.", where="rows"
        )
    return found


def get(session: Session, run_id: int) -> Run:
    """Return a run; raises Missing."""
    run = session.get(Run, run_id)
    if run is None:
        raise Missing(f"There is no run {run_id}.", where=str(run_id))
    return run


def claim(session: Session, run_id: int, station_id: str, browser: str) -> Run | None:
    """Take a queued run for a station; None when it is not waiting any more."""
    run = session.scalar(select(Run).filter_by(id=run_id).with_for_update(of=Run))
    if run is None or run.state != "queued":
        return None
    if run.cancel_asked:
        finish(session, run, "cancelled")
        return None
    run.state, run.station_id, run.browser = "running", station_id, browser
    run.started_at = datetime.now(UTC)
    tell(session, "run", id=run.id)
    return run


def start_row(session: Session, run_id: int, row_id: int) -> None:
    """Take note that a row has begun."""
    session.execute(
        update(RunRow).filter_by(id=row_id).values(outcome="running", started_at=datetime.now(UTC))
    )
    tell(session, "run", id=run_id)


def set_current(session: Session, run_id: int, row_id: int, sentence: str, step: str) -> None:
    """Take note of the sentence that a row is at, and of its step."""
    session.execute(
        update(RunRow).filter_by(id=row_id).values(current=sentence, current_step=step[:32])
    )
    tell(session, "run", id=run_id)


def keep_result(
    session: Session,
    run_id: int,
    row_id: int,
    result: StepResult,
    console: Sequence[str],
    requests: Sequence[str],
    hidden: dict[str, str],
) -> int:
    """Keep how a step ended; returns the result's id. `hidden` is masked in the noise."""
    details: dict[str, Any] = {
        "files": list(result.files),
        "within": list(result.within),
        "attempts": result.attempts,
        "lookups": list(result.lookups),
        "box": vars(result.box) if result.box else None,
        "console": [masked(text, hidden) for text in console],
        "requests": [masked(text, hidden) for text in requests],
    }
    row = Result(
        row_id=row_id,
        position=result.position,
        step_id=result.step_id,
        sentence=result.sentence,
        outcome=result.outcome,
        reason=result.reason,
        message=result.message,
        hint=result.hint,
        expected=result.expected,
        found=result.found,
        used=result.used,
        limit=result.limit,
        picture=result.picture,
        details=details,
    )
    session.add(row)
    session.flush()
    if result.kept:
        kept = RunRow.kept.concat(dict(result.kept))
        session.execute(update(RunRow).filter_by(id=row_id).values(kept=kept))
    tell(session, "run", id=run_id, row=row_id)
    return row.id


def end_row(session: Session, run_id: int, row_id: int, outcome: str) -> None:
    """Take note of how a row ended."""
    session.execute(
        update(RunRow)
        .filter_by(id=row_id)
        .values(outcome=outcome, current="", current_step="", ended_at=datetime.now(UTC))
    )
    tell(session, "run", id=run_id)


def finish(session: Session, run: Run, state: str, message: str = "") -> None:
    """End a run; rows that did not begin end as skipped, one under way as the run does."""
    run.state, run.message, run.ended_at = state, message, datetime.now(UTC)
    for waiting, ends in (("waiting", "skipped"), ("running", state)):
        session.execute(
            update(RunRow)
            .filter(RunRow.run_id == run.id, RunRow.outcome == waiting)
            .values(outcome=ends, current="")
        )
    tell(session, "run", id=run.id)


def ask_cancel(session: Session, run_id: int) -> Run:
    """Ask for a run to stop; one that is still queued is cancelled at once."""
    run = session.scalar(select(Run).filter_by(id=run_id).with_for_update(of=Run))
    if run is None:
        raise Missing(f"There is no run {run_id}.", where=str(run_id))
    if run.state == "queued":
        finish(session, run, "cancelled", "Cancelled before it began.")
    elif run.state == "running":
        run.cancel_asked = True
        tell(session, "cancel", id=run.id)
    return run


def cancel_asked(session: Session, run_id: int) -> bool:
    """Tell whether someone asked for the run to stop."""
    return bool(session.scalar(select(Run.cancel_asked).filter_by(id=run_id)))


def counts(session: Session, run_ids: Sequence[int]) -> dict[int, dict[str, int]]:
    """Return for each run how many of its rows ended in each outcome."""
    query = (
        select(RunRow.run_id, RunRow.outcome, func.count())
        .filter(RunRow.run_id.in_(run_ids))
        .group_by(RunRow.run_id, RunRow.outcome)
    )
    found: dict[int, dict[str, int]] = {run_id: {} for run_id in run_ids}
    for run_id, outcome, count in session.execute(query):
        found[run_id][outcome] = count
    return found


def results(session: Session, row_id: int) -> Sequence[Result]:
    """Return the results of a row in the order of the steps."""
    return session.scalars(
        select(Result).filter_by(row_id=row_id).order_by(Result.position, Result.id)
    ).all()
