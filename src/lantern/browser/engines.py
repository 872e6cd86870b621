"""Which engines there are, and whether they are installed here.

A further engine is a package beside this module whose class is an `Engine`, an entry here, and one
in core.engine.browsers that says what it can do.
"""

from __future__ import annotations

from collections.abc import Callable
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


ENGINES: dict[str, Start] = {
    "chromium": Start(Chromium, find_chromium),
    "firefox": Start(Firefox, find_firefox),
}
"""Every engine by its name in core.engine.browsers."""


def installed() -> list[str]:
    """Return the names of the engines that can be started on this machine, sorted."""
    return sorted(name for name, engine in ENGINES.items() if _is_there(engine))


def _is_there(engine: Start) -> bool:
    try:
        engine.find()
    except BrowserError:
        return False
    return True
