"""What holds for the whole project: limits of tests, and flows played before and after each row."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput
from lantern.core.steps.model import Document, Settings, Step
from lantern.store import calls, models
from lantern.store.database import tell
from lantern.store.models import Preference

NAME = "tests"
REHEARSING = "rehearsing"
BEFORE, AFTER, AT_END = "project-before", "project-after", "project-end"
AROUND = frozenset((BEFORE, AFTER, AT_END))
"""Ids of the steps that a project adds to what is played."""


@dataclass(frozen=True)
class Preferences:
    """Limits that tests inherit; ids of flows that are played around each row, "" for none."""

    settings: Settings = Settings()
    before: str = ""
    after: str = ""


def get(session: Session) -> Preferences:
    """Return what holds for the project."""
    row = session.get(Preference, NAME)
    if row is None:
        return Preferences()
    value = row.value
    return Preferences(Settings.read(value["settings"]), value["before"], value["after"])


def put(session: Session, preferences: Preferences) -> None:
    """Set what holds for the project; raises BadInput for a flow that can not be played so."""
    for key in filter(None, (preferences.before, preferences.after)):
        calls.check_plain(session, key)
    settings = replace(preferences.settings, inherits=())
    value = {
        "settings": settings.as_json(),
        "before": preferences.before,
        "after": preferences.after,
    }
    query = insert(models.Preference).values(name=NAME, value=value)
    session.execute(query.on_conflict_do_update(index_elements=["name"], set_={"value": value}))


@dataclass(frozen=True)
class Rehearsing:
    """How many `stages` a station keeps open at once, and for how long a failing row is `offered`.

    That is in seconds, to its author who watches it; 0 for not at all.
    """

    stages: int = 12
    offered: int = 15


MOST_STAGES, LONGEST_OFFER = 200, 120


def rehearsing(session: Session) -> Rehearsing:
    """Return how rehearsals are in this project."""
    row = session.get(Preference, REHEARSING)
    return Rehearsing(**row.value) if row else Rehearsing()


def put_rehearsing(session: Session, wanted: Rehearsing) -> None:
    """Set how rehearsals are; raises BadInput for what can not be."""
    if not 1 <= wanted.stages <= MOST_STAGES:
        raise BadInput(f"A station keeps 1 to {MOST_STAGES} stages open.", where="stages")
    if not 0 <= wanted.offered <= LONGEST_OFFER:
        raise BadInput(f"It is offered for 0 to {LONGEST_OFFER} seconds.", where="offered")
    value = {"stages": wanted.stages, "offered": wanted.offered}
    query = insert(models.Preference).values(name=REHEARSING, value=value)
    session.execute(query.on_conflict_do_update(index_elements=["name"], set_={"value": value}))
    tell(session, "project")


def surrounded(document: Document, preferences: Preferences) -> Document:
    """Return a test with what the project plays before and, whatever happens, after it."""
    steps = document.steps
    if preferences.before:
        steps = (Step(BEFORE, "flow", flow=preferences.before), *steps)
    if preferences.after:
        end = Step(AT_END, "always")
        steps = (*steps, end, Step(AFTER, "flow", flow=preferences.after, depth=1))
    return replace(document, steps=steps)
