"""The API against a real PostgreSQL, without a browser."""

import os

import pytest
from sqlalchemy import select

from lantern.demo.post.box import Box, listening
from lantern.host.ports import free_port
from lantern.store.models import Account
from lantern.web.app import create_app

DEMO = ("Quotes by clay and cone", "Book a firing")
"""The tests of the demo."""
PASSWORDS = {"wren": "lantern-lead", "odo": "lantern-tester", "pia": "lantern-viewer"}


class Client:
    """A signed-in browser: keeps its cookie and sends the token with every change."""

    def __init__(self, app, username="odo"):
        self.http = app.test_client()
        self.csrf = ""
        if username:
            answer = self.post("/sign-in", username=username, password=PASSWORDS[username])
            assert answer.status_code == 200
            self.csrf = answer.json["csrf"]

    def get(self, path, **query):
        return self.http.get("/api" + path, query_string=query)

    def send(self, method, path, body):
        headers = {"X-CSRF-Token": self.csrf}
        return self.http.open("/api" + path, method=method, json=body, headers=headers)

    def post(self, path, **body):
        return self.send("POST", path, body)

    def put(self, path, **body):
        return self.send("PUT", path, body)

    def patch(self, path, **body):
        return self.send("PATCH", path, body)

    def delete(self, path):
        return self.send("DELETE", path, None)

    def test_named(self, name):
        """The test of that name, in full."""
        listed = self.get("/tests").json["tests"]
        return self.get(f"/tests/{next(t['id'] for t in listed if t['name'] == name)}").json

    def edit(self, test, **edit):
        """Edit a test on the version that was read."""
        return self.post(f"/tests/{test['id']}/edits", base=test["version"], edit=edit)


@pytest.fixture
def app(database):
    os.environ.pop("LANTERN_SAMPLE", None)
    return create_app(database.url)


@pytest.fixture
def client(app):
    return Client(app)


@pytest.fixture
def quotes(client):
    """The demo's test of quotes."""
    return client.test_named("Quotes by clay and cone")


@pytest.fixture
def ids(client):
    """The numbers of the demo's tests."""
    return {name: client.test_named(name)["id"] for name in DEMO}


@pytest.fixture
def make(client, ids):
    """Make a plan of both tests; parts of it may be said otherwise."""

    def make(name="Every night", tests=DEMO, **more):
        picks = [{"test": ids[one]} for one in tests]
        answer = client.post("/plans", name=name, plan={"picks": picks, **more})
        assert answer.status_code == 200, answer.json
        return answer.json

    return make


@pytest.fixture
def nightly(make):
    """The number of a plan of one of the demo's tests."""
    return make(tests=("Book a firing",))["id"]


@pytest.fixture
def box():
    box = Box()
    box.port = free_port()
    controller = listening(box, box.port)
    yield box
    controller.stop()


@pytest.fixture
def lead(client):
    return Client(client.http.application, "wren")


@pytest.fixture
def server(lead, box):
    """Let mails go to the box; parts of it may be said otherwise."""

    def put(**more):
        body = {"host": "127.0.0.1", "port": box.port, "security": "none"}
        return lead.put("/mail-server", **body | {"sender": "lantern@emberhall.example"} | more)

    assert put().status_code == 200
    return put


@pytest.fixture
def people(database):
    """The numbers of the demo's people by their sign-in names."""
    with database.session() as session:
        return dict(session.execute(select(Account.username, Account.id)).all())
