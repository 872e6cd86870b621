"""Making the sample project: people, environments, flows, tests, a table, plans, schedules."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.plans.model import Pick, Plan
from lantern.core.plans.schedule import Schedule
from lantern.core.plans.telling import Tell
from lantern.core.review.requirements import Scheme
from lantern.demo.data import ENVIRONMENT, DemoAccount, load_place
from lantern.demo.desk.state import ACCOUNTS as MEMBERS
from lantern.demo.team.elements import TEAM_ELEMENTS
from lantern.demo.team.tests import COME_IN, FLOWS, PHOTO, REQUIREMENTS, SEARCHES, TESTS, searches
from lantern.store import accounts, elements, files, plans, requirements, schedules, tests
from lantern.store.models import Account, Environment
from lantern.store.vault import Vault

NEXT = "Next release"
FOURTH = DemoAccount("bram", "Bram Tollard", "tester", "lantern-engineer")
NIGHTLY, SMOKE, AHEAD = "Every night", "Smoke at noon", "Before the next release"
PIXEL = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108060000001f15c489"
    "0000000d49444154789c6360606060000000050001a5f645400000000049454e44ae426082"
)
"""The photo that a test gives to the desk: a PNG of one point."""


@dataclass(frozen=True)
class Project:
    """What was made, by name: ids of people, tests and plans, and of both environments."""

    people: dict[str, int]
    tests: dict[str, int]
    plans: dict[str, int]
    here: int
    ahead: int


def load_project(session: Session, vault: Vault, sample: str, ahead: str) -> Project:
    """Make the project; `ahead` is where the next release of the application answers."""
    load_place(session, vault, sample)
    people = _people(session)
    here = session.scalars(select(Environment).filter_by(name=ENVIRONMENT)).one()
    coming = Environment(name=NEXT, address=ahead)
    session.add(coming)
    session.flush()
    vault.put(session, coming.id, "mara_password", MEMBERS["mara"].password)
    vault.put(session, coming.id, "tobin_password", MEMBERS["tobin"].password)
    for element in TEAM_ELEMENTS.values():
        elements.save(session, element)
    made = _tests(session, here.id, people)
    requirements.put_scheme(session, Scheme(known=REQUIREMENTS))
    planned = _plans(session, people, coming.id)
    return Project(people, made, planned, here.id, coming.id)


def _people(session: Session) -> dict[str, int]:
    fourth = accounts.create(session, FOURTH.username, FOURTH.name, FOURTH.role, FOURTH.password)
    accounts.change(session, fourth, email=f"{FOURTH.username}@emberhall.example")
    return {row.username: row.id for row in session.scalars(select(Account))}


def _tests(session: Session, here: int, people: dict[str, int]) -> dict[str, int]:
    flows = {
        name: str(tests.create(session, name, here, people["bram"], story(), kind="flow").id)
        for name, story in FLOWS.items()
    }
    table = tests.create(session, SEARCHES, here, people["odo"], searches(), kind="table").id
    made = {}
    for one in TESTS:
        document = replace(one.story(flows, str(table)), labels=tuple(sorted(one.labels)))
        test = tests.create(session, one.name, here, people[one.author], document)
        made[one.name] = test.id
        if any(step.action == "upload" for step in document.steps):
            files.put(session, test.id, PHOTO, PIXEL)
    assert COME_IN in flows  # noqa: S101 - the stories call it
    return made


def _plans(session: Session, people: dict[str, int], ahead: int) -> dict[str, int]:
    owners = (Tell("owners", when=("failed", "fixed")),)
    every = tuple(Pick("label", words=label) for label in ("booking", "prices", "sign-in", "board"))
    everything = (*every, Pick("label", words="workrooms"))
    found = {
        NIGHTLY: Plan(everything, retries=1, tells=owners),
        SMOKE: Plan((Pick("label", words="smoke"),), retries=1, tells=owners, known="passes"),
        AHEAD: Plan(everything, environments=(ahead,)),
    }
    times = {NIGHTLY: "30 2 * * *", SMOKE: "0 12 * * 1-5", AHEAD: "0 4 * * 6"}
    made = {}
    for name, plan in found.items():
        row = plans.create(session, name, plan, people["wren"])
        schedules.make(session, row.id, Schedule(cron=times[name]), people["wren"])
        made[name] = row.id
    return made
