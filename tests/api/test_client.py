"""The client of pipelines: one file, an empty folder, a token; exit codes, files, being stopped."""

import json
import os
import signal
import socket
import subprocess
import sys
import threading
from http.server import BaseHTTPRequestHandler, HTTPServer
from xml.etree import ElementTree as Xml

import pytest
from werkzeug.serving import make_server

from lantern.client.packing import packed
from lantern.client.talk import Server, Unreached
from lantern.store import plan_runs
from lantern.store.models import Environment, PlanRun
from tests.api.planning import Worker, up
from tests.api.test_tokens import made

QUOTES, BOOKING = "Quotes by clay and cone", "Book a firing"


@pytest.fixture
def address(app):
    server = make_server("127.0.0.1", 0, app, threaded=True)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.port}"
    server.shutdown()
    thread.join(5)


@pytest.fixture
def start(tmp_path, address, client):
    """Start the packed client in an empty folder, with a token that may run."""
    file = tmp_path / "lantern-client.pyz"
    file.write_bytes(packed())
    folder = tmp_path / "empty"
    folder.mkdir()
    token = made(client)["token"]
    started = []

    def start(*arguments, token=token):
        command = [sys.executable, "-I", str(file), "--server", address, *arguments]
        env = {"PATH": os.environ["PATH"], "LANTERN_TOKEN": token}
        pipe = subprocess.PIPE
        child = subprocess.Popen(
            command,
            cwd=folder,
            env=env,
            stdin=subprocess.DEVNULL,
            stdout=pipe,
            stderr=pipe,
            text=True,
        )
        started.append(child)
        return child

    start.folder = folder
    yield start
    for child in started:
        child.kill()
        child.communicate()


def ended(child):
    out, err = child.communicate(timeout=60)
    return child.returncode, out, err


def until_started(database):
    """Wait until the client's run is there; returns its number."""
    wait = threading.Event()
    for _ in range(300):
        with database.session() as session:
            found = plan_runs.open_ones(session)
        if found:
            return found[0]
        wait.wait(0.1)
    raise AssertionError("The client started nothing.")


def plan(client, tests=(BOOKING,), name="Every night", **more):
    picks = [{"test": client.test_named(one)["id"]} for one in tests]
    return client.post("/plans", name=name, plan={"picks": picks, **more}).json


def played(database, outcome=lambda *_: "passed"):
    until_started(database)
    Worker(database).play(outcome)


def test_a_plan_is_run_from_an_empty_folder_with_files_of_what_came_of_it(client, database, start):
    up(database, "st1")
    plan(client, (BOOKING, QUOTES))
    child = start(
        "--plan",
        "every NIGHT",
        "--wait",
        "--junit",
        "o.xml",
        "--html",
        "o.html",
        "--json",
        "o.json",
    )
    played(database, lambda name, number, _: "failed" if number == 3 else "passed")
    code, out, err = ended(child)
    assert (code, err) == (1, "")
    assert out.splitlines()[0].startswith("Run 1 of “every NIGHT”: http://")
    assert out.splitlines()[-1] == "failed: 1 failed, 7 passed"
    suites = Xml.parse(start.folder / "o.xml").getroot()
    assert (suites.get("tests"), suites.get("failures")) == ("8", "1")
    assert [one.get("name") for one in suites] == [BOOKING, QUOTES]
    told = json.loads((start.folder / "o.json").read_text())
    assert (told["state"], told["counts"]) == ("failed", {"failed": 1, "passed": 7})
    html = (start.folder / "o.html").read_text()
    assert "It is not there." in html
    assert "▲ failed" in html
    with database.session() as session:
        assert session.query(PlanRun).one().cause == "a program"


@pytest.mark.parametrize(("asked", "code"), [((), 0), (("--unsteady",), 3)])
def test_what_passes_at_the_second_try_exits_with_three_when_asked(
    client, database, start, asked, code
):
    up(database, "st1")
    plan(client, retries=1)
    child = start("--plan", "Every night", "--wait", *asked)
    came = iter(["failed", "passed"])
    played(database, lambda *_: next(came))
    assert ended(child)[0] == code


def test_without_waiting_it_only_starts_with_another_environment_and_other_variables(
    client, database, start
):
    with database.session() as session:
        session.add(Environment(name="Staging", address="http://127.0.0.1:9", variables={"a": "1"}))
    plan(client)
    code, out, _ = ended(start("--plan", "Every night", "--environment", "staging", "--set", "a=2"))
    assert (code, len(out.splitlines())) == (0, 1)
    with database.session() as session:
        (run,) = session.query(PlanRun).one().runs
        assert (run.environment_name, run.variables) == ("Staging", {"a": "2"})
    code, _, err = ended(start("--plan", "Every night", "--environment", "staging", "--set", "b=2"))
    assert (code, "b" in err) == (2, True)


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        (("--plan", "No such plan"), "There is no plan “No such plan”."),
        (
            ("--plan", "Every night", "--environment", "moon"),
            "no environment “moon”. There are: Kiln",
        ),
        (("--plan", "Every night", "--set", "loose"), "NAME=VALUE"),
        ((), "--plan"),
    ],
)
def test_what_can_not_be_says_so_and_exits_with_two(client, start, asked, said):
    plan(client)
    code, _, err = ended(start(*asked))
    assert (code, said in err) == (2, True), err


def test_a_wrong_token_and_an_address_where_nobody_is_exit_with_two(client, start):
    plan(client)
    code, _, err = ended(start("--plan", "Every night", token="lantern_none"))
    assert (code, "token is good for nothing" in err) == (2, True)
    code, _, err = ended(start("--plan", "Every night", "--server", "http://127.0.0.1:1"))
    assert (code, "does not answer" in err) == (2, True)


def test_a_client_that_is_ended_cancels_its_run_where_nobody_can_be_asked(client, database, start):
    up(database, "st1")
    plan(client, (QUOTES,))
    child = start("--plan", "Every night", "--wait")
    key = until_started(database)
    child.stdout.readline()
    child.send_signal(signal.SIGTERM)
    code, _, err = ended(child)
    assert (code, f"run {key} was cancelled" in err) == (2, True)
    with database.session() as session:
        assert plan_runs.get(session, key).cancel_asked


def test_a_token_goes_to_no_other_address_than_the_one_that_was_given(client, start):
    asked = []

    class Elsewhere(BaseHTTPRequestHandler):
        def do_GET(self):
            asked.append(self.headers.get("Authorization"))
            self.send_response(302)
            self.send_header("Location", f"http://127.0.0.1:{server.server_port}/there")
            self.end_headers()

        def log_message(self, *_):
            pass

    server = HTTPServer(("127.0.0.1", 0), Elsewhere)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    where = f"http://127.0.0.1:{server.server_port}"
    code, _, err = ended(start("--plan", "Every night", "--server", where))
    server.shutdown()
    server.server_close()
    assert (code, len(asked)) == (2, 1)
    assert "It leads to" in err


def test_names_do_not_steer_the_terminal(client, database, start):
    plan(client, name="Night\x1b[2J")
    code, out, _ = ended(start("--plan", "Night\x1b[2J"))
    assert (code, "\x1b" in out) == (0, False)


def test_the_client_is_fetched_from_lantern_itself(client):
    answer = client.get("/client.pyz")
    assert answer.data.startswith(b"#!/usr/bin/env python3\nPK")


@pytest.mark.parametrize(
    ("head", "body"),
    [
        ("200 OK\r\nContent-Length: 15", b"<html>Sign in</"),  # the page of a network
        ("200 OK\r\nContent-Length: 90", b'{"run": {"id": 1'),  # the line broke in the middle
        ("200 OK\r\nContent-Length: 0", b""),
    ],
)
def test_what_is_no_answer_of_a_lantern_is_nobody_reached(head, body):
    with socket.create_server(("127.0.0.1", 0)) as listens:

        def answer():
            caller, _ = listens.accept()
            with caller:
                caller.recv(65536)
                caller.sendall(f"HTTP/1.1 {head}\r\n\r\n".encode() + body)

        threading.Thread(target=answer, daemon=True).start()
        server = Server(f"http://127.0.0.1:{listens.getsockname()[1]}", "token")
        with pytest.raises(Unreached):
            server.get("/plans")
