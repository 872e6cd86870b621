"""What holds for the whole project: limits, flows around each row, variables renamed."""

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.store import elements
from lantern.store.models import Run
from tests.api.conftest import Client

DEFAULTS = {
    "limit": 10.0, "on_failure": "stop", "pictures": "each step", "retries": 0,
    "on_interrupted": "leave",
    "before": "", "after": "",
}  # fmt: skip


@pytest.fixture
def lead(app):
    return Client(app, "wren")


def new(client, name, kind="test", *steps):
    made = client.post("/tests", name=name, environment=1, kind=kind).json
    return client.edit(made, do="insert", steps=list(steps)).json if steps else made


RELOAD = {"action": "reload"}


def test_a_new_test_takes_its_limits_from_the_project_until_it_says_otherwise(client, lead):
    test = new(client, "Inherits", "test", RELOAD)
    assert client.get("/project").json == DEFAULTS
    assert lead.put("/project", **DEFAULTS | {"limit": 33, "retries": 2}).status_code == 200
    found = client.get(f"/tests/{test['id']}").json
    assert found["settings"]["limit"] == 33
    assert found["steps"][0]["holds"]["limit_from"] == "the project"
    assert found["steps"][0]["holds"]["retries"] == 2

    own = client.edit(found, do="set settings", fields={"limit": 4}).json
    assert own["steps"][0]["holds"]["limit_from"] == "the test"
    assert (own["settings"]["limit"], own["settings"]["retries"]) == (4, 2)
    back = client.edit(own, do="set settings", fields={"limit": None}).json
    assert back["settings"]["limit"] == 33

    run = client.post(f"/tests/{test['id']}/runs", rows="all").json
    assert run["run"]["state"] == "queued"


def test_what_a_run_took_from_the_project_stays_with_it(client, lead, database):
    test = new(client, "Kept", "test", RELOAD)
    lead.put("/project", **DEFAULTS | {"limit": 21})
    run = client.post(f"/tests/{test['id']}/runs", rows="all").json["run"]["id"]
    lead.put("/project", **DEFAULTS)
    with database.session() as session:
        assert session.get(Run, run).body["settings"]["limit"] == 21


def test_flows_are_played_before_and_after_each_row(client, lead, database, quotes):
    come = new(client, "Come in", "flow", RELOAD)
    leave = new(client, "Leave", "flow", RELOAD)
    around = {"before": str(come["id"]), "after": str(leave["id"])}
    assert lead.put("/project", **DEFAULTS | around).status_code == 200
    run = client.post(f"/tests/{quotes['id']}/runs", rows="1").json["run"]["id"]
    with database.session() as session:
        found = session.get(Run, run)
        steps = found.body["steps"]
        assert set(found.flows) == set(around.values())
    assert [step["action"] for step in steps[:1] + steps[-2:]] == ["flow", "always", "flow"]
    assert client.test_named(quotes["name"])["steps"][0]["action"] == "open"


def test_an_exported_script_holds_what_the_project_says(client, lead, quotes):
    come = new(client, "Come in", "flow", RELOAD)
    leave = new(client, "Leave", "flow", RELOAD)
    around = {"before": str(come["id"]), "after": str(leave["id"]), "limit": 17, "retries": 1}
    assert lead.put("/project", **DEFAULTS | around).status_code == 200
    mine = client.edit(quotes, do="set settings", fields={"limit": None, "retries": None}).json
    script = client.get(f"/tests/{mine['id']}/exports/script").text
    assert "LIMIT = 17\n" in script
    body = script[script.index("def test_quotes") :]
    assert body.index("do_come_in(page)") < body.index("page.trying(1 + 1).open(")
    assert body.index("finally:") < body.index("do_leave(page)")


def test_a_flow_that_needs_values_can_not_stand_around_rows(client, lead):
    flow = new(client, "Needy", "flow", RELOAD)
    takes = [{"name": "member", "kind": "text", "default": ""}]
    client.edit(flow, do="set calling", takes=takes, gives=[], was={})
    answer = lead.put("/project", **DEFAULTS | {"before": str(flow["id"])})
    assert answer.status_code == 422
    assert "needs a value for member" in answer.json["message"]
    assert lead.put("/project", **DEFAULTS | {"before": "999"}).status_code == 422
    assert lead.put("/project", **DEFAULTS | {"limit": 0}).status_code == 422
    assert client.put("/project", **DEFAULTS).status_code == 403


def test_a_variable_is_renamed_wherever_it_is_used_with_the_places_told_first(
    client, lead, database
):
    lead.put("/environments/1", name="Kiln Desk", address="http://desk", variables={"season": "s"})
    typed = {"action": "key", "inputs": {"keys": "${env.season} ${row.season} $${env.season}"}}
    test = new(client, "Seasons", "test", RELOAD, typed)
    with database.session() as session:
        clue = Clue("name", "is", "Firings of ${env.season}")
        elements.save(session, Element("of-season", "Of the season", "heading", (clue,)))
    places = client.get("/variables", name="season").json
    assert [(one["name"], one["sentences"]) for one in places["tests"]] == [("Seasons", [2])]
    assert places["elements"] == ["Of the season"]

    assert client.post("/variables/rename", old="season", new="time").status_code == 403
    assert lead.post("/variables/rename", old="season", new="my time").status_code == 422
    assert lead.post("/variables/rename", old="saeson", new="time").status_code == 422
    assert lead.post("/variables/rename", old="season", new="time").json == {"count": 1}
    found = client.get(f"/tests/{test['id']}").json
    assert found["steps"][1]["inputs"]["keys"] == "${env.time} ${row.season} $${env.season}"
    assert client.get("/environments").json["environments"][0]["variables"] == {"time": "s"}
    assert client.get("/variables", name="time").json["elements"] == ["Of the season"]
