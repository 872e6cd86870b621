"""The command line as processes of their own, with data in a folder of its own."""

import os
import shutil
import subprocess
import sys
import uuid
from pathlib import Path

import psutil

from lantern.host.ports import free_port
from lantern.host.setup import ROOT
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
        # That of another demo on this machine must not be taken for this one's.
        desk = ("--desk-port", str(free_port()))
        process = subprocess.Popen(
            self.command("demo", *desk, *arguments), env=self.env, cwd=ROOT, stderr=log, stdout=log
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

    def serve(self, *arguments, program=None):
        """Start a Lantern for real use; what it says goes where the demo's does."""
        log = (self.state / "demo.log").open("w")
        command = [program, "serve"] if program else self.command("serve")
        process = subprocess.Popen(
            [*command, *arguments], env=self.env, cwd=ROOT, stderr=log, stdout=log
        )
        self.processes.append(process)
        return process

    def end(self):
        """End all that was started, and remove the data."""
        for process in self.processes:
            if process.poll() is None:
                process.terminate()
                process.wait(30)
        for place in self.state.glob("postgres*"):
            if place.is_symlink():
                shutil.rmtree(place.resolve(), ignore_errors=True)
        shutil.rmtree(self.state, ignore_errors=True)


def in_new_folder():
    state = Path("/var/tmp") / f"lantern-state-{uuid.uuid4().hex[:8]}"
    state.mkdir()
    return Commands(state)
