"""Taking pages in again: what is opened, signed in first, and what it tells afterwards."""

from dataclasses import replace

import pytest

from lantern.core.elements.facts import Facts
from lantern.core.steps.model import Taken
from lantern.demo.data import QUOTE, SIGN_IN
from lantern.demo.team.tests import come_in
from lantern.store import pages, tests
from lantern.store.models import Cast, Run, SavedPage
from tests.api.conftest import Client

DESK = "http://desk:8190"


def node(tag, order, text="", **more):
    attributes = {key: value for key, value in more.items() if key == "id"}
    facts = {key: value for key, value in more.items() if key != "id"}
    return Facts(tag, text=text, name=text, order=order, attributes=attributes, **facts)


def quote(ask="ask", title="Ask for a firing"):
    return [
        node("h1", 0, title, role="heading"),
        node("input", 1, role="textbox", label="Piece name", id="piece"),
        node("button", 2, "Get a quote", role="button", id=ask),
    ]


@pytest.fixture
def kept(database):
    """The quote and the sign-in as runs have kept them."""
    with database.session() as session:
        pages.save(session, QUOTE, quote(), address=f"{DESK}/quote")
        sign_in = [node("input", 0, role="textbox", label="Member name", id="member")]
        pages.save(session, SIGN_IN, sign_in, address=f"{DESK}/sign-in?from=%2F")


@pytest.fixture
def here(client):
    return client.get("/environments").json["environments"][0]["id"]


def start(client, here):
    answer = client.post("/visits", environment=here)
    assert answer.status_code == 200, answer.json
    return answer.json


def came(database, visit, title, address, nodes):
    """A page as the station keeps it while the visit is played."""
    with database.session() as session:
        pages.save(session, title, nodes, address=address, run_id=visit["run"])


def test_a_visit_opens_each_known_page_once_and_goes_on_where_one_fails(
    client, kept, here, database
):
    assert client.get("/visits").json["known"] == 2
    visit = start(client, here)
    assert (visit["pages"], visit["state"], visit["author"]) == (2, "queued", "Odo Fennick")
    with database.session() as session:
        run = session.get_one(Run, visit["run"])
        assert (run.kind, run.test_id) == ("try", None)
        opened = [one["inputs"]["address"] for one in run.body["steps"]]
        assert opened == ["/quote", "/sign-in?from=%2F"]
        assert run.body["settings"]["on_failure"] == "go on"
        assert session.query(Cast).filter_by(run_id=run.id).one().job > 0, "a station is offered it"
    assert client.get("/visits").json["visits"][0]["id"] == visit["id"]


def test_what_is_lost_after_a_release_is_told_with_what_it_could_be(client, kept, here, database):
    visit = start(client, here)
    came(database, visit, "New quote - Kiln Desk", f"{DESK}/quote",
         quote(ask="b-17", title="Plan a firing"))  # fmt: skip
    told = client.get(f"/visits/{visit['id']}").json
    missed, changed = told["pages"]
    assert (missed["page"], missed["reached"]) == (SIGN_IN, False)
    assert (changed["page"], changed["title"]) == (QUOTE, "New quote - Kiln Desk")
    assert changed["changed"]
    assert (changed["new"], changed["gone"]) == (["Plan a firing"], ["Ask for a firing"])
    met = {one["name"]: one for one in changed["met"]}
    assert met["Piece name"]["lost"] is False
    assert met["Price"]["lost"] is False, "it shows only when a quote was asked for"


def test_a_flow_that_signs_in_is_played_before_what_is_behind_where_it_needs_nothing(
    client, kept, here, database
):
    assert client.get("/visits").json["signs_in"] == ""
    asks = replace(come_in(), takes=(Taken("who"),))
    with database.session() as session:
        tests.create(session, "Come in as somebody", here, None, asks, kind="flow")
        tests.create(session, "Come in", here, None, come_in(), kind="flow")
    visit = start(client, here)
    with database.session() as session:
        run = session.get_one(Run, visit["run"])
        told = [(one["action"], one["page"]) for one in run.body["steps"]]
        assert told == [("open", SIGN_IN), ("flow", ""), ("open", QUOTE)], "signed in where it asks"
        assert [one["name"] for one in run.flows.values()] == ["Come in"]
    assert client.get("/visits").json["signs_in"] == "Come in"


def test_nothing_known_no_place_and_no_visit_are_told(client, here):
    assert client.post("/visits", environment=here).status_code == 422
    assert client.post("/visits", environment=99_999).status_code == 404
    assert client.get("/visits/12345").status_code == 404
    viewer = Client(client.http.application, "pia")
    assert viewer.post("/visits", environment=here).status_code == 403


def test_a_visit_goes_with_its_run(client, kept, here, database):
    visit = start(client, here)
    came(database, visit, QUOTE, f"{DESK}/quote", quote())
    assert client.get(f"/visits/{visit['id']}").json["pages"][1]["changed"] is False
    with database.session() as session:
        session.delete(session.get_one(Run, visit["run"]))
    assert client.get(f"/visits/{visit['id']}").status_code == 404
    with database.session() as session:
        assert session.query(SavedPage).filter_by(run_id=visit["run"]).count() == 0
