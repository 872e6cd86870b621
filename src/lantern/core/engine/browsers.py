"""The browsers that rows can run in, by the names that people write."""

from __future__ import annotations

from lantern.core.problems import UnknownName

BROWSERS: dict[str, str] = {"chromium": "Chromium"}
"""Every browser: what a column says of it, and what it is called."""
USUAL = "chromium"
"""What runs a row that names none."""


def browser_named(text: str) -> str:
    """Return the key of a browser, the usual one for ""; raises UnknownName."""
    name = text.strip().lower() or USUAL
    if name not in BROWSERS:
        raise UnknownName("browser", text.strip(), BROWSERS)
    return name
