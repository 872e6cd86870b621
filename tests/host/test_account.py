"""Started as root, nothing but the start itself runs as root."""

import os
import pwd
import subprocess
import sys
from pathlib import Path

import psutil
import pytest

from lantern import account
from lantern.browser.engines import ENGINES
from lantern.host import setup
from lantern.host.processes import Child
from tests.ui.pages import until

AS_ROOT = pytest.mark.skipif(os.geteuid() != 0, reason="this account is unprivileged already")


@AS_ROOT
@pytest.mark.parametrize("engine", ENGINES)
def test_a_browser_is_not_roots_and_has_its_own_sandbox(engine):
    browser = ENGINES[engine].start()
    try:
        family = [psutil.Process(browser.pid)]
        family += family[0].children(recursive=True)
        assert {one.uids().real for one in family} == {pwd.getpwnam(account.NAME).pw_uid}
        assert not any("--no-sandbox" in one.cmdline() for one in family)
    finally:
        browser.close()


@AS_ROOT
def test_a_child_can_neither_become_root_nor_read_what_is_roots(tmp_path):
    secret = tmp_path / "roots.txt"
    secret.write_text("root's alone")
    secret.chmod(0o600)
    code = f"""
import os
for what in (lambda: os.setuid(0), lambda: open({str(secret)!r}).read()):
    try:
        what()
        print("could")
    except PermissionError:
        print("could not")
"""
    child = Child("some", [sys.executable, "-c", code], tmp_path / "some.log")
    child.start()
    until(lambda: not child.running, "done")
    assert child.last_lines().split("\n") == ["could not", "could not"]


def test_where_others_can_not_enter_everything_runs_as_root_and_says_so(monkeypatch, tmp_path):
    shut = tmp_path / "shut"
    (shut / "lantern").mkdir(parents=True)
    shut.chmod(0o700)
    tmp_path.chmod(0o755)
    found = account.shut_at(shut / "lantern")
    assert found is not None
    assert not found.stat().st_mode & 1
    monkeypatch.setattr(account, "closed", lambda: str(shut))
    monkeypatch.setattr(os, "geteuid", lambda: 0)
    assert account.worker() is None
    assert account.as_worker() == {}
    assert str(shut) in account.as_root()


def test_the_environment_is_made_of_a_python_that_every_account_can_read(monkeypatch):
    monkeypatch.setattr(os, "geteuid", lambda: 0)
    monkeypatch.setattr(setup, "shut_at", lambda path: Path("/root"))
    assert setup.base_python() == setup.DEBIANS_PYTHON
    monkeypatch.setattr(setup, "shut_at", lambda path: None)
    assert setup.base_python() == sys.executable
    command = [setup.DEBIANS_PYTHON, "-c", "import sys; print(sys.version_info >= (3, 11))"]
    assert subprocess.run(command, capture_output=True, text=True, check=True).stdout == "True\n"
