"""The sample project: loaded whole, with sixty days that every view can be filled from."""

import time
from collections import Counter
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import delete, func, select

from lantern.demo.team.loading import load_team
from lantern.demo.team.project import NIGHTLY
from lantern.store.models import (
    Cast,
    Defect,
    Environment,
    Handing,
    Picture,
    PlanRun,
    Result,
    Run,
    Test,
    Version,
)
from lantern.store.vault import Vault
from tests.api.conftest import Client


@pytest.fixture
def team(database):
    """The sample project in place of the two tests; returns how many seconds it took."""
    with database.session() as session:
        session.execute(delete(Version))
        session.execute(delete(Test))
        session.execute(delete(Environment))
    begun = time.monotonic()
    with database.session() as session:
        _forget_people(session)
        assert load_team(session, Vault(), "http://desk", "http://next", "http://slate")
    return time.monotonic() - begun


def _forget_people(session):
    from lantern.store.models import Account, Picture, SignIn

    session.execute(delete(SignIn))
    session.execute(delete(Account))
    session.execute(delete(Picture))


def test_it_holds_a_team_at_work(team, database, app):
    client = Client(app, "wren")
    with database.session() as session:
        kinds = Counter(session.scalars(select(Test.kind)))
        assert kinds == {"test": 14, "flow": 2, "table": 1}
        states = set(session.scalars(select(Defect.state)))
        assert states == {"open", "in work", "fixed", "closed"}
        nights = session.scalar(
            select(func.count()).select_from(PlanRun).filter_by(plan_name=NIGHTLY)
        )
        assert nights == 60
        causes = set(session.scalars(select(PlanRun.cause)))
        assert causes == {"sample data"}, "all of it is marked as that"
        assert session.scalar(select(func.count()).select_from(Handing)) >= 3
        pictured = set(session.scalars(select(Result.picture).filter(Result.picture != "")))
        assert pictured <= set(session.scalars(select(Picture.digest)))
        newest = session.scalar(select(func.max(Result.at)))
        assert newest < datetime.now(UTC)
        lost = select(func.count()).select_from(Cast).outerjoin(Run, Run.id == Cast.run_id)
        assert session.scalar(lost.filter(Run.id.is_(None))) == 0
    assert len(client.get("/people").json["people"]) == 4
    assert len(client.get("/plans").json["plans"]) == 3
    assert len(client.get("/defects").json["defects"]) == 5
    trends = client.get("/trends", days=90)
    assert trends.status_code == 200


def test_the_week_of_the_wrong_price_is_there_and_known(team, database):
    with database.session() as session:
        by_day = Counter(
            run.queued_at.date()
            for run in session.scalars(
                select(Run).filter_by(test_name="Rush costs more", state="failed")
            )
            if run.environment_name == "Kiln Desk"
        )
        today = datetime.now(UTC).date()
        assert set(by_day) == {today - timedelta(days=ago) for ago in range(32, 39)}
        rush = session.scalars(select(Defect).filter(Defect.title.contains("supplement"))).one()
        assert (rush.state, rush.fixed_in) == ("closed", "spring")
        row = select(func.min(Cast.started_at)).join(Run).filter(
            Run.test_name == "Quotes by clay and cone", Cast.outcome == "failed",
            Run.environment_name == "Kiln Desk",
        )  # fmt: skip
        assert (today - session.scalar(row).date()).days == 10


def test_a_second_start_loads_nothing_and_says_where_things_answer_now(team, database):
    with database.session() as session:
        before = session.scalar(select(func.count()).select_from(Result))
        assert not load_team(session, Vault(), "http://desk:2", "http://next:2", "http://slate:2")
        assert session.scalar(select(func.count()).select_from(Result)) == before
        addresses = set(session.scalars(select(Environment.address)))
    assert addresses == {"http://desk:2", "http://next:2"}
