"""Logs: readable by one account, a line of JSON each, and no value of a secret in any of them."""

import json
import os
import subprocess
import sys
from pathlib import Path

from lantern.host.processes import Child
from lantern.host.setup import ROOT
from lantern.store import logs

SECRET = "wheel & kiln/9"
PROCESS = """
import logging, threading, structlog
from lantern.store import logs
logs.configure()
logs.know([SECRET, "90210", '": '])
log = structlog.get_logger()
def fail(secret):
    raise ValueError(f"can not use {secret}")
log.info("typed", pin=90210, text=SECRET)
log.info("sent", more={"address": "/?p=wheel+%26+kiln%2F9", SECRET: [SECRET]})
try:
    fail(SECRET)
except ValueError:
    log.exception("failed")
    logging.getLogger("library").exception("gave %s", SECRET.upper())
one = threading.Thread(target=fail, args=(SECRET,))
one.start()
one.join()
fail(SECRET)
"""


def lantern_process(code, **streams):
    """Run code in a process that knows Lantern."""
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    return subprocess.run([sys.executable, "-c", code], env=env, check=False, **streams)


def test_no_log_of_a_process_holds_a_secret_however_it_came_there():
    done = lantern_process(f"SECRET = {SECRET!r}\n{PROCESS}", capture_output=True)
    lines = (done.stdout + done.stderr).decode().splitlines()
    told = [json.loads(line) for line in lines]
    assert sum(one["event"] == "unforeseen" for one in told) == 2, "the thread and the process"
    assert sum("Traceback" in one.get("exception", "") for one in told) == 4
    whole = "\n".join(lines).lower()
    assert "kiln" not in whole, whole
    assert "90210" not in whole


def test_a_log_that_can_not_be_written_ends_nothing():
    code = """if True:
        import sys, structlog
        from lantern.store import logs
        logs.configure()
        structlog.get_logger().error("nobody reads this")
        sys.stderr.write("went on")
    """
    with Path("/dev/full").open("w") as full:
        done = lantern_process(code, stdout=full, stderr=subprocess.PIPE)
    assert (done.returncode, done.stderr) == (0, b"went on")


def test_what_the_vault_told_of_is_in_no_log(monkeypatch):
    monkeypatch.setattr(logs, "_secrets", set())
    logs.know(["kiln-4711"])
    assert logs.hidden("before KILN-4711 after") == "before •••••• after"


def test_a_log_is_read_by_its_owner_alone(tmp_path):
    log = tmp_path / "logs" / "some.log"
    child = Child("some", [sys.executable, "-c", "print('up')"], log)
    log.parent.mkdir()
    log.write_text("from an earlier life\n")
    log.chmod(0o644)
    child.start()
    child.process.wait(20)
    assert log.stat().st_mode & 0o777 == 0o600
    assert log.read_text() == "from an earlier life\nup\n"
