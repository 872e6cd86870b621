"""What the interpreter asks of whoever drives it, and the answers.

Each request is of the type of the answer that must be sent back into the generator. A driver that
loses its browser throws `StageLost` into the generator instead, one whose page was replaced
`PageGone`, one that fails itself `DriverFailed`.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Generic, Literal, TypedDict, TypeVar

from lantern.core.elements.clues import Clue
from lantern.core.elements.facts import Box, Facts

if TYPE_CHECKING:
    from lantern.core.engine.driver import Driver

T = TypeVar("T")
Unready = Literal["", "hidden", "disabled", "covered", "moving", "outside"]


class StageLost(Exception):
    """The browser behind the stage died or stopped answering."""


class DriverFailed(Exception):
    """Whoever drives the interpreter could not do what was asked: a mistake of Lantern's own."""


class PageGone(Exception):
    """The document that a request was about was replaced under it."""


class Request(ABC, Generic[T]):
    """Something that is asked of whoever drives the interpreter, whose answer is a T.

    `answer = yield from request` asks it within a play, and has the type of the answer.
    """

    def __iter__(self) -> Generator[Request[Any], Any, T]:
        """Ask, and return the answer."""
        answer: T = yield self
        return answer

    @abstractmethod
    def ask_of(self, driver: Driver) -> T:
        """Let a driver answer it."""


@dataclass(frozen=True)
class Now(Request[float]):
    """The time in seconds on a clock that never goes back. Answer: float."""

    def ask_of(self, driver: Driver) -> float:
        return driver.now(self)


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
class Open(Request["Opened"]):
    """Go to an address. Answer: Opened."""

    address: str
    limit: float = 30.0

    def ask_of(self, driver: Driver) -> Opened:
        return driver.open(self)


@dataclass(frozen=True)
class Opened:
    """How opening went: the HTTP status (0 when there was none) and the error in words, or ""."""

    status: int = 200
    error: str = ""


@dataclass(frozen=True)
class Mouse(Request[None]):
    """Press at a point. Answer: None."""

    x: float
    y: float
    button: Literal["left", "right"] = "left"
    count: int = 1

    def ask_of(self, driver: Driver) -> None:
        driver.press(self)


@dataclass(frozen=True)
class PointAt(Request[None]):
    """Move the mouse to a point and leave it there. Answer: None."""

    x: float
    y: float

    def ask_of(self, driver: Driver) -> None:
        driver.point_at(self)


@dataclass(frozen=True)
class Drag(Request[None]):
    """Press at a point, move to another and let go. Answer: None."""

    x: float
    y: float
    to_x: float
    to_y: float

    def ask_of(self, driver: Driver) -> None:
        driver.drag(self)


@dataclass(frozen=True)
class History(Request[None]):
    """Go back, forward or load anew, and wait for the document. Answer: None."""

    to: Literal["back", "forward", "reload"]
    limit: float = 30.0

    def ask_of(self, driver: Driver) -> None:
        driver.go(self)


@dataclass(frozen=True)
class GiveFiles(Request[str]):
    """Give files kept with the test to a file field.

    Answer: the name of one that is missing, or "".
    """

    handle: int
    names: Sequence[str]
    frame: str = ""

    def ask_of(self, driver: Driver) -> str:
        return driver.give_files(self)


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


class KeptFile(TypedDict):
    """A file that was kept: its name, its size in bytes and its digest."""

    name: str
    size: int
    digest: str


@dataclass(frozen=True)
class KeepDownload(Request["KeptFile"]):
    """Keep a download with the result. Answer: {"name", "size", "digest"}."""

    id: str

    def ask_of(self, driver: Driver) -> KeptFile:
        return driver.keep_download(self)


@dataclass(frozen=True)
class TypeText(Request[None]):
    """Press at a point and type, after emptying the field unless `append`. Answer: None."""

    handle: int
    x: float
    y: float
    text: str = field(repr=False)
    frame: str = ""
    append: bool = False

    def ask_of(self, driver: Driver) -> None:
        driver.type_text(self)


@dataclass(frozen=True)
class Letters(Request[None]):
    """Type a text where the focus is, at the caret. Answer: None."""

    text: str = field(repr=False)

    def ask_of(self, driver: Driver) -> None:
        driver.type_letters(self)


@dataclass(frozen=True)
class ScrollOn(Request[bool]):
    """Scroll what can be scrolled so that more of it comes to be shown. Answer: bool.

    `down` is where to begin, in CSS pixels from the top; None goes on from where it is. The answer
    is False when nothing more comes.
    """

    down: float | None = None

    def ask_of(self, driver: Driver) -> bool:
        return driver.scroll_on(self)


@dataclass(frozen=True)
class Choose(Request["Chosen"]):
    """Choose an option of a native choice list by its text. Answer: Chosen."""

    handle: int
    option: str
    frame: str = ""

    def ask_of(self, driver: Driver) -> Chosen:
        return driver.choose(self)


@dataclass(frozen=True)
class Chosen:
    """Whether the option was there, and what the list offers."""

    done: bool
    options: Sequence[str] = ()


@dataclass(frozen=True)
class PressKey(Request[None]):
    """Press a key with modifiers, for example "Control+Enter". Answer: None."""

    keys: str

    def ask_of(self, driver: Driver) -> None:
        driver.press_key(self)


@dataclass(frozen=True)
class Read(Request[str | None]):
    """Read a property of a node. Answer: str, or None when the node is gone."""

    handle: int
    property: str
    frame: str = ""

    def ask_of(self, driver: Driver) -> str | None:
        return driver.read(self)


@dataclass(frozen=True)
class AnswerDialog(Request[str | None]):
    """Answer the open browser dialog. Answer: its message, or None when none was open."""

    accept: bool
    text: str = ""

    def ask_of(self, driver: Driver) -> str | None:
        return driver.answer_dialog(self)


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
class SwitchTo(Request[None]):
    """Make a window the current one. Answer: None."""

    id: str

    def ask_of(self, driver: Driver) -> None:
        driver.switch_to(self)


@dataclass(frozen=True)
class CloseWindow(Request[None]):
    """Close a window; the one opened before it becomes current. Answer: None."""

    id: str

    def ask_of(self, driver: Driver) -> None:
        driver.close_window(self)


@dataclass(frozen=True)
class Wait(Request[None]):
    """Let some seconds pass, or less when something happens. Answer: None."""

    seconds: float

    def ask_of(self, driver: Driver) -> None:
        driver.wait(self)


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
class RunCode(Request["Ran"]):
    """Run a Python function apart, with inputs as text. Answer: Ran."""

    source: str
    function: str
    types: Mapping[str, str]
    inputs: Mapping[str, str]
    limit: float

    def ask_of(self, driver: Driver) -> Ran:
        return driver.run_code(self)


@dataclass(frozen=True)
class Ran:
    """How code went: what it gave by name, or the error in words with its line (0: none)."""

    gave: Mapping[str, str] = field(default_factory=dict)
    error: str = ""
    line: int = 0


@dataclass(frozen=True)
class PageScript(Request["Ran"]):
    """Run a script in the page. Answer: Ran, which gives `value`."""

    script: str
    limit: float

    def ask_of(self, driver: Driver) -> Ran:
        return driver.run_page_script(self)


@dataclass(frozen=True)
class Picture(Request[str]):
    """Take a picture of the page. Answer: the digest under which it is kept, or "".

    `failed` tells that a step has just failed on it: then all that is on the page is kept as well.
    """

    failed: bool = False

    def ask_of(self, driver: Driver) -> str:
        return driver.picture(self)


@dataclass(frozen=True)
class StepStarts(Request[None]):
    """A step begins. Answer: None."""

    step_id: str
    position: int
    sentence: str

    def ask_of(self, driver: Driver) -> None:
        driver.step_starts(self)


@dataclass(frozen=True)
class StepEnds(Request[None]):
    """A step is over; `result` is to be kept now. Answer: None."""

    result: Any

    def ask_of(self, driver: Driver) -> None:
        driver.step_ends(self)


@dataclass(frozen=True)
class StopEverything(Request[None]):
    """A step failed whose failure ends the whole run, not its row alone. Answer: None."""

    def ask_of(self, driver: Driver) -> None:
        driver.stop_everything(self)


ACTING: tuple[type[Request[Any]], ...] = (
    Open, Mouse, Drag, History, GiveFiles, Letters, PressKey, AnswerDialog, CloseWindow, RunCode,
    PageScript,
)  # fmt: skip
"""Requests that must not be done twice; typing and choosing only set a value."""

Play = Generator[Request[Any], Any, T]
"""A piece of a test being played: yields requests, is sent answers, returns a T."""
