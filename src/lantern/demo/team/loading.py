"""Loading the sample project with its sixty days, where there is none yet."""

from __future__ import annotations

from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.demo.data import ENVIRONMENT
from lantern.demo.team.history import load_history
from lantern.demo.team.project import NEXT, NIGHTLY, load_project
from lantern.demo.team.talk import load_talk
from lantern.demo.tracker import track_at
from lantern.store import plan_runs, plans
from lantern.store.database import Database
from lantern.store.models import Environment
from lantern.store.vault import Vault


def load_team(session: Session, vault: Vault, sample: str, ahead: str, slate: str) -> bool:
    """Load the sample project, or only where things answer now; returns whether it was new.

    `sample` and `ahead` are the addresses of the desk and of its next release, `slate` that of the
    tracker.
    """
    here = session.scalar(select(Environment).filter_by(name=ENVIRONMENT))
    track_at(session, vault, slate)
    if here is not None:
        here.address = sample
        coming = session.scalar(select(Environment).filter_by(name=NEXT))
        if coming is not None:
            coming.address = ahead
        return False
    project = load_project(session, vault, sample, ahead)
    today = date.today()
    load_history(session, project, sample, today)
    load_talk(session, project, today)
    return True


def play_tonight(database: Database) -> None:
    """Play all of it once more, so that the newest results are of now."""
    with database.session() as session:
        plan_runs.start(session, plans.named(session, NIGHTLY).id, None)
