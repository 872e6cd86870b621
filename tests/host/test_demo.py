"""The commands: demo, status, stop and run, as processes of their own."""

import json
import os
import signal
import socket
import stat
import subprocess
import sys
import urllib.request
from urllib.parse import urlsplit
from xml.etree import ElementTree as Xml

import pytest

from lantern.host import setup
from lantern.host.ports import free_port, is_free
from lantern.host.processes import LONGEST_PAUSE, STEADY, Pauses
from lantern.host.setup import SetupFailed
from tests.ui.pages import until


def health(address):
    with urllib.request.urlopen(f"{address}/api/health", timeout=5) as answer:
        return json.load(answer)


def test_a_demo_comes_up_is_looked_at_used_and_ended(lantern):
    """Start, second start refused, status, a run from the terminal, stop, start again."""
    port = free_port()
    lantern.demo("--port", str(port))
    address = lantern.ready()
    assert address == f"http://127.0.0.1:{port}"
    assert health(address)["status"] == "ok"
    for words in ("wren", "lantern-lead", "odo", "pia", "sample application"):
        assert words in lantern.said()

    again = lantern.run("demo")
    assert again.returncode == 1
    assert f"running already at {address}" in again.stderr
    status = lantern.run("status")
    assert (status.returncode, "1 up" in status.stderr) == (0, True)

    files = {"junit": lantern.state / "out.xml", "json": lantern.state / "out.json"}
    run = lantern.run(
        "run", "Quotes by clay and cone", "--rows", "5-6",
        "--junit", str(files["junit"]), "--json", str(files["json"]),
    )  # fmt: skip
    assert run.returncode == 1, run.stderr
    assert "row 5: passed" in run.stderr
    assert "“€ 7.30”" in run.stderr
    assert Xml.parse(files["junit"]).getroot().get("failures") == "1"
    record = json.loads(files["json"].read_text())
    assert [row["outcome"] for row in record["rows"]] == ["passed", "failed"]
    assert "wheel-and-kiln" not in files["json"].read_text() + files["junit"].read_text()

    assert lantern.run("stop").returncode == 0
    until(lambda: not lantern.children(), "every process ended", 20)
    assert lantern.run("status").returncode == 3

    # The data is still there after a second start, on another port if the first is taken.
    with socket.socket() as taken:
        taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        taken.bind(("127.0.0.1", port))
        taken.listen()
        demo = lantern.demo("--port", str(port))
        address = lantern.ready()
    assert f"Port {port} is in use" in lantern.said()
    page = urllib.request.urlopen(address).read()
    assert b"Lantern" in page
    logs = "".join(log.read_text() for log in (lantern.state / "logs").glob("*.log"))
    assert "wheel-and-kiln" not in logs
    demo.send_signal(signal.SIGINT)
    assert demo.wait(30) == 0
    until(lambda: not lantern.children(), "every process ended", 20)


def test_a_demo_that_was_killed_leaves_nothing_and_starts_again(lantern):
    demo = lantern.demo("--port", str(free_port()))
    first = lantern.ready()
    demo.kill()
    demo.wait(10)
    until(lambda: is_free(int(first.rsplit(":")[-1])), "the web process gone with its parent", 20)
    until(lambda: not lantern.children(), "every process gone with it, PostgreSQL as well", 30)
    lantern.demo("--port", str(free_port()))
    second = lantern.ready()
    assert "leftovers are cleared away" in lantern.said()
    assert health(second)["status"] == "ok"


def test_two_that_start_at_once_do_not_get_into_each_others_way(lantern):
    port = free_port()
    first, second = (lantern.demo("--port", str(port)) for _ in range(2))
    until(lambda: first.poll() is not None or second.poll() is not None, "one of them gone", 60)
    lost, kept = (first, second) if first.poll() is not None else (second, first)
    assert (lost.returncode, kept.poll()) == (1, None)
    assert f"running already at http://127.0.0.1:{port}" in lantern.said()
    until(lambda: health(f"http://127.0.0.1:{port}")["status"] == "ok", "the other one", 60)


def test_a_database_that_dies_is_started_again_and_told_of(lantern):
    lantern.demo("--port", str(free_port()))
    address = lantern.ready()
    state = json.loads((lantern.state / "running.json").read_text())
    os.kill(state["postgres"], signal.SIGKILL)
    until(lambda: "The database ended by itself" in lantern.said(), "its death noted", 20)

    def well():
        try:
            return health(address)["status"] == "ok"
        except OSError:
            return False

    until(well, "all of it well again", 40)
    run = lantern.run("run", "Quotes by clay and cone", "--rows", "1")
    assert run.returncode == 0, run.stderr


def test_nobody_gets_into_the_database_without_its_password(lantern):
    lantern.demo("--port", str(free_port()))
    lantern.ready()
    state = lantern.state / "running.json"
    assert stat.S_IMODE(state.stat().st_mode) == 0o600
    url = urlsplit(json.loads(state.read_text())["database"])
    folder = str((lantern.state / "postgres").resolve())
    others = [user for user in ("nobody", "postgres") if os.geteuid() == 0] or [""]
    for user in others:
        for host in ("127.0.0.1", folder):
            command = [
                "psql", "--no-password", "-h", host, "-p", str(url.port), "-U", "postgres",
                "-c", "SELECT 1", "lantern",
            ]  # fmt: skip
            as_user = {"user": user, "extra_groups": []} if user else {}
            tried = subprocess.run(
                command, capture_output=True, text=True, cwd="/", check=False,
                env={"PATH": os.environ["PATH"]}, **as_user,
            )  # fmt: skip
            assert tried.returncode != 0, (user, host)
            assert "password" in tried.stderr or "ermission denied" in tried.stderr
    password = lantern.state.joinpath("postgres", "password").resolve()
    assert stat.S_IMODE(password.stat().st_mode) == 0o600


def test_what_keeps_dying_is_started_ever_more_slowly_but_never_given_up():
    now = [1000.0]
    pauses = Pauses(lambda: now[0])
    pauses.started()
    waits = []
    for _ in range(9):
        began = now[0]
        while not pauses.may_start():
            now[0] += 0.25
        waits.append(now[0] - began)
        pauses.started()
    assert waits[0] == 0
    assert waits == sorted(waits)
    assert waits[-1] == LONGEST_PAUSE
    now[0] += STEADY + 1
    assert pauses.steady
    assert pauses.may_start()  # it ran well for a while: the next death is the first again


def test_a_run_without_a_lantern_up_starts_what_it_needs(lantern):
    """The database and a station come up for the run alone; what can not run exits with 2."""
    demo = lantern.demo("--port", str(free_port()))
    lantern.ready()
    demo.terminate()
    demo.wait(30)
    missing = lantern.run("run", "No such test")
    assert missing.returncode == 2
    assert "Quotes by clay and cone" in missing.stderr
    # The Kiln Desk is down, so the first sentence fails; everything else came up by itself.
    run = lantern.run("run", "Book a firing")
    assert run.returncode == 1, run.stderr
    assert "could not be opened" in run.stderr
    assert lantern.run("run", "Quotes by clay and cone", "--rows", "99").returncode == 2
    until(lambda: not lantern.children(), "every process ended", 20)


def test_a_failed_step_says_which_command_and_its_last_lines():
    with pytest.raises(SetupFailed) as failed:
        setup.run([sys.executable, "-c", "print('first'); print('last'); raise SystemExit(3)"])
    assert "code 3" in str(failed.value)
    assert "    last" in str(failed.value)


def test_missing_packages_without_root_print_the_exact_command(monkeypatch):
    monkeypatch.setattr(setup, "PACKAGES", {"chromium": lambda: False, "npm": lambda: True})
    monkeypatch.setattr(setup.os, "geteuid", lambda: 1000)
    monkeypatch.setattr(setup.shutil, "which", lambda name: None)
    with pytest.raises(SetupFailed, match=r"install -y --no-install-recommends chromium$"):
        setup.debian()


def test_a_step_is_done_once_for_the_same_value(tmp_path, monkeypatch):
    monkeypatch.setattr(setup, "OWN", tmp_path)
    done = []
    for value in ("1", "1", "2"):
        setup.once("thing", "Doing it", value, tmp_path, lambda: done.append(1))
    assert len(done) == 2
