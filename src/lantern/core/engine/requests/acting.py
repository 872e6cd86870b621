"""Doing what a person does, and running what was written for the page."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Literal, TypedDict

from lantern.core.engine.requests.base import Request
from lantern.core.engine.requests.row import Ran, RunCode

if TYPE_CHECKING:
    from lantern.core.engine.driver import Driver


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
class Mouse(Request[str]):
    """Press at a point; `handle` is the node in `frame` that it is for, 0 for whatever lies there.

    Answer: in words, what the press met instead of that node; "" where it met it, or none knows.
    """

    x: float
    y: float
    button: Literal["left", "right"] = "left"
    count: int = 1
    handle: int = 0
    frame: str = ""

    def ask_of(self, driver: Driver) -> str:
        return driver.press(self)


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
class AnswerDialog(Request[str | None]):
    """Answer the open browser dialog. Answer: its message, or None when none was open."""

    accept: bool
    text: str = ""

    def ask_of(self, driver: Driver) -> str | None:
        return driver.answer_dialog(self)


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
class PageScript(Request["Ran"]):
    """Run a script in the page. Answer: Ran, which gives `value`."""

    script: str
    limit: float

    def ask_of(self, driver: Driver) -> Ran:
        return driver.run_page_script(self)


ACTING: tuple[type[Request[Any]], ...] = (
    Open, Mouse, Drag, History, GiveFiles, Letters, PressKey, AnswerDialog, CloseWindow, RunCode,
    PageScript,
)  # fmt: skip
"""Requests that must not be done twice; typing and choosing only set a value."""
