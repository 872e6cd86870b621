"""WebKit: a screen that nobody sees, and a driver with a browser on it for each session."""

from __future__ import annotations

import os
import re
import secrets
import shutil
import socket
import struct
import subprocess
import time
from contextlib import ExitStack
from pathlib import Path

from lantern.account import as_worker, give
from lantern.browser.classic.session import ClassicSession
from lantern.browser.classic.wire import Wire
from lantern.browser.errors import BrowserError, BrowserGone
from lantern.browser.process import Guarded, own_folder
from lantern.browser.session import Session
from lantern.core.engine.browsers import BROWSERS, USUAL, Browser

START_LIMIT = 30.0
SCREEN = "2000x2400x24"
DISPLAY = re.compile(r"^\d+$", re.M)
EMPTY = 1.0
"""Seconds after which a download that is empty is taken for one that ends so."""
PARTIAL = ".wkdownload"
"""How files end that are still being downloaded."""


def find_webkit() -> str:
    """Return the path of WebKit's small browser; raises BrowserError with what to install."""
    here = os.environ.get("LANTERN_WEBKIT", "")
    found = (
        [here] if here else sorted(map(str, Path("/usr/lib").glob("*/webkit2gtk-4.*/MiniBrowser")))
    )
    missing = [name for name in ("WebKitWebDriver", "Xvfb") if not shutil.which(name)]
    if not found or missing:
        raise BrowserError(
            "WebKit is not installed. Install it with: apt-get install webkit2gtk-driver xvfb"
        )
    return found[-1]


class WebKit:
    """A screen on which browsers of sessions are shown; each session has a browser of its own."""

    def __init__(self) -> None:
        self._program = find_webkit()
        self._sessions: dict[str, WebKitSession] = {}
        with own_folder() as folder:
            cookie = folder / "xauthority"
            _write_cookie(cookie)
            command = ["Xvfb", "-displayfd", "2", "-screen", "0", SCREEN, "-nolisten", "tcp"]
            self._screen = Guarded([*command, "-auth", str(cookie)], folder)
        try:
            number = self._screen.wait_for(DISPLAY, START_LIMIT)
            if number is None:
                raise BrowserError(f"There is no screen for WebKit: {self._screen.said()}")
            self._env = {"DISPLAY": f":{number}", "XAUTHORITY": str(cookie)}
            self.version = _version(self._program, self._env)
        except BaseException:
            self._screen.close()
            raise

    @property
    def folder(self) -> Path:
        """What is kept on disk for this browser; gone when it is closed."""
        return self._screen.folder

    @property
    def pid(self) -> int:
        """The process id of its screen."""
        return self._screen.pid

    @property
    def alive(self) -> bool:
        """Whether its screen is there."""
        return self._screen.running

    def answers(self, limit: float = 5.0) -> bool:
        """Tell whether its screen is there; each session has a browser of its own."""
        return self.alive

    def new_session(self, held_for: Browser = BROWSERS[USUAL]) -> WebKitSession:
        """Start a driver with a browser of its own: no cookies, storage or cache of any other."""
        if not self.alive:
            raise BrowserGone("The browser has ended.")
        session = WebKitSession(self, self._program, held_for, self._env)
        self._sessions[session.id] = session
        return session

    def drop(self, session: Session) -> None:
        """Take note that a session has ended."""
        if isinstance(session, WebKitSession):
            self._sessions.pop(session.id, None)

    def close(self) -> None:
        """End all browsers and the screen, and remove all that was kept on disk."""
        with ExitStack() as closing:
            closing.callback(self._screen.close)
            for session in list(self._sessions.values()):
                closing.callback(session.close)


class WebKitSession(ClassicSession):
    """A driver of its own with a browser of its own."""

    def __init__(
        self, browser: WebKit, program: str, held_for: Browser, env: dict[str, str]
    ) -> None:
        port = _free_port()
        with own_folder() as folder:
            self._home = folder / "home"
            self._home.mkdir()
            give(self._home)
            driver = Guarded(
                ["WebKitWebDriver", f"--port={port}"], folder, {**env, "HOME": str(self._home)}
            )
        self._begun: dict[Path, float] = {}
        self._ended: set[Path] = set()
        try:
            _await_port(port, driver)
            options = {"binary": program, "args": ["--automation"]}
            wire = Wire(f"http://127.0.0.1:{port}")
            demands = {"webkitgtk:browserOptions": options}
            super().__init__(browser, folder, held_for, wire, demands, driver.close)
        except BaseException:
            driver.close()
            raise

    def look_for_files(self) -> None:
        """Take note of downloads: the browser puts them into its home."""
        there = {file for file in self._home.iterdir() if not file.name.startswith(".")}
        for file in sorted(one for one in there if one.suffix != PARTIAL and one.is_file()):
            if file not in self._begun:
                self._begun[file] = time.monotonic()
                self.happened += 1
                self.downloads.begun(str(file), file.name)
            # What is under way lies beside it, which is empty until then.
            under_way = file.with_name(file.name + PARTIAL) in there
            fresh = time.monotonic() - self._begun[file] < EMPTY
            if (
                not under_way
                and not (fresh and file.stat().st_size == 0)
                and file not in self._ended
            ):
                self._ended.add(file)
                self.downloads.ended(str(file), file)


def version_of_webkit(program: str) -> str:
    """Return what the browser says of its version; it needs a screen even for that."""
    browser = WebKit()
    try:
        return browser.version
    finally:
        browser.close()


def _version(program: str, env: dict[str, str]) -> str:
    """Return what the browser says of its version, such as “WebKit 2.50.6”."""
    try:
        done = subprocess.run(
            [program, "--version"],
            env={**os.environ, **env},
            capture_output=True,
            text=True,
            timeout=START_LIMIT,
            check=False,
            **as_worker(),
        )
    except (OSError, subprocess.TimeoutExpired):
        return "WebKit"
    found = re.search(r"WebKit\w* (\d[\d.]*)", done.stdout)
    return f"WebKit {found[1]}" if found else "WebKit"


def _write_cookie(file: Path) -> None:
    """Write what lets onto the screen (the format of Xau: family, address, number, name, data)."""
    name, data = b"MIT-MAGIC-COOKIE-1", secrets.token_bytes(16)
    fields = [b"", b"", name, data]
    packed = b"".join(struct.pack(">H", len(one)) + one for one in fields)
    with os.fdopen(os.open(file, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600), "wb") as out:
        out.write(struct.pack(">H", WILD) + packed)
    give(file)


WILD = 0xFFFF
"""The family that fits every display."""


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _await_port(port: int, driver: Guarded) -> None:
    """Wait until a driver listens; raises BrowserError."""
    end = time.monotonic() + START_LIMIT
    while True:
        try:
            socket.create_connection(("127.0.0.1", port), timeout=1.0).close()
            return
        except OSError as error:
            if not driver.running or time.monotonic() > end:
                raise BrowserError(f"The driver did not start: {driver.said()}") from error
            time.sleep(0.02)
