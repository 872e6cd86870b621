"""Which engines there are, and whether they are installed here.

A further engine is a package beside this module whose class is an `Engine`, an entry here, and one
in core.engine.browsers that says what it can do. Remote ones are made of what people say of them.
"""

from __future__ import annotations

import re
import subprocess
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from lantern.browser.chromium import Chromium
from lantern.browser.chromium.engine import find_chromium
from lantern.browser.chromium.printing import print_pdf
from lantern.browser.errors import BrowserError
from lantern.browser.firefox import Firefox
from lantern.browser.firefox.engine import find_firefox
from lantern.browser.remote import Remote, Setup, is_ready
from lantern.browser.session import Engine
from lantern.browser.webkit import WebKit
from lantern.browser.webkit.engine import find_webkit, version_of_webkit

__all__ = ["ENGINES", "Remote", "Setup", "Start", "installed", "is_ready", "versions"]
LIMIT = 10.0
"""Seconds that a program may need to say its version."""


def version_of(program: str) -> str:
    """Return the version of a program, such as “Chromium 156.0.7000.2”."""
    try:
        said = subprocess.run(
            [program, "--version"], capture_output=True, text=True, timeout=LIMIT, check=False
        ).stdout
    except (OSError, subprocess.TimeoutExpired):
        return ""
    found = re.search(r"[A-Z][\w ]*? \d[\d.]*", said)
    return found[0] if found else ""


@dataclass(frozen=True)
class Start:
    """How an engine is started, its program found (BrowserError: not at all), its version told.

    `prints` makes a PDF of an HTML document, None for one that can not.
    """

    start: Callable[[], Engine]
    find: Callable[[], str]
    version: Callable[[str], str] = version_of
    prints: Callable[[Any, str], bytes] | None = None


ENGINES: dict[str, Start] = {
    "chromium": Start(Chromium, find_chromium, prints=print_pdf),
    "firefox": Start(Firefox, find_firefox),
    "webkit": Start(WebKit, find_webkit, version_of_webkit),
}
"""Every engine by its name in core.engine.browsers."""


def installed() -> list[str]:
    """Return the names of the engines that can be started on this machine, sorted."""
    return sorted(name for name, engine in ENGINES.items() if _is_there(engine))


def versions(names: Iterable[str]) -> dict[str, str]:
    """Return what the programs of some engines say of their versions, "" where they say nothing."""
    there = [name for name in names if name in ENGINES]
    return {name: ENGINES[name].version(ENGINES[name].find()) for name in there}


def _is_there(engine: Start) -> bool:
    try:
        engine.find()
    except BrowserError:
        return False
    return True
