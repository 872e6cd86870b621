"""Runs: what is queued, what is going on and what came out."""

from __future__ import annotations

import json
import re
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from sqlalchemy import cast, delete, func, select
from sqlalchemy.dialects.postgresql import JSONPATH
from sqlalchemy.orm import Session

from lantern.core.data.choosing import choose_rows
from lantern.core.engine.browsers import BROWSERS, REMOTE, USUAL, browser_named, engine_of
from lantern.core.plans.going import Phase
from lantern.core.plans.model import Plan
from lantern.core.plans.sharing import RUN_AHEAD
from lantern.core.problems import BadInput, Missing, UnknownName
from lantern.core.runs.life import RUN_OVER, CancelAsked
from lantern.core.steps.model import Document
from lantern.store import calls, casts, elements, files, preferences, sharing, tables, tests
from lantern.store.database import tell
from lantern.store.models import Cast, Environment, Result, Run, Sighting, Test
from lantern.store.rows import unpacked

Kind = Literal["try", "run"]
LONGEST_SEED = 40
NOTHING: Mapping[str, str] = {}
MOST_CASTS = 20_000
_FAILED_OF = re.compile(r"failed of (\d+)")


class NothingLeft(BadInput):
    """All that a run would play is taken out of the plan."""


@dataclass(frozen=True)
class Within:
    """What a run has from the run of a plan that it is a part of."""

    plan_run: int
    share: int
    plan: Plan
    phase: Phase = "main"
    place: int = 0
    only: frozenset[str] | None = None
    """The cells (`cell_of`) that are played, None for all."""

    def plays(self, run: Run, values: Mapping[str, str], browser: str) -> bool:
        """Tell whether a row is played in a browser, in a run of a test."""
        if self.phase != "main":
            return True
        wanted = self.only is None or cell_of(run, values, browser) in self.only
        return wanted and not self.plan.leaves_out(run.test_id or 0, browser)


def cell_of(run: Run, values: Mapping[str, str], browser: str) -> str:
    """Return what tells a row in a browser from those of other tests and environments."""
    return json.dumps([run.test_id, run.environment_id, browser, sorted(values.items())])


def create(
    session: Session,
    test: Test,
    kind: Kind,
    choice: str,
    account_id: int | None,
    environment_id: int | None = None,
    seed: str = "",
    version: int | None = None,
    browsers: Sequence[str] = (),
    variables: Mapping[str, str] = NOTHING,
    within: Within | None = None,
) -> Run:
    """Create a run of the chosen rows, as the test is now or was in a version, and queue it.

    `within` tells of which run of a plan it is a part; that has its casts offered then. `variables`
    stand in for those of the environment. Raises UnknownName for one that it does not have.

    It falls into casts: each row in each of the `browsers`, or in the one that the row names. With
    the `seed` of an earlier run the same values are made up again. Only the newest try per
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
    asked = {browser_named(name) for name in browsers}
    listed = [name for name, browser in BROWSERS.items() if browser in asked]
    browsers = listed + sorted(one.engine for one in asked if one.engine.startswith(REMOTE))
    project = preferences.get(session)
    if within:
        project = replace(
            project,
            before=within.plan.before_row or project.before,
            after=within.plan.after_row or project.after,
        )
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
                Run.state.in_(RUN_OVER),
                # What a defect was seen in stays, even from a try.
                Run.id.not_in(
                    select(Cast.run_id).join(Result).join(Sighting, Sighting.result_id == Result.id)
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
        variables=_variables(environment, variables),
        flows={
            key: {"name": flow.name, "body": flow.document.as_json()}
            for key, flow in called.items()
        },
        account_id=account_id,
        again=document.settings.on_interrupted == "play again",
        needs=sorted({*document.needs, *(within.plan.needs if within else ())}),
        share_id=within.share if within else _share(session, kind),
    )
    if within:
        run.plan_run_id, run.phase, run.place = within.plan_run, within.phase, within.place
        run.retries = within.plan.retries if within.phase == "main" else 0
        run.fragile = within.plan.on_failure == "stop the test"
    for place in places or [-1]:
        values = dict(document.rows[place].values) if place >= 0 else {}
        for name in browsers_of(document, values, browsers):
            if within and not within.plays(run, values, name):
                continue
            run.casts.append(
                Cast(
                    position=len(run.casts),
                    number=place + 1,
                    values=values,
                    browser=name,
                    engine=engine_of(name),
                )
            )
    if len(run.casts) > MOST_CASTS:
        raise BadInput(
            f"That is {len(run.casts):,} rows and browsers; a run has at most {MOST_CASTS:,}.",
            where="rows",
            hint="Run a part of the rows, or fewer browsers, at a time.",
        )
    if not run.casts:
        raise NothingLeft(f"Nothing of “{test.name}” is left to play.", where=test.name)
    session.add(run)
    session.flush()
    casts.happen(session, run.id)
    tell(session, "run", id=run.id)
    return run


def _variables(environment: Environment, instead: Mapping[str, str]) -> dict[str, str]:
    """Return the variables of an environment with some others instead; raises UnknownName."""
    for name in instead:
        if name not in environment.variables:
            raise UnknownName("variable", name, environment.variables, where=environment.name)
    return {**environment.variables, **instead}


def _share(session: Session, kind: Kind) -> int:
    """Return which share of the stations a run has that is not part of a plan."""
    if kind == "try":
        return sharing.tries(session).id
    return sharing.new(session, ahead=RUN_AHEAD).id


def browsers_of(
    document: Document, values: Mapping[str, str], asked: Sequence[str]
) -> Sequence[str]:
    """Return what a row is played in: what its own column says, else what the run was asked for."""
    columns = [name for name in document.columns if document.trait(name).role == "browser"]
    own = values.get(columns[0], "").strip() if columns else ""
    return [own] if own else asked or [USUAL]


def chosen_places(session: Session, document: Document, choice: str) -> list[int]:
    """Return the places (from 0) of the rows that a choice names; raises BadInput or Missing.

    Beside what core.data.choosing knows, "failed of 12" means the rows that failed in run 12, by
    their values: rows may have moved since.
    """
    earlier = _FAILED_OF.fullmatch(choice.strip().lower())
    if not earlier:
        return choose_rows(document.rows, choice)
    run = get(session, int(earlier[1]))
    failed = [dict(row.values) for row in run.casts if row.outcome in ("failed", "interrupted")]
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


def sentences(session: Session, run_id: int) -> list[str]:
    """Return the ids of a run's own steps, in their order, without reading the rest of it."""
    ids = func.jsonb_path_query_array(Run.body, cast("$.steps[*].id", JSONPATH))
    return list(session.scalar(select(ids).filter(Run.id == run_id)) or ())


def ask_cancel(session: Session, run_id: int) -> Run:
    """Ask for a run to stop; what has not begun is cancelled at once. Raises Missing."""
    casts.happen(session, run_id, CancelAsked())
    return get(session, run_id)
