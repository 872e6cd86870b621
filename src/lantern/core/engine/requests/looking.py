"""Looking at the pages: what is there, where it is, whether it rests."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from lantern.core.elements.clues import Clue
from lantern.core.elements.facts import Box, Facts
from lantern.core.engine.requests.base import Request

if TYPE_CHECKING:
    from lantern.core.engine.driver import Driver


Unready = Literal["", "hidden", "disabled", "covered", "moving", "outside"]


@dataclass(frozen=True)
class Query:
    """Which nodes could match, in any frame of the page: CSS and clues that narrow the search."""

    selector: str
    clues: tuple[Clue, ...] = ()


@dataclass(frozen=True)
class Lookup(Request["Seen"]):
    """Look for nodes. Answer: Seen.

    With `after` (a stamp of an earlier answer) the page first waits up to `wait` seconds for a
    change. With `aim` and one candidate alone, that one is made ready for input as well.
    """

    query: Query
    aim: bool = False
    after: int | None = None
    wait: float = 0.0

    def ask_of(self, driver: Driver) -> Seen:
        return driver.look_up(self)


@dataclass(frozen=True)
class Aim(Request["Aimed"]):
    """Scroll the node into view and tell where to press it. Answer: Aimed.

    `at` is the place in it as shares of its width and height (0 to 1); None for where it is
    reached best.
    """

    handle: int
    frame: str = ""
    at: tuple[float, float] | None = None

    def ask_of(self, driver: Driver) -> Aimed:
        return driver.aim(self)


@dataclass(frozen=True)
class Aimed:
    """Where to press a node (CSS pixels of the viewport), or why it is not ready.

    `problem` is "" for ready; `by` says in words what covers the node.
    """

    handle: int
    x: float = 0
    y: float = 0
    box: Box = Box()
    problem: Unready = ""
    by: str = ""


@dataclass(frozen=True)
class Seen:
    """What a lookup found: facts of at most some dozens of nodes, and how many there were.

    `stamp` is to be given as `after` of the next lookup; `dialog` the message of an open browser
    dialog that blocks the page.
    """

    candidates: Sequence[Facts] = ()
    total: int = 0
    stamp: int = 0
    aimed: Aimed | None = None
    dialog: str | None = None


@dataclass(frozen=True)
class Downloads(Request["Sequence[Download]"]):
    """Which downloads were begun, in order. Answer: sequence of Download."""

    def ask_of(self, driver: Driver) -> Sequence[Download]:
        return driver.downloads(self)


@dataclass(frozen=True)
class Download:
    """A download: `size` in bytes, `text` its beginning where it is text."""

    id: str
    name: str
    size: int = 0
    state: Literal["under way", "done", "failed"] = "done"
    text: str = ""


@dataclass(frozen=True)
class Read(Request[str | None]):
    """Read a property of a node. Answer: str, or None when the node is gone."""

    handle: int
    property: str
    frame: str = ""

    def ask_of(self, driver: Driver) -> str | None:
        return driver.read(self)


@dataclass(frozen=True)
class Windows(Request["Sequence[Window]"]):
    """Which windows (tabs) are open, in order of opening. Answer: sequence of Window."""

    def ask_of(self, driver: Driver) -> Sequence[Window]:
        return driver.windows(self)


@dataclass(frozen=True)
class Window:
    """A window of the application under test."""

    id: str
    title: str
    address: str
    current: bool = False


@dataclass(frozen=True)
class Nearby(Request[Sequence[Facts]]):
    """List all that is recognised on the page. Answer: Facts list."""

    def ask_of(self, driver: Driver) -> Sequence[Facts]:
        return driver.nearby(self)


@dataclass(frozen=True)
class Quiet(Request[bool]):
    """Wait until nothing has changed or been asked for `seconds`; up to `limit` seconds.

    Answer: whether that came about.
    """

    seconds: float
    limit: float

    def ask_of(self, driver: Driver) -> bool:
        return driver.quiet(self)


@dataclass(frozen=True)
class Outstanding(Request[Sequence[str]]):
    """What the page waits for because of what was done to it. Answer: as "GET /path", in order."""

    def ask_of(self, driver: Driver) -> Sequence[str]:
        return driver.outstanding(self)
