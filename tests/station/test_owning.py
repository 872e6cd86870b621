"""Whatever is opened has one owner that closes it, also when the owner is killed."""

import os
import signal
import subprocess
import sys
import tempfile
from pathlib import Path

import psutil
import pytest

from lantern.browser import process
from lantern.browser.engines import ENGINES
from lantern.browser.errors import BrowserError
from lantern.core.engine.browsers import BROWSERS, USUAL
from lantern.host.setup import ROOT
from lantern.station.browsers import Browsers
from tests.station.desk import until

HELD = BROWSERS[USUAL]


def users_of(folder):
    """The living processes that were started with a folder."""
    found = []
    for one in psutil.process_iter(["cmdline", "status"]):
        if one.info["status"] != "zombie" and str(folder) in " ".join(one.info["cmdline"] or []):
            found.append(one.pid)
    return found


@pytest.fixture
def open_folder():
    """A folder that every account can enter: the browser is not root's."""
    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:
        os.chmod(folder, 0o1777)
        yield Path(folder)


@pytest.fixture(params=ENGINES)
def engine(request):
    return request.param


@pytest.fixture
def browser(engine):
    browser = ENGINES[engine].start()
    yield browser
    browser.close()


@pytest.mark.parametrize("engine", ["chromium"])  # Firefox knows no other way than a port
def test_nobody_else_on_the_machine_can_drive_a_browser(browser):
    """It is driven through a pipe: it listens nowhere."""
    family = [psutil.Process(browser.pid), *psutil.Process(browser.pid).children(recursive=True)]
    listening = [
        at.laddr for one in family for at in one.net_connections("inet") if at.status == "LISTEN"
    ]
    assert listening == []


def test_a_closed_browser_leaves_no_process_and_no_file(browser):
    folder = browser.folder
    context = browser.new_session(HELD)
    context.files.put("moon-jar.txt", b"x")
    browser.close()
    assert not folder.exists()
    assert not browser.alive
    until(lambda: users_of(folder) == [], "its processes gone")
    browser.close()  # closing again does nothing


def test_a_browser_that_does_not_start_leaves_no_folder(engine, open_folder, monkeypatch):
    def fails(*_):
        raise OSError("No space left on device")

    monkeypatch.setattr(tempfile, "tempdir", str(open_folder))
    monkeypatch.setattr(process.Process, "_start", fails)
    with pytest.raises(OSError, match="No space left"):
        ENGINES[engine].start()
    assert list(open_folder.iterdir()) == []


@pytest.mark.parametrize("engine", ["firefox"])
def test_a_closed_session_leaves_nothing_in_its_browser(browser):
    """The probe of each row would stay for as long as the browser does, and each frame."""
    told, posted = [], browser.connection.post
    browser.connection.post = lambda method, *more, **kw: (
        told.append(method) or posted(method, *more, **kw)
    )
    session = browser.new_session(HELD)
    page = session.open_page()
    html = "data:text/html,<iframe></iframe><script>setTimeout(() => "
    page.navigate(html + "document.querySelector('iframe').remove(), 50)</script>", 10)
    until(lambda: len(session._of_frames) == 1, "the frame forgotten")
    session.close()
    assert "script.removePreloadScript" in told


def test_a_context_leaves_no_file_though_its_browser_died(browser):
    context = browser.new_session(HELD)
    context.open_page()
    context.files.put("moon-jar.txt", b"x")
    os.kill(browser.pid, signal.SIGKILL)
    until(lambda: not browser.alive, "the browser dead")
    context.close()
    assert not [one for one in browser.folder.glob("*-*") if one.name != "profile"]


KILLED = """
import os, sys
from lantern.browser.engines import ENGINES
from lantern.core.engine.browsers import BROWSERS
browser = ENGINES[sys.argv[1]].start()
browser.new_session(BROWSERS[sys.argv[1]]).open_page()
print(browser.pid, browser.folder, flush=True)
sys.stdin.read()
"""


def test_a_browser_dies_with_its_owner_and_its_folder_is_swept_by_the_next(browser, engine):
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    with subprocess.Popen(
        [sys.executable, "-c", KILLED, engine],
        env=env, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
    ) as owner:  # fmt: skip
        pid, folder = owner.stdout.readline().split()
        assert psutil.pid_exists(int(pid))
        owner.kill()
    until(lambda: users_of(folder) == [], "the browser gone with its owner")
    assert os.path.exists(folder)
    process.sweep()
    assert not os.path.exists(folder)
    assert browser.folder.exists()  # what the living own is left alone
    assert browser.alive


def test_a_spare_context_is_taken_or_closed_by_its_owner(browser, engine):
    browsers, held = Browsers(), BROWSERS[engine]
    browsers._browsers[f"runs {engine}"] = browser
    browsers.prepare(held)
    spare = browsers._spares[held][0].result()
    assert browsers.context(held) is spare
    browsers.prepare(held)
    left = browsers._spares[held][0].result()
    browsers.tend(0)
    assert left.id not in browser._sessions
    spare.close()
    assert browser._sessions == {}


def test_what_a_station_offers_is_looked_at_once(monkeypatch):
    """What it says that it offers, and what it takes from the queue, must agree for its life."""
    monkeypatch.setattr("lantern.station.browsers.installed", lambda: ["chromium"])
    browsers = Browsers()
    monkeypatch.setattr("lantern.station.browsers.installed", lambda: ["chromium", "firefox"])
    assert browsers.engines == ["chromium"]
    browsers.close()


def test_a_context_whose_window_does_not_open_is_closed(browser, engine, monkeypatch):
    browsers = Browsers()
    browsers._browsers[f"runs {engine}"] = browser

    def fails(_):
        raise BrowserError("no window")

    monkeypatch.setattr(type(browser.new_session(HELD)), "open_page", fails)
    before = dict(browser._sessions)
    with pytest.raises(BrowserError):
        browsers.context(BROWSERS[engine])
    assert browser._sessions == before


def test_a_terminal_command_that_is_ended_ends_its_browser(site, open_folder):
    site.put("/", "<button>Ask</button><script>for (;;);</script>")
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src"), "TMPDIR": str(open_folder)}
    command = [
        sys.executable, "-m", "lantern.cli", "element", "learn", f"{site.address}/",
        "--at", "//button",
    ]  # fmt: skip
    with subprocess.Popen(command, env=env, stderr=subprocess.PIPE) as running:
        until(lambda: list(open_folder.glob(f"{process.PREFIX}*")), "its browser")
        folder = next(open_folder.glob(f"{process.PREFIX}*"))
        until(lambda: site.count("/"), "the page asked for")
        running.terminate()
        running.wait(20)
    until(lambda: users_of(folder) == [], "its processes gone")
    assert list(open_folder.glob(f"{process.PREFIX}*")) == []
