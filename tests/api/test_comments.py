"""Comments over the API: on everything, with notices for those whom they mention."""

import pytest

from lantern.store import commenting
from lantern.store.models import Comment, Run
from tests.api.conftest import Client
from tests.past import past


@pytest.fixture
def run(client, ids, database):
    return past(database, ids["Book a firing"], "pf")[-1]


def test_a_comment_reaches_whom_it_mentions_and_leads_to_its_place(client, app, run):
    wren = Client(app, "wren")
    cast = client.get(f"/runs/{run}").json["casts"][0]["id"]
    [result] = client.get(f"/casts/{cast}/results").json["results"]
    made = client.post("/comments", place="sentence", key=result["id"], text="@wren is it so?")
    assert made.json["author"] == "Odo Fennick"
    assert wren.get("/notices").json["unseen"] == 1
    [notice] = wren.get("/notices").json["notices"]
    assert notice["link"] == f"/runs/{run}?row={cast}&result={result['id']}"
    assert client.get("/notices").json["notices"] == []
    wren.post("/notices/seen")
    assert wren.get("/notices").json["unseen"] == 0
    # Who is mentioned already is not told again; who comes to be is.
    client.patch(f"/comments/{made.json['id']}", text="@wren @pia is it so?")
    assert wren.get("/notices").json["unseen"] == 0
    pia = Client(app, "pia")
    assert pia.get("/notices").json["unseen"] == 1
    assert pia.post("/notices/seen").status_code == 200, "a viewer sees notices as well"
    assert pia.get("/notices").json["unseen"] == 0
    assert client.get("/comments", place="run", key=run).json["comments"][0]["changed_at"]


def test_a_run_is_looked_at_with_or_without_a_word_and_nothing_else_is(client, run, ids):
    client.post("/comments", place="run", key=run, looked=True)
    client.post("/comments", place="run", key=run, text="The kiln was off.", looked=True)
    told = client.get("/comments", place="run", key=run).json["comments"]
    assert [(one["looked"], one["text"]) for one in told] == [
        (True, ""),
        (True, "The kiln was off."),
    ]
    refused = client.post("/comments", place="test", key=ids["Book a firing"], looked=True)
    assert refused.status_code == 422


def test_only_who_wrote_a_comment_changes_it_and_viewers_write_none(client, app, run):
    made = client.post("/comments", place="run", key=run, text="Mine").json
    wren, pia = Client(app, "wren"), Client(app, "pia")
    assert wren.patch(f"/comments/{made['id']}", text="Ours").status_code == 422
    assert wren.delete(f"/comments/{made['id']}").status_code == 422
    assert pia.post("/comments", place="run", key=run, text="Hm").status_code == 403
    assert pia.get("/comments", place="run", key=run).json["comments"][0]["own"] is False
    assert client.delete(f"/comments/{made['id']}").status_code == 200
    assert client.delete(f"/comments/{made['id']}").status_code == 404


def test_what_is_said_of_what_is_gone_goes_too(client, run, database):
    client.post("/comments", place="run", key=run, text="About to go")
    assert client.post("/comments", place="run", key=99_999, text="Hm").status_code == 404
    with database.session() as session:
        session.delete(session.get_one(Run, run))
    with database.session() as session:
        commenting.forget_gone(session)
        assert session.query(Comment).count() == 0


def test_what_is_said_is_in_the_reports_and_is_no_markup_there(client, run):
    cast = client.get(f"/runs/{run}").json["casts"][0]["id"]
    client.post("/comments", place="run", key=run, text="<b>Cone 10</b> only", looked=True)
    client.post("/comments", place="row", key=cast, text="This row")
    html = client.get(f"/runs/{run}/report.html").text
    assert "&lt;b&gt;Cone 10&lt;/b&gt; only" in html
    assert "looked at it" in html
    assert "on row 1" in html
    markdown = client.get(f"/runs/{run}/report.md").text
    assert "\\<b\\>Cone 10" in markdown
    assert "### Row 1: failed" in markdown
