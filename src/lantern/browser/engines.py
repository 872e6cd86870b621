"""Which engines there are, and whether they are installed here.

A further engine is a package beside this module whose class is an `Engine`, an entry here, and one
in core.engine.browsers that says what it can do.
"""

from __future__ import annotations

import re
import subprocess
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from lantern.browser.chromium import Chromium
from lantern.browser.chromium.engine import find_chromium
from lantern.browser.errors import BrowserError
from lantern.browser.firefox import Firefox
from lantern.browser.firefox.engine import find_firefox
from lantern.browser.session import Engine


@dataclass(frozen=True)
class Start:
    """How an engine is started, and how its program is found: BrowserError says it is not."""

    start: Callable[[], Engine]
    find: Callable[[], str]


LIMIT = 10.0
"""Seconds that a program may need to say its version."""
ENGINES: dict[str, Start] = {
    "chromium": Start(Chromium, find_chromium),
    "firefox": Start(Firefox, find_firefox),
}
"""Every engine by its name in core.engine.browsers."""


def installed() -> list[str]:
    """Return the names of the engines that can be started on this machine, sorted."""
    return sorted(name for name, engine in ENGINES.items() if _is_there(engine))


def versions(names: Iterable[str]) -> dict[str, str]:
    """Return what the programs of some engines say of their versions, "" where they say nothing."""
    return {name: _version(ENGINES[name].find()) for name in names if name in ENGINES}


def _version(program: str) -> str:
    """Return the version of a program, such as “Chromium 156.0.7000.2”."""
    try:
        said = subprocess.run(
            [program, "--version"], capture_output=True, text=True, timeout=LIMIT, check=False
        ).stdout
    except (OSError, subprocess.TimeoutExpired):
        return ""
    found = re.search(r"[A-Z][\w ]*? \d[\d.]*", said)
    return found[0] if found else ""


def _is_there(engine: Start) -> bool:
    try:
        engine.find()
    except BrowserError:
        return False
    return True
