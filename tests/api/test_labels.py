"""Labels over the API: tests and runs are found by them, undo takes them off."""

from lantern.store import runs, tests
from tests.api.conftest import Client


def found(client, path, part, name, **query):
    return [one[name] for one in client.get(path, **query).json[part]]


def test_tests_and_runs_are_found_by_their_labels(client, quotes, database):
    labelled = client.edit(quotes, do="set labels", add=["Nightly", "quotes"]).json
    assert labelled["labels"] == ["Nightly", "quotes"]
    other = client.test_named("Book a firing")
    client.edit(other, do="set labels", add=["nightly"])
    by = {"order": "name"}
    names = [other["name"], quotes["name"]]
    assert found(client, "/tests", "tests", "name", label="NIGHTLY", **by) == names
    assert found(client, "/tests", "tests", "name", label="nightly, quotes", **by) == names[1:]
    assert found(client, "/tests", "tests", "name", label="weekly") == []
    assert sum(client.get("/labels").json["labels"].values()) == 3

    with database.session() as session:
        for name in names:
            runs.create(session, tests.named(session, name), "run", "all", None)
    assert set(found(client, "/runs", "runs", "test_name", label="quotes")) == {quotes["name"]}


def test_a_label_on_an_older_version_is_no_conflict_and_is_undone(client, quotes):
    wren = Client(client.http.application, "wren")
    client.edit(quotes, do="set labels", add=["mine"])
    both = wren.edit(quotes, do="set labels", add=["hers"]).json
    assert both["labels"] == ["hers", "mine"]
    assert client.post(f"/tests/{quotes['id']}/undo").json["labels"] == ["hers"]
    assert client.edit(quotes, do="set labels", add=["a,b"]).status_code == 422
    viewer = Client(client.http.application, "pia")
    assert viewer.edit(quotes, do="set labels", add=["no"]).status_code == 403
