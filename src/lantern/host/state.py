"""What a running Lantern tells of itself: where it keeps its data, its address, how it is."""

from __future__ import annotations

import json
import os
import signal
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

from lantern.host.setup import STATE, SetupFailed, say

STATE_FILE = STATE / "running.json"
LOGS = STATE / "logs"
KEY = STATE / "secret.key"
LOCK = STATE / "lock"


def running_state() -> dict[str, Any] | None:
    """Return what a running demo wrote about itself; None when none runs."""
    try:
        state: dict[str, Any] = json.loads(STATE_FILE.read_text())
        pid = int(state["pid"])
    except (OSError, ValueError, KeyError):
        return None
    return state if is_lantern(pid) else None


def is_lantern(pid: int) -> bool:
    """Tell whether a process is a Lantern: a number may have been given to another since."""
    try:
        command = Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False
    return b"lantern.cli" in command or b"/lantern\0" in command


def health_of(address: str) -> dict[str, Any] | None:
    """Return what a Lantern says of how it is, None when it does not answer."""
    try:
        with urllib.request.urlopen(f"{address}/api/health", timeout=2) as answer:  # noqa: S310
            return dict(json.load(answer))
    except urllib.error.HTTPError as error:
        return dict(json.load(error))
    except (OSError, ValueError):
        return None


def wait_healthy(address: str, limit: float) -> None:
    """Wait until Lantern answers that all is well; raises SetupFailed after `limit` seconds."""
    end = time.monotonic() + limit
    while True:
        health = health_of(address)
        if health and health["status"] == "ok":
            return
        if time.monotonic() > end:
            raise SetupFailed(f"Lantern at {address} did not get ready: {health}")
        time.sleep(0.1)


def stop() -> int:
    """End a running demo from another terminal."""
    state = running_state()
    if state is None:
        say("Lantern is not running.")
        return 0
    pid = int(state["pid"])
    os.kill(pid, signal.SIGTERM)
    end = time.monotonic() + 25
    while is_lantern(pid) and time.monotonic() < end:
        time.sleep(0.1)
    if is_lantern(pid):
        say(f"Lantern (process {pid}) does not end. End it with: kill -9 {pid}")
        return 1
    say("Lantern has ended.")
    return 0


def status() -> int:
    """Say what runs; returns 0 when all is well, 1 when something is not, 3 when nothing runs."""
    state = running_state()
    if state is None:
        say("Lantern is not running. Start it with: lantern demo, or lantern serve")
        return 3
    health = health_of(state["address"]) if state["address"] else None
    say(f"Lantern (process {state['pid']}) at {state['address'] or 'no address yet'}")
    if health is None:
        say("  It does not answer.")
        for trouble in state.get("troubles", []):
            say(f"  trouble             {trouble}")
        return 1
    for part in ("status", "version", "database", "stations", "sample_application"):
        say(f"  {part.replace('_', ' '):<20}{health[part]}")
    for trouble in state.get("troubles", []):
        say(f"  trouble             {trouble}")
    return 0 if health["status"] == "ok" else 1
