"""A whole demo in folders of its own, started, found out about and cleared away."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import psutil

from lantern.browser.process import PREFIX
from lantern.host.ports import free_port
from lantern.host.setup import ROOT
from lantern.store.database import Database

READY_LIMIT = 90.0
DATA_SIZE, TEMP_SIZE = "700m", "400m"


class Late(Exception):
    """Something did not come about in time."""


def until(condition: Callable[[], Any], what: str, limit: float) -> Any:  # noqa: ANN401
    """Wait until a condition holds and return it; raises Late. What it raises counts as no."""
    end = time.monotonic() + limit
    while time.monotonic() < end:
        with suppress(Exception):
            if found := condition():
                return found
        time.sleep(0.05)
    raise Late(what)


class Demo:
    """`./lantern demo` with its data and its temporary files in folders of their own."""

    def __init__(self, folder: Path, *, small_disks: bool) -> None:
        self.state, self.temp = folder / "state", folder / "temp"
        self.small_disks = small_disks
        self.port = free_port()
        self.env = {
            **os.environ,
            "LANTERN_STATE": str(self.state),
            "TMPDIR": str(self.temp),
            "PYTHONPATH": str(ROOT / "src"),
        }
        for name in ("LANTERN_DATABASE", "LANTERN_KEY_FILE", "LANTERN_SAMPLE"):
            self.env.pop(name, None)
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it and wait until it says that it is ready; raises Late."""
        log = (self.state / "demo.log").open("ab")
        with log:
            command = [sys.executable, "-m", "lantern.cli", "demo", "--port", str(self.port)]
            self.process = subprocess.Popen(
                command, env=self.env, cwd=ROOT, stdout=log, stderr=log, start_new_session=True
            )
        until(self.healthy, "the demo did not get ready", READY_LIMIT)

    def end(self, how: int) -> None:
        """End the whole demo with a signal."""
        assert self.process is not None
        self.process.send_signal(how)
        self.process.wait(60)

    @property
    def told(self) -> dict[str, Any]:
        """What the demo wrote about itself."""
        told: dict[str, Any] = json.loads((self.state / "running.json").read_text())
        return told

    @property
    def address(self) -> str:
        """Where its pages are."""
        return str(self.told["address"])

    def healthy(self) -> bool:
        """Whether it answers that all is well."""
        with urllib.request.urlopen(f"{self.address}/api/health", timeout=5) as answer:
            return bool(json.load(answer)["status"] == "ok")

    @contextmanager
    def database(self) -> Iterator[Database]:
        """Its database, for as long as it is looked at."""
        database = Database(self.told["database"])
        try:
            yield database
        finally:
            database.close()

    def family(self) -> list[psutil.Process]:
        """Every process that belongs to it, wherever it hangs."""
        found = []
        for process in psutil.process_iter(["environ", "cmdline", "status"]):
            info = process.info
            ours = (info["environ"] or {}).get("LANTERN_STATE") == str(self.state)
            if info["status"] != psutil.STATUS_ZOMBIE and (
                ours or str(self.state) in " ".join(info["cmdline"] or [])
            ):
                found.append(process)
        return found

    def orphans(self) -> list[psutil.Process]:
        """Those that no living demo answers for.

        The two crash handlers of a browser leave its tree and its session, and end with it: they
        are answered for by as many browsers as live.
        """
        root = self.process.pid if self.process and self.process.poll() is None else -1
        family = self.family()
        answered = [one for one in family if one.pid == root or root in _ancestors(one.pid)]
        browsers = [one for one in answered if is_browser(one)]
        left = [one for one in family if one not in answered]
        handlers = [one for one in left if "crashpad_handler" in line_of(one)]
        return [one for one in left if one not in handlers[: 2 * len(browsers)]]

    def left_folders(self) -> list[Path]:
        """Folders of browsers whose owners are gone."""
        return [
            folder
            for folder in self.temp.glob(f"{PREFIX}*")
            if not psutil.pid_exists(int(folder.name.removeprefix(PREFIX).split("-")[0]))
        ]

    def kill_all(self) -> None:
        """End everything that is left, with force."""
        for process in self.family():
            with suppress(psutil.NoSuchProcess):
                process.kill()


def _ancestors(pid: int) -> set[int]:
    with suppress(psutil.NoSuchProcess):
        return {one.pid for one in psutil.Process(pid).parents()}
    return set()


def line_of(process: psutil.Process) -> str:
    """Return the command line of a process, "" when it is gone."""
    with suppress(psutil.Error):
        return " ".join(process.cmdline())
    return ""


def is_browser(process: psutil.Process) -> bool:
    """Tell whether a process is a browser itself, not one of its helpers."""
    line = line_of(process)
    return "--user-data-dir" in line and "--type=" not in line


@contextmanager
def a_demo() -> Iterator[Demo]:
    """A demo that runs, on small disks of its own where they may be mounted."""
    folder = Path("/var/tmp") / f"lantern-faults-{uuid.uuid4().hex[:8]}"
    demo = Demo(folder, small_disks=os.geteuid() == 0)
    for part, size in ((demo.state, DATA_SIZE), (demo.temp, TEMP_SIZE)):
        part.mkdir(parents=True)
        part.chmod(0o755)
        mount = ["mount", "-t", "tmpfs", "-o", f"size={size},mode=755", "tmpfs", str(part)]
        if not demo.small_disks or subprocess.run(mount, check=False).returncode != 0:
            demo.small_disks = False
    demo.temp.chmod(0o1777)
    try:
        demo.start()
        yield demo
    finally:
        if demo.process and demo.process.poll() is None:
            with suppress(subprocess.TimeoutExpired):
                demo.end(signal.SIGTERM)
        demo.kill_all()
        for part in (demo.state, demo.temp):
            subprocess.run(["umount", "-l", str(part)], check=False, capture_output=True)
        shutil.rmtree(folder, ignore_errors=True)
