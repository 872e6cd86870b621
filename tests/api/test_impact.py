"""What a change would touch: tests through flows, plans with their next time, and the people."""

import pytest

from lantern.demo.team.project import AHEAD, NIGHTLY, SMOKE
from lantern.demo.team.tests import ASK, COME_IN, SEARCHES
from lantern.store.models import Test as Row
from tests.api.conftest import Client
from tests.api.test_team import team  # noqa: F401 - the sample project


@pytest.fixture
def wren(team, app):  # noqa: F811 - the fixture
    return Client(app, "wren")


@pytest.fixture
def ids_of(database):
    def ids_of():
        with database.session() as session:
            return {row.name: row.id for row in session.query(Row)}

    return ids_of


def impact(client, kind, key):
    answer = client.get("/impact", kind=kind, key=key)
    assert answer.status_code == 200, answer.json
    return answer.json


def names(told, part="tests"):
    return [one["name"] for one in told[part]]


def test_an_element_touches_tests_through_the_flows_that_act_on_it(wren):
    told = impact(wren, "element", "demo-ask")  # “Get a quote”
    by_name = {one["name"]: one for one in told["tests"]}
    assert told["name"] == "Get a quote"
    assert by_name["Book a firing"]["via"] == "sentence 7"
    assert by_name["Large firings reach the board"]["via"] == f"by way of {ASK}"
    assert by_name[ASK]["kind"] == "flow"
    assert "Find a firing" not in by_name
    assert by_name["Quotes by clay and cone"]["outcome"] == "failed"
    assert names(told, "plans") == [AHEAD, NIGHTLY, SMOKE]
    nightly = told["plans"][1]
    assert nightly["tests"] == len([one for one in told["tests"] if one["kind"] == "test"])
    assert nightly["next_at"]
    people = {one["name"]: one["why"] for one in told["people"]}
    assert people["Odo Fennick"] == ["made some of them", "changed some last"]


def test_a_flow_a_table_and_a_page_touch_what_uses_them(wren, ids_of):
    flow = impact(wren, "flow", ids_of()[COME_IN])
    assert len(flow["tests"]) == 11
    assert "Wrong sign-ins are told" not in names(flow)
    table = impact(wren, "table", ids_of()[SEARCHES])
    assert [(one["name"], one["via"]) for one in table["tests"]] == [("Find a firing", "its rows")]
    assert SMOKE not in names(table, "plans")
    page = impact(wren, "page", "Glaze bench - Kiln Desk")
    assert [(one["name"], one["via"]) for one in page["tests"]] == [("Choose a kiln", "2 elements")]


def test_an_environment_touches_what_is_played_there_and_nothing_else(wren):
    places = {one["name"]: one["id"] for one in wren.get("/environments").json["environments"]}
    here = impact(wren, "environment", places["Kiln Desk"])
    assert names(here, "plans") == [NIGHTLY, SMOKE], "the third is played elsewhere"
    ahead = impact(wren, "environment", places["Next release"])
    assert (names(ahead), names(ahead, "plans")) == ([], [AHEAD])
    assert ahead["plans"][0]["tests"] == 14


def test_a_variable_touches_what_names_it(wren, ids_of):
    test = wren.test_named("Rush costs more")
    edit = {"do": "change", "step": "r1", "fields": {"inputs": {"text": "${env.piece}"}}}
    assert wren.edit(test, **edit).status_code == 200
    told = impact(wren, "variable", "piece")
    assert [(one["name"], one["via"]) for one in told["tests"]] == [
        ("Rush costs more", "sentence 2")
    ]
    assert impact(wren, "variable", "nobody") == {
        "name": "nobody", "tests": [], "plans": [], "people": [],
    }  # fmt: skip


@pytest.mark.parametrize(
    ("kind", "key"),
    [
        ("element", "none"),
        ("flow", "99999"),
        ("flow", "x"),
        ("table", "99999999999999999999"),
        ("environment", "-1"),
        ("page", "Nowhere"),
    ],
)
def test_what_is_not_there_is_told(client, kind, key):
    assert client.get("/impact", kind=kind, key=key).status_code == 404


def test_an_unknown_thing_is_told_with_those_there_are(client):
    assert client.get("/impact", kind="mood", key="1").status_code == 422
