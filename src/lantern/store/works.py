"""Casts as stations are given them, and what a station says of their end."""

from __future__ import annotations

from sqlalchemy.orm import Session, undefer, undefer_group

from lantern.core.runs.life import Ended, Lost
from lantern.core.runs.work import Work
from lantern.store import casts
from lantern.store.models import Cast, Run
from lantern.store.vault import KeyLost, Vault

WATCHED = 2
"""Casts of a run in which what checks saw is kept: two rows show what depends on the inputs."""


def take(session: Session, vault: Vault, cast_id: int, job: int, station_id: str) -> Work | None:
    """Take a cast for a station, with what playing it needs; None when it is not to be had."""
    taken = casts.take(session, cast_id, job, station_id)
    return _work(session, vault, *taken, job) if taken else None


def again(session: Session, vault: Vault, cast_id: int) -> Work | None:
    """Return what was given out already, for a station that did not get it; None for none."""
    cast = session.get(Cast, cast_id)
    if cast is None or not cast.token:
        return None
    whole = (undefer(Run.body), undefer_group("content"))
    run = session.get_one(Run, cast.run_id, options=whole, populate_existing=True)
    return _work(session, vault, run, cast, cast.job)


def _work(session: Session, vault: Vault, run: Run, cast: Cast, job: int) -> Work:
    secrets, trouble = {}, ""
    try:
        secrets = vault.values(session, run.environment_id)
    except KeyLost as error:
        trouble = error.message
    return Work(
        cast=cast.id,
        token=cast.token,
        job=job,
        run=run.id,
        number=cast.number,
        browser=cast.browser,
        values=dict(cast.values),
        kind=run.kind,
        address=run.address,
        body=run.body,
        elements=run.elements,
        flows=run.flows,
        files=run.files,
        variables=run.variables,
        secrets=secrets,
        seed=run.seed,
        day=run.queued_at.date(),
        first=cast.position == 0,
        watched=cast.position < WATCHED,
        test=run.test_id,
        account=run.account_id,
        plan_run=run.plan_run_id,
        trouble=trouble,
    )


def over(session: Session, run_id: int, ended: Ended | Lost, release: str) -> None:
    """Let the end of a cast happen, with the application's release; raises TooLate."""
    casts.happen(session, run_id, ended)
    if release:
        session.get_one(Run, run_id).release = release
