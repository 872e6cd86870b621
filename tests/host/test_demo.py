"""The commands: demo, status, stop and run, as processes of their own."""

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import urllib.request
import uuid
from pathlib import Path
from xml.etree import ElementTree as Xml

import psutil
import pytest

from lantern.host import setup
from lantern.host.ports import free_port, is_free
from lantern.host.setup import ROOT, SetupFailed
from tests.ui.pages import until


class Commands:
    """Runs the command line with data in a folder of its own."""

    def __init__(self, state):
        self.state = state
        self.env = {**os.environ, "LANTERN_STATE": str(state), "PYTHONPATH": str(ROOT / "src")}
        for name in ("LANTERN_DATABASE", "LANTERN_KEY_FILE", "LANTERN_SAMPLE"):
            self.env.pop(name, None)
        self.processes = []

    def command(self, *arguments):
        return [sys.executable, "-m", "lantern.cli", *arguments]

    def run(self, *arguments, limit=120):
        return subprocess.run(
            self.command(*arguments), env=self.env, cwd=ROOT, capture_output=True, text=True,
            timeout=limit, check=False,
        )  # fmt: skip

    def demo(self, *arguments):
        log = (self.state / "demo.log").open("w")
        process = subprocess.Popen(
            self.command("demo", *arguments), env=self.env, cwd=ROOT, stderr=log, stdout=log
        )
        self.processes.append(process)
        return process

    def said(self):
        return (self.state / "demo.log").read_text()

    def ready(self):
        until(lambda: "Lantern is ready at" in self.said(), "a ready demo", 60)
        return self.said().split("Lantern is ready at ")[1].split()[0]

    def children(self):
        """Ids of all processes that belong to this Lantern, PostgreSQL's included."""
        found = []
        for process in psutil.process_iter(["cmdline", "environ"]):
            info = process.info
            if (info["environ"] or {}).get("LANTERN_STATE") == str(self.state) or str(
                self.state
            ) in " ".join(info["cmdline"] or []):
                found.append(process.pid)
        return found


@pytest.fixture
def lantern():
    state = Path("/var/tmp") / f"lantern-state-{uuid.uuid4().hex[:8]}"
    state.mkdir()
    commands = Commands(state)
    yield commands
    for process in commands.processes:
        if process.poll() is None:
            process.terminate()
            process.wait(30)
    postgres = state / "postgres"
    real = postgres.resolve() if postgres.is_symlink() else None
    shutil.rmtree(state, ignore_errors=True)
    if real:
        shutil.rmtree(real, ignore_errors=True)


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
    lantern.demo("--port", str(free_port()))
    second = lantern.ready()
    assert "leftovers are cleared away" in lantern.said()
    assert health(second)["status"] == "ok"


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
