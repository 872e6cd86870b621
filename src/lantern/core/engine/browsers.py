"""The browsers that rows can run in, by the names that people write, and what they can do."""

from __future__ import annotations

from dataclasses import dataclass

from lantern.core.problems import UnknownName


@dataclass(frozen=True)
class Engine:
    """What an engine is called, which package of Debian brings it, and what it can do.

    Every engine plays all that can be recorded. Beyond that, `stage` says that it can be recorded
    in and watched at full speed, `touch` that its windows can be those of a touched screen, `drops`
    that what the page lets the browser drag is dropped by the browser itself, not by a script.
    """

    title: str
    package: str
    stage: bool = False
    touch: bool = False
    drops: bool = False

    def can(self) -> list[str]:
        """Return what it can do beyond playing, in words."""
        told = {"stage": self.stage, "touch": self.touch, "drops": self.drops}
        return [word for word, does in told.items() if does]


ENGINES: dict[str, Engine] = {
    "chromium": Engine("Chromium", "chromium", stage=True, touch=True, drops=True),
    "firefox": Engine("Firefox", "firefox-esr"),
}
"""Every engine by its name; browser.engines says how each is started."""


@dataclass(frozen=True)
class Browser:
    """A browser as a row asks for it: the engine that is started, and what it is held to be.

    `width` and `height` are those of its windows in CSS pixels; with `touch` it says of itself
    that it is a mobile device whose screen is touched. A further one is one entry below.
    """

    title: str
    width: int = 1280
    height: int = 800
    touch: bool = False
    engine: str = "chromium"

    @property
    def viewport(self) -> tuple[int, int]:
        """Width and height of its windows, in CSS pixels."""
        return self.width, self.height


USUAL = "chromium"
"""What runs a row that names none."""
BROWSERS: dict[str, Browser] = {
    USUAL: Browser("Chromium"),
    "chromium phone": Browser("Chromium as on a phone", 390, 844, touch=True),
    "chromium tablet": Browser("Chromium as on a tablet", 820, 1180, touch=True),
    "firefox": Browser("Firefox", engine="firefox"),
    "firefox narrow": Browser("Firefox in a narrow window", 390, 844, engine="firefox"),
}
"""Every browser by what a column says of it."""


def browser_named(text: str) -> Browser:
    """Return a browser by its name, the usual one for ""; raises UnknownName."""
    name = " ".join(text.lower().split()) or USUAL
    if name not in BROWSERS:
        raise UnknownName("browser", text.strip(), BROWSERS)
    return BROWSERS[name]


def engine_of(text: str) -> str:
    """Return the engine for a browser by its name, the usual one where there is none of it."""
    try:
        return browser_named(text).engine
    except UnknownName:
        return BROWSERS[USUAL].engine
