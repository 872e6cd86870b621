"""What the interpreter asks of whoever drives it, and the answers.

Each request names the answer that must be sent back into the generator. A driver that loses its
browser throws `StageLost` into the generator instead, one whose page was replaced `PageGone`, one
that fails itself `DriverFailed`.
"""

from __future__ import annotations

from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, TypeVar

from lantern.core.elements.clues import Clue
from lantern.core.elements.facts import Box, Facts

T = TypeVar("T")
Unready = Literal["", "hidden", "disabled", "covered", "moving", "outside"]


class StageLost(Exception):
    """The browser behind the stage died or stopped answering."""


class DriverFailed(Exception):
    """Whoever drives the interpreter could not do what was asked: a mistake of Lantern's own."""


class PageGone(Exception):
    """The document that a request was about was replaced under it."""


@dataclass(frozen=True)
class Now:
    """The time in seconds on a clock that never goes back. Answer: float."""


@dataclass(frozen=True)
class Query:
    """Which nodes could match, in any frame of the page: CSS and clues that narrow the search."""

    selector: str
    clues: tuple[Clue, ...] = ()


@dataclass(frozen=True)
class Lookup:
    """Look for nodes. Answer: Seen.

    With `after` (a stamp of an earlier answer) the page first waits up to `wait` seconds for a
    change. With `aim` and one candidate alone, that one is made ready for input as well.
    """

    query: Query
    aim: bool = False
    after: int | None = None
    wait: float = 0.0


@dataclass(frozen=True)
class Aim:
    """Scroll the node into view and tell where to press it. Answer: Aimed.

    `at` is the place in it as shares of its width and height (0 to 1); None for where it is
    reached best.
    """

    handle: int
    frame: str = ""
    at: tuple[float, float] | None = None


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
class Open:
    """Go to an address. Answer: Opened."""

    address: str
    limit: float = 30.0


@dataclass(frozen=True)
class Opened:
    """How opening went: the HTTP status (0 when there was none) and the error in words, or ""."""

    status: int = 200
    error: str = ""


@dataclass(frozen=True)
class Mouse:
    """Press at a point. Answer: None."""

    x: float
    y: float
    button: Literal["left", "right"] = "left"
    count: int = 1


@dataclass(frozen=True)
class PointAt:
    """Move the mouse to a point and leave it there. Answer: None."""

    x: float
    y: float


@dataclass(frozen=True)
class Drag:
    """Press at a point, move to another and let go. Answer: None."""

    x: float
    y: float
    to_x: float
    to_y: float


@dataclass(frozen=True)
class History:
    """Go back, forward or load anew, and wait for the document. Answer: None."""

    to: Literal["back", "forward", "reload"]
    limit: float = 30.0


@dataclass(frozen=True)
class GiveFiles:
    """Give files kept with the test to a file field.

    Answer: the name of one that is missing, or "".
    """

    handle: int
    names: Sequence[str]
    frame: str = ""


@dataclass(frozen=True)
class Downloads:
    """Which downloads were begun, in order. Answer: sequence of Download."""


@dataclass(frozen=True)
class Download:
    """A download: `size` in bytes, `text` its beginning where it is text."""

    id: str
    name: str
    size: int = 0
    state: Literal["under way", "done", "failed"] = "done"
    text: str = ""


@dataclass(frozen=True)
class KeepDownload:
    """Keep a download with the result. Answer: {"name", "size", "digest"}."""

    id: str


@dataclass(frozen=True)
class TypeText:
    """Press at a point and type, after emptying the field unless `append`. Answer: None."""

    handle: int
    x: float
    y: float
    text: str = field(repr=False)
    frame: str = ""
    append: bool = False


@dataclass(frozen=True)
class Letters:
    """Type a text where the focus is, at the caret. Answer: None."""

    text: str = field(repr=False)


@dataclass(frozen=True)
class ScrollOn:
    """Scroll what can be scrolled so that more of it comes to be shown. Answer: bool.

    `down` is where to begin, in CSS pixels from the top; None goes on from where it is. The answer
    is False when nothing more comes.
    """

    down: float | None = None


@dataclass(frozen=True)
class Choose:
    """Choose an option of a native choice list by its text. Answer: Chosen."""

    handle: int
    option: str
    frame: str = ""


@dataclass(frozen=True)
class Chosen:
    """Whether the option was there, and what the list offers."""

    done: bool
    options: Sequence[str] = ()


@dataclass(frozen=True)
class PressKey:
    """Press a key with modifiers, for example "Control+Enter". Answer: None."""

    keys: str


@dataclass(frozen=True)
class Read:
    """Read a property of a node. Answer: str, or None when the node is gone."""

    handle: int
    property: str
    frame: str = ""


@dataclass(frozen=True)
class AnswerDialog:
    """Answer the open browser dialog. Answer: its message, or None when none was open."""

    accept: bool
    text: str = ""


@dataclass(frozen=True)
class Windows:
    """Which windows (tabs) are open, in order of opening. Answer: sequence of Window."""


@dataclass(frozen=True)
class Window:
    """A window of the application under test."""

    id: str
    title: str
    address: str
    current: bool = False


@dataclass(frozen=True)
class SwitchTo:
    """Make a window the current one. Answer: None."""

    id: str


@dataclass(frozen=True)
class CloseWindow:
    """Close a window; the one opened before it becomes current. Answer: None."""

    id: str


@dataclass(frozen=True)
class Wait:
    """Let some seconds pass, or less when something happens. Answer: None."""

    seconds: float


@dataclass(frozen=True)
class Nearby:
    """List all that is recognised on the page. Answer: Facts list."""


@dataclass(frozen=True)
class Quiet:
    """Wait until nothing has changed or been asked for `seconds`; up to `limit` seconds.

    Answer: whether that came about.
    """

    seconds: float
    limit: float


@dataclass(frozen=True)
class RunCode:
    """Run a Python function apart, with inputs as text. Answer: Ran."""

    source: str
    function: str
    types: Mapping[str, str]
    inputs: Mapping[str, str]
    limit: float


@dataclass(frozen=True)
class Ran:
    """How code went: what it gave by name, or the error in words with its line (0: none)."""

    gave: Mapping[str, str] = field(default_factory=dict)
    error: str = ""
    line: int = 0


@dataclass(frozen=True)
class PageScript:
    """Run a script in the page. Answer: Ran, which gives `value`."""

    script: str
    limit: float


@dataclass(frozen=True)
class Picture:
    """Take a picture of the page. Answer: the digest under which it is kept, or "".

    `failed` tells that a step has just failed on it: then all that is on the page is kept as well.
    """

    failed: bool = False


@dataclass(frozen=True)
class StepStarts:
    """A step begins. Answer: None."""

    step_id: str
    position: int
    sentence: str


@dataclass(frozen=True)
class StepEnds:
    """A step is over; `result` is to be kept now. Answer: None."""

    result: Any


@dataclass(frozen=True)
class StopEverything:
    """A step failed whose failure ends the whole run, not its row alone. Answer: None."""


Request = (
    StopEverything
    | Now
    | Lookup
    | Aim
    | Open
    | Mouse
    | PointAt
    | Drag
    | History
    | GiveFiles
    | Downloads
    | KeepDownload
    | TypeText
    | Letters
    | ScrollOn
    | Choose
    | PressKey
    | Read
    | AnswerDialog
    | Windows
    | SwitchTo
    | CloseWindow
    | Wait
    | Nearby
    | Picture
    | Quiet
    | RunCode
    | PageScript
    | StepStarts
    | StepEnds
)

ACTING = (
    Open, Mouse, Drag, History, GiveFiles, Letters, PressKey, AnswerDialog, CloseWindow, RunCode,
    PageScript,
)  # fmt: skip
"""Requests that must not be done twice; typing and choosing only set a value."""

Play = Generator[Request, Any, T]
"""A piece of a test being played: yields requests, is sent answers, returns a T."""
