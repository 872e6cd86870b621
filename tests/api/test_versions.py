"""Versions over the API: listed with who and when, compared, restored, one of them the baseline."""

from lantern.core.engine.outcomes import StepResult
from lantern.store.models import Run
from tests.api.casting import keep, taken


def sentences(test):
    return [step["sentence"] for step in test["steps"]]


def test_versions_say_who_did_what_and_are_compared_and_restored(client, quotes):
    path = f"/tests/{quotes['id']}"
    first = quotes["steps"][0]["id"]
    typed = quotes["steps"][1]["id"]
    changed = client.edit(
        quotes, do="change", step=typed, fields={"inputs": {"text": "tobin"}}
    ).json
    gone = client.edit(changed, do="remove", steps=[first]).json
    listed = client.get(f"{path}/versions").json
    newest = listed["versions"][0]
    assert (newest["summary"], newest["author"]) == ("removed: Open “/sign-in”", "Odo Fennick")
    assert newest["steps"] == len(quotes["steps"]) - 1
    ask = {"before": quotes["version"], "after": gone["version"]}
    found = client.get(f"{path}/compare", **ask).json["steps"]
    assert [(one["what"], one["before"], one["after"]) for one in found] == [
        ("removed", "Open “/sign-in”", ""),
        ("changed", "Type “mara” into Member name", "Type “tobin” into Member name"),
    ]
    restore = {"base": gone["version"], "version": quotes["version"]}
    back = client.post(f"{path}/restore", **restore).json
    assert sentences(back) == sentences(quotes)
    undone = client.post(f"{path}/undo").json
    assert sentences(undone) == sentences(gone)
    assert client.post(f"{path}/restore", **restore).status_code == 409
    assert client.get(f"{path}/compare", before=1, after=99).status_code == 404


def test_a_failure_after_changes_names_those_that_could_be_the_cause(client, database, quotes):
    path = f"/tests/{quotes['id']}"
    test = client.put(f"{path}/baseline", version=quotes["version"]).json
    assert test["baseline"] == quotes["version"]
    typed = quotes["steps"][1]["id"]
    client.edit(test, do="change", step=typed, fields={"inputs": {"text": "tobin"}})
    run = client.post(f"{path}/runs", rows="1").json
    failed = quotes["steps"][3]
    with database.session() as session:
        result = StepResult(failed["id"], 3, failed["sentence"], "failed", "not found")
        keep(session, taken(session, run["run"]["id"]), result)
    (found,) = client.get(f"/runs/{run['run']['id']}").json["suspects"]
    assert found["step"] == failed["id"]
    assert found["casts"] == [run["casts"][0]["id"]]
    assert [one["after"] for one in found["changes"]] == ["Type “tobin” into Member name"]
    assert found["changes"][0]["parts"] == ["inputs"]

    # The baseline is played again as it was, which nothing can be blamed for.
    again = client.post(f"{path}/runs", rows="1", version=quotes["version"]).json
    assert again["version"] == quotes["version"]
    with database.session() as session:
        body = session.get(Run, again["run"]["id"]).body
    assert body["steps"][1]["inputs"]["text"] == "mara"
    assert client.put(f"{path}/baseline", version=99).status_code == 404
    assert client.put(f"{path}/baseline", version=None).json["baseline"] is None
