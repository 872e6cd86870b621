"""Personal access tokens: shown once, with a scope and an end, taken back at once."""

from datetime import UTC, datetime, timedelta

import pytest

from lantern.store.models import AccessToken, Account, SecurityEvent
from tests.api.conftest import Client
from tests.api.planning import up


class Program(Client):
    """A program that comes with a token instead of a cookie."""

    def __init__(self, app, token):
        super().__init__(app, "")
        self.token = token

    def get(self, path, **query):
        headers = {"Authorization": f"Bearer {self.token}"}
        return self.http.get("/api" + path, query_string=query, headers=headers)

    def send(self, method, path, body):
        headers = {"Authorization": f"Bearer {self.token}"}
        return self.http.open("/api" + path, method=method, json=body, headers=headers)


def made(client, scope="run", name="Pipeline", days=30):
    answer = client.post("/me/tokens", name=name, scope=scope, days=days)
    assert answer.status_code == 200, answer.json
    return answer.json


@pytest.fixture
def program(app, client):
    return lambda scope: Program(app, made(client, scope)["token"])


def test_a_token_is_told_once_and_only_a_hash_of_it_is_kept(client, database):
    told = made(client)
    token = told["token"]
    assert token.startswith(told["made"]["begins"])
    assert token not in str(client.get("/me/tokens").json)
    with database.session() as session:
        row = session.query(AccessToken).one()
        assert token not in str(vars(row))
        assert row.token_hash != token


def test_each_scope_lets_do_what_it_says_and_no_more(client, quotes, program, database):
    up(database, "st1")
    reads, runs, writes = program("read"), program("run"), program("write")
    for one in (reads, runs, writes):
        assert one.get("/tests").status_code == 200
        assert one.get("/me").json["account"]["username"] == "odo"
    start = f"/tests/{quotes['id']}/runs"
    assert reads.post(start, rows="1").status_code == 403
    run = runs.post(start, rows="1")
    assert run.status_code == 200
    assert runs.post(f"/runs/{run.json['run']['id']}/cancel").status_code == 200
    assert runs.patch(f"/tests/{quotes['id']}", name="Other").status_code == 403
    assert writes.patch(f"/tests/{quotes['id']}", name="Other").status_code == 200
    for path in ("/me/tokens", "/people", "/security-events", "/live/events"):
        assert writes.get(path).status_code == 403, path
    assert writes.post("/me/password", old="x", new="y").status_code == 403
    assert writes.post("/me/tokens", name="more").status_code == 403


def test_one_that_ended_was_taken_back_or_is_of_nobody_lets_nobody_in(
    app, client, program, database
):
    reads = program("read")
    (one,) = client.get("/me/tokens").json["tokens"]
    assert one["used_at"] is None
    assert reads.get("/tests").status_code == 200
    (one,) = client.get("/me/tokens").json["tokens"]
    assert one["used_at"] is not None
    assert one["used_from"] == "127.0.0.1"
    with database.session() as session:
        session.query(AccessToken).one().ends_at = datetime.now(UTC) - timedelta(seconds=1)
    assert reads.get("/tests").status_code == 401
    other = Client(app, "wren")
    assert other.delete(f"/me/tokens/{one['id']}").status_code == 404
    assert client.delete(f"/me/tokens/{one['id']}").status_code == 200
    for wrong in ("", "lantern_", "lantern_" + "x" * 40, "my-own-password"):
        assert Program(app, wrong).get("/tests").status_code == 401
    with database.session() as session:
        refused = [row.about for row in session.query(SecurityEvent) if "refused" in row.what]
    assert refused == [""], "nothing of what was sent is told, and a flood is one line"

    disabled = program("write")
    with database.session() as session:
        session.query(Account).filter_by(username="odo").one().disabled = True
    assert disabled.get("/tests").status_code == 401
    with database.session() as session:
        told = [row.what for row in session.query(SecurityEvent)]
    assert {"token made", "token taken back", "token refused"} <= set(told)


def test_a_viewer_with_a_token_looks_whatever_its_scope(app, quotes):
    viewer = Client(app, "pia")
    program = Program(app, made(viewer, "write")["token"])
    assert program.get("/tests").status_code == 200
    assert program.post(f"/tests/{quotes['id']}/runs").status_code == 403
    (one,) = viewer.get("/me/tokens").json["tokens"]
    assert viewer.delete(f"/me/tokens/{one['id']}").status_code == 200
    assert program.get("/tests").status_code == 401


def test_what_can_be_no_token_is_refused(client):
    assert client.post("/me/tokens", name=" ").status_code == 422
    assert client.post("/me/tokens", name="x", days=0).status_code == 422
    assert client.post("/me/tokens", name="x", scope="all").status_code in (400, 422)
    for n in range(50):
        made(client, name=f"n{n}")
    assert "up to 50" in client.post("/me/tokens", name="more").json["message"]
