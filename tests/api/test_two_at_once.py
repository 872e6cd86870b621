"""What two people change at once through the API: the second hears of the first."""

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.store import elements


def refused(answer):
    return answer.status_code == 409 and answer.json["code"] == "conflict"


@pytest.mark.parametrize(
    ("part", "mine", "theirs"),
    [("name", "Mine", "Theirs"), ("address", "http://m", "http://t"), ("reset", "/m", "/t")],
)
def test_a_part_of_an_environment_is_changed_from_what_it_is(client, part, mine, theirs):
    before = client.get("/environments").json["environments"][0]
    was = {"was": before[part]}
    assert client.put("/environments/1", **{part: theirs}, **was).json[part] == theirs
    answer = client.put("/environments/1", **{part: mine}, **was)
    assert refused(answer)
    assert answer.json["where"] in (part, "path")
    now = client.get("/environments").json["environments"][0]
    assert now == {**before, part: theirs}, "what is not named stays, and theirs"
    assert client.put("/environments/1", **{part: mine}, was=theirs).json[part] == mine


def test_variables_of_two_people_are_both_kept(client):
    client.put("/environments/1", variables={"season": "spring"})
    client.put("/environments/1", variables={"kiln": "Ember"})
    both = client.put("/environments/1").json["variables"]
    assert both == {"season": "spring", "kiln": "Ember"}
    assert client.put("/environments/1", variables={"kiln": None}).json["variables"] == {
        "season": "spring"
    }


def test_a_test_is_renamed_from_the_name_that_it_has(client, quotes):
    path, was = f"/tests/{quotes['id']}", quotes["name"]
    assert client.patch(path, name="Theirs", was=was).json["name"] == "Theirs"
    assert refused(client.patch(path, name="Mine", was=was))
    assert client.patch(path, name="Mine").json["name"] == "Mine", "without it, whatever it was"


def test_an_element_is_renamed_from_the_name_that_it_has_and_keeps_its_clues(client, database):
    with database.session() as session:
        elements.save(session, Element("lid", "Lid", "button", (Clue("id", "is", "lid"),)))
    assert client.patch("/elements/lid", name="Cover", was="Lid").json["name"] == "Cover"
    assert refused(client.patch("/elements/lid", name="Top", was="Lid"))
    full = client.get("/elements/lid").json
    clues = [{"fact": "id", "operator": "is", "value": "kiln-lid"}]
    told = client.put("/elements/lid", base=full["version"], clues=clues)
    assert told.status_code == 200, told.json
    assert client.patch("/elements/lid", name="Top", was="Cover").status_code == 200
    assert "kiln-lid" in str(client.get("/elements/lid").json["clues"])
