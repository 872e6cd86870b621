"""What is told of a recording that was played: due or not, what differed, what was set aside."""

from lantern.core.proving.comparing import Difference, Found
from lantern.core.proving.shown import Shown, effect
from lantern.core.steps.model import Step
from lantern.store import proofs

PAGE = Shown("Quote", "/quote", ("Price",))


def recorded(database, test, *lines, inputs=None):
    """Let the last sentence of a test have led to some lines while it was recorded."""
    step = Step(test["steps"][-1]["id"], "press", inputs=inputs or {})
    with database.session() as session:
        seen = effect(PAGE, Shown("Quote", "/quote", ("Price", *lines)))
        proofs.note(session, test["id"], step, "", (seen,))
    return step.id


def test_a_recording_is_due_until_it_was_played_and_again_after_more_was_recorded(
    client, quotes, database
):
    path = f"/tests/{quotes['id']}/proof"
    assert client.get(path).json["due"] is False  # nothing was recorded
    step = recorded(database, quotes, "€ 14")
    assert client.get(path).json == client.get(path).json | {"due": True, "recorded": 1}
    with database.session() as session:
        told = (Difference("missing", "€ 14"), Difference("extra", "€ 9"))
        proofs.keep(session, quotes["id"], [Found(step, "Press Ask", told)], 1)
    proof = client.get(path).json
    assert (proof["due"], proof["compared"]) == (False, 1)
    [found] = proof["found"]
    assert found["place"] == len(quotes["steps"])
    assert [one["said"] for one in found["told"]] == ["“€ 14” did not appear.", "“€ 9” appeared."]
    recorded(database, quotes, "€ 15")
    assert client.get(path).json["due"] is True


def test_what_moves_by_itself_is_set_aside_for_good(client, quotes, database):
    path = f"/tests/{quotes['id']}/proof"
    step = recorded(database, quotes, "12 people look")
    with database.session() as session:
        told = (Difference("missing", "12 people look"), Difference("extra", "Sold"))
        found = Found(step, "Press Ask", told)
        proofs.keep(session, quotes["id"], [found], 1)
    asked = {"lines": [client.get(path).json["found"][0]["told"][0]["line"]]}
    left = client.post(f"{path}/aside", **asked).json
    assert left["found"][0]["told"] == [{"said": "“Sold” appeared.", "line": "Sold"}]
    assert left["aside"] == ["# people look"]
    assert client.post(f"{path}/aside", lines=["Sold"]).json["found"] == []
    assert client.get("/tests/99/proof").status_code == 404


def test_values_that_were_changed_since_are_known_as_such(client, quotes, database):
    step = recorded(database, quotes, "Raku", inputs={"text": "Raku"})
    with database.session() as session:
        as_then = Step(step, "type", inputs={"text": "Raku"})
        changed = Step(step, "type", inputs={"text": "Grog"})
        assert proofs.given_otherwise(session, quotes["id"], [as_then]) == set()
        assert proofs.given_otherwise(session, quotes["id"], [changed]) == {step}


def test_the_path_that_sets_an_application_back_is_checked(client):
    body = {"name": "Kiln Desk", "address": "http://desk"}
    assert client.put("/environments/1", **body, reset=" /reset ").json["reset"] == "/reset"
    assert client.put("/environments/1", **body).json["reset"] == "/reset"
    for wrong in ("reset", "//elsewhere/reset", "http://elsewhere/reset", "/a b"):
        refused = client.put("/environments/1", **body, reset=wrong)
        assert refused.status_code == 422, wrong
        assert "for example /reset" in refused.json["hint"]
    assert client.put("/environments/1", **body, reset="").json["reset"] == ""
