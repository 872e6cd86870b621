"""The browsers that a station can start, by the names of core.engine.browsers."""

from __future__ import annotations

from collections.abc import Callable

from lantern.browser.chromium import Chromium

ENGINES: dict[str, Callable[[], Chromium]] = {"chromium": Chromium}
"""How each browser is started. A further one is one entry here and one in the core's list."""
