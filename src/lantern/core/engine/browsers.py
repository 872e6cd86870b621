"""The browsers that rows can run in, by the names that people write, and what they can do."""

from __future__ import annotations

from dataclasses import dataclass

from lantern.core.problems import UnknownName


@dataclass(frozen=True)
class Engine:
    """What an engine is called, which package of Debian brings it, and what it can do.

    Every engine plays all that can be recorded, but for what it `lacks`, in words that people are
    told before they run something in it. Beyond that, `stage` says that it can be recorded
    in and watched at full speed, `touch` that its windows can be those of a touched screen, `drops`
    that what the page lets the browser drag is dropped by the browser itself, not by a script,
    `tells` that it tells by itself of answers and complaints,
    `apart` that what Lantern does in pages runs apart from their own scripts.
    """

    title: str
    package: str
    stage: bool = False
    touch: bool = False
    drops: bool = False
    tells: bool = True
    apart: bool = True
    lacks: tuple[str, ...] = ()

    def can(self) -> list[str]:
        """Return what it can do beyond playing, in words."""
        told = {"stage": self.stage, "touch": self.touch, "drops": self.drops}
        return [word for word, does in told.items() if does]


NO_STATUS = (
    "It does not tell with which status a page was answered: an error page counts as opened."
)
NOT_AHEAD = "It sees requests and complaints of a page only once the page has been read."
CLASSIC_LACKS = (
    NO_STATUS,
    "It does not find what lies in closed shadow roots.",
    NOT_AHEAD,
    "Pages that put something else in the place of what every browser has may not be played.",
)
"""What can not be done over W3C WebDriver alone."""
NO_DOWNLOADS = "Files that it downloads stay where it is: they are not seen."
ENGINES: dict[str, Engine] = {
    "chromium": Engine("Chromium", "chromium", stage=True, touch=True, drops=True),
    "firefox": Engine("Firefox", "firefox-esr"),
    "webkit": Engine("WebKit", "webkit2gtk-driver", tells=False, apart=False, lacks=CLASSIC_LACKS),
}
"""Every engine by its name; browser.engines says how each is started."""


REMOTE = "remote "
"""How the names of browsers begin that are elsewhere, at an address of a project's own."""
LONGEST_REMOTE = 30
"""Bytes of what follows: queues are named after it."""


def engine_called(name: str, *, status: bool = False, ahead: bool = False) -> Engine:
    """Return an engine by its name; raises UnknownName.

    Of a remote one it has to be said what is known of it: whether it tells the `status` of pages,
    and whether they are watched `ahead` of their own scripts.
    """
    if name in ENGINES:
        return ENGINES[name]
    if not name.startswith(REMOTE):
        raise UnknownName("engine", name, ENGINES)
    found = {NO_STATUS: status, NOT_AHEAD: ahead}
    lacks = tuple(one for one in (*CLASSIC_LACKS, NO_DOWNLOADS) if not found.get(one))
    return Engine(f"Remote {name.removeprefix(REMOTE)}", "", tells=False, apart=False, lacks=lacks)


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
    "webkit": Browser("WebKit", engine="webkit"),
}
"""Every browser by what a column says of it."""


def browser_named(text: str) -> Browser:
    """Return a browser by its name, the usual one for ""; raises UnknownName.

    Any name that begins with REMOTE is one: whether there is such a browser only stations know.
    """
    name = " ".join(text.lower().split()) or USUAL
    if name.startswith(REMOTE):
        return Browser(f"Remote {name.removeprefix(REMOTE)}", engine=name)
    if name not in BROWSERS:
        raise UnknownName("browser", text.strip(), BROWSERS)
    return BROWSERS[name]


def engine_of(text: str) -> str:
    """Return the engine for a browser by its name, the usual one where there is none of it."""
    try:
        return browser_named(text).engine
    except UnknownName:
        return BROWSERS[USUAL].engine
