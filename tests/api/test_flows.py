"""Flows over the API: made of sentences, called elsewhere, changed with what calls them."""

import pytest
from sqlalchemy import event

from lantern.core.steps.model import Document, Step
from lantern.store import flows, tests
from tests.api.conftest import Client

SIGN_IN = slice(0, 4)


@pytest.fixture
def sign_in(client, quotes):
    """The flow made of the first four sentences of the demo test, and the test that calls it."""
    steps = [step["id"] for step in quotes["steps"][SIGN_IN]]
    proposed = client.post(f"/tests/{quotes['id']}/cut", steps=steps).json
    assert [(one["template"], one["needed"]) for one in proposed["takes"]] == [
        ("/sign-in", False),
        ("mara", False),
        ("${secret.mara_password}", False),
    ]
    answer = client.post(
        f"/tests/{quotes['id']}/extract",
        base=quotes["version"],
        steps=steps,
        name="Sign in",
        takes={"member": "mara"},
        gives=[],
    )
    assert answer.status_code == 200, answer.json
    return answer.json


def sentences(test):
    return [step["sentence"] for step in test["steps"]]


def test_sentences_become_a_flow_and_one_call(client, quotes, sign_in):
    test = sign_in["test"]
    assert sentences(test)[0] == "Do Sign in with member “mara”"
    assert len(test["steps"]) == len(quotes["steps"]) - 3
    assert test["flows"][0]["takes"] == [{"name": "member", "kind": "text", "default": "mara"}]
    flow = client.get(f"/tests/{sign_in['flow']}").json
    assert flow["kind"] == "flow"
    assert sentences(flow)[1] == "Type “${input.member}” into Member name"
    assert "Sign in" not in [one["name"] for one in client.get("/tests").json["tests"]]
    assert client.get("/flows").json["flows"][0]["uses"] == [
        {"id": test["id"], "kind": "test", "name": test["name"], "sentences": [1]}
    ]
    undone = client.post(f"/tests/{test['id']}/undo").json
    assert sentences(undone) == sentences(quotes)


def test_the_list_asks_the_database_no_more_for_many_flows(client, database, sign_in):
    first = client.get("/flows").json["flows"][0]
    with database.session() as session:
        for number in range(30):
            called = Step("a", "flow", flow=str(sign_in["flow"]))
            twice = Document((Step("b", "pause", inputs={"seconds": "1"}), called))
            tests.create(session, f"Part {number:02}", 1, None, twice, kind="flow")
    said = []
    with database.session() as session:
        event.listen(session.get_bind(), "before_cursor_execute", lambda *one: said.append(one[2]))
        listed = flows.listed(session).rows
        read = len(said)
    assert read == 2
    assert [one.flow.name for one in listed] == [*(f"Part {n:02}" for n in range(30)), "Sign in"]
    assert [use.name for use in listed[-1].uses[:2]] == ["Part 00", "Part 01"]
    assert listed[-1].uses[0].sentences == (2,)
    assert listed[0].steps == 2
    assert first["flow"]["takes"] == [{"name": "member", "kind": "text", "default": "mara"}]
    assert (first["steps"], first["environment"]) == (4, "Kiln Desk")


def test_a_secret_can_be_an_input_that_the_flow_has_by_itself(client, quotes):
    made = client.post(
        f"/tests/{quotes['id']}/extract",
        base=quotes["version"],
        steps=[step["id"] for step in quotes["steps"][SIGN_IN]],
        name="Enter",
        takes={"password": "${secret.mara_password}"},
    ).json
    assert sentences(made["test"])[0] == "Do Enter with password “${secret.mara_password}”"
    flow = client.get(f"/tests/{made['flow']}").json
    assert sentences(flow)[2] == "Type “${input.password}” into Password"
    assert flow["takes"] == [
        {"name": "password", "kind": "text", "default": "${secret.mara_password}"}
    ]


def test_what_comes_from_outside_has_to_be_an_input(client, quotes):
    typing = next(step for step in quotes["steps"] if "${row.piece}" in step["inputs"].values())
    path = f"/tests/{quotes['id']}"
    proposed = client.post(f"{path}/cut", steps=[typing["id"]]).json["takes"]
    assert proposed == [{"name": "piece", "template": "${row.piece}", "needed": True}]
    ask = {"base": quotes["version"], "steps": [typing["id"]], "name": "Name the piece"}
    refused = client.post(f"{path}/extract", **ask, takes={})
    assert refused.status_code == 422
    assert "it needs an input for it" in refused.json["message"]
    made = client.post(f"{path}/extract", **ask, takes={"piece": "${row.piece}"}).json
    assert "Do Name the piece with piece “${row.piece}”" in sentences(made["test"])


def test_the_same_sentences_elsewhere_are_found_and_replaced(client, quotes):
    other = client.post(f"/tests/{quotes['id']}/copy", name="The same again").json
    typed = other["steps"][1]["id"]
    other = client.edit(other, do="change", step=typed, fields={"inputs": {"text": "tobin"}}).json
    steps = [step["id"] for step in quotes["steps"][SIGN_IN]]
    made = client.post(
        f"/tests/{quotes['id']}/extract",
        base=quotes["version"], steps=steps, name="Sign in", takes={"member": "mara"},
    ).json  # fmt: skip
    assert [(one["name"], one["sentences"]) for one in made["alike"]] == [("The same again", [1])]
    client.post(f"/flows/{made['flow']}/replace", tests=[other["id"]])
    now = client.get(f"/tests/{other['id']}").json
    assert sentences(now)[0] == "Do Sign in with member “tobin”"
    uses = client.get(f"/flows/{made['flow']}").json["uses"]
    assert {use["name"] for use in uses} == {quotes["name"], "The same again"}


def test_renaming_an_input_changes_every_call_and_a_dropped_one_goes(client, sign_in):
    flow = client.get(f"/tests/{sign_in['flow']}").json
    takes = [{"name": "who", "kind": "text", "default": ""}]
    flow = client.edit(flow, do="set calling", takes=takes, gives=[], was={"who": "member"}).json
    assert sentences(flow)[1] == "Type “${input.who}” into Member name"
    test = client.get(f"/tests/{sign_in['test']['id']}").json
    assert sentences(test)[0] == "Do Sign in with who “mara”"
    client.edit(flow, do="set calling", takes=[], gives=[])
    test = client.get(f"/tests/{sign_in['test']['id']}").json
    assert sentences(test)[0] == "Do Sign in"


def test_a_renamed_flow_is_called_by_its_new_name(client, sign_in):
    client.patch(f"/tests/{sign_in['flow']}", name="Come in")
    test = client.get(f"/tests/{sign_in['test']['id']}").json
    assert sentences(test)[0] == "Do Come in with member “mara”"


def test_a_call_is_put_back_and_a_deleted_flow_leaves_its_sentences(client, quotes, sign_in):
    test = sign_in["test"]
    step = test["steps"][0]["id"]
    path = f"/tests/{test['id']}"
    back = client.post(f"{path}/put-back", base=test["version"], step=step).json
    assert sentences(back) == sentences(quotes)
    again = client.post(f"{path}/undo").json
    assert client.delete(f"/flows/{sign_in['flow']}").json == {"count": 1}
    assert sentences(client.get(path).json) == sentences(quotes)
    stale = client.post(f"{path}/put-back", base=again["version"], step=step)
    assert stale.status_code == 409
    assert client.get("/flows").json == {"flows": [], "next": ""}


def test_a_flow_that_would_call_itself_is_refused_with_the_loop_named(client, sign_in):
    flow = client.get(f"/tests/{sign_in['flow']}").json
    call = {"action": "flow", "flow": str(flow["id"]), "inputs": {}}
    refused = client.edit(flow, do="insert", steps=[call])
    assert refused.status_code == 422
    assert refused.json["message"] == "A flow can not call itself: “Sign in” → “Sign in”."
    other = client.post("/tests", name="Outer", environment=1, kind="flow").json
    other = client.edit(other, do="insert", steps=[call]).json
    back = {"action": "flow", "flow": str(other["id"]), "inputs": {}}
    refused = client.edit(flow, do="insert", steps=[back])
    assert "“Sign in” → “Outer” → “Sign in”" in refused.json["message"]


def test_viewers_change_no_flow(app, sign_in):
    viewer = Client(app, "pia")
    assert viewer.get("/flows").status_code == 200
    assert viewer.delete(f"/flows/{sign_in['flow']}").status_code == 403


def test_a_run_keeps_the_flows_as_they_were(client, database, sign_in):
    from lantern.store.models import Run

    made = client.post(f"/tests/{sign_in['test']['id']}/runs", kind="run").json
    client.patch(f"/tests/{sign_in['flow']}", name="Changed since")
    with database.session() as session:
        run = session.get(Run, made["run"]["id"])
        assert run.flows[sign_in["flow"]]["name"] == "Sign in"
        used = {step["element"] for step in run.flows[sign_in["flow"]]["body"]["steps"]}
        assert used - {""} <= set(run.elements)


def test_constants_are_listed_and_replaced(client, quotes):
    constant = next(one for one in quotes["constants"] if one["value"] == "mara")
    assert constant["uses"][0]["sentence"] == "Type “mara” into Member name"
    places = [{"step": use["step"], "input": use["input"]} for use in constant["uses"]]
    ask = {"do": "replace constants", "places": places}
    refused = client.edit(quotes, **ask, template="${rows.member}")
    assert "Did you mean ${row.…}?" in refused.json["hint"]
    changed = client.edit(quotes, **ask, template="${row.member}").json
    assert changed["columns"][-1] == "member"
    assert {row["values"]["member"] for row in changed["rows"]} == {"mara"}
    renamed = client.edit(changed, do="rename column", column="member", name="who").json
    assert sentences(renamed)[1] == "Type “${row.who}” into Member name"


def test_what_holds_for_a_sentence_says_where_it_is_from(client, quotes):
    first = quotes["steps"][0]["id"]
    block = {"action": "section", "inputs": {"name": "Coming in"}, "limit": 3}
    wrapped = client.edit(quotes, do="wrap", steps=[first], block=block).json
    inside = wrapped["steps"][1]
    assert (inside["depth"], inside["holds"]["limit"]) == (1, 3)
    assert inside["holds"]["limit_from"] == "the section “Coming in”"
    assert wrapped["steps"][2]["holds"]["limit_from"] == "the test"


def test_code_is_tried_on_a_station_that_is_up_by_those_who_may_change(app, client):
    made = client.post("/tests", name="Shout", environment=1, kind="flow", in_python=True)
    assert made.status_code < 300, made.json
    path = f"/flows/{made.json['id']}/try"
    refused = client.post(path, code="def f(a: list):\n    pass\n")
    assert (refused.status_code, refused.json["where"]) == (422, "line 1")
    answer = client.post(path, code="def f():\n    pass\n")
    assert answer.status_code == 503
    assert "No station is up" in answer.json["message"]
    viewer = Client(app, "pia")
    assert viewer.post(path, code="def f():\n    pass\n").status_code == 403
