"""The one seam to browsers: what every engine offers, in no protocol's words.

An engine is a running browser; a session an isolated set of windows in it, as one person with an
empty profile has; a window shows the application, with the probe in each of its frames. Nothing
outside `browser/` knows more of browsers than stands here. Points and boxes are in CSS pixels of
the window's viewport; a frame is named by its id, "" for the window's own document.

Unless it says otherwise, each method may raise BrowserGone, NoAnswer, CommandFailed (the document
went away under it) and DialogOpen.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Future
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal, Protocol

from lantern.browser.files import Downloads, Files
from lantern.browser.traffic import Traffic
from lantern.core.engine.browsers import Browser
from lantern.core.engine.requests import Ran

Report = Mapping[str, Any]
"""What the probe tells by itself: its `type` and what belongs to it."""


@dataclass(frozen=True)
class Dialog:
    """An open browser dialog: alert, confirm, prompt or beforeunload."""

    type: str
    message: str
    default: str = ""


@dataclass(frozen=True)
class PointerInput:
    """What the mouse does, as it is done.

    `buttons` are those held, as the UI Events standard counts them, `modifiers` the sum of those of
    `browser.keys`, `dx` and `dy` how far it turns the wheel.
    """

    kind: Literal["move", "down", "up", "wheel"]
    x: float
    y: float
    button: Literal["none", "left", "middle", "right"] = "none"
    buttons: int = 0
    count: int = 0
    modifiers: int = 0
    dx: float = 0.0
    dy: float = 0.0


@dataclass(frozen=True)
class KeyInput:
    """A key that goes down or up; `text` is what it types, "" for nothing."""

    kind: Literal["down", "up"]
    key: str
    code: str = ""
    number: int = 0
    modifiers: int = 0
    text: str = ""


@dataclass(frozen=True)
class TextInput:
    """A text that is put in whole; `composing` while an input method is still at it."""

    text: str
    composing: bool = False


Input = PointerInput | KeyInput | TextInput


class Window(Protocol):
    """A window (tab). Events come in on the engine's reading thread; calls from any other.

    `target` is its id, `main_frame` that of its own frame. `chooser` tells that it waits for files
    to be chosen; `gone` is set when it has closed or crashed. `on_report` and `on_change` are
    called on the reading thread: they must not wait. `probe_tail` is run behind the probe in every
    document.
    """

    target: str
    title: str
    address: str
    main_frame: str
    viewport: tuple[int, int]
    dialog: Dialog | None
    traffic: Traffic
    gone: threading.Event
    probe_tail: str
    on_report: Callable[[dict[str, Any]], None]
    on_change: Callable[[], None]

    @property
    def chooser(self) -> bool:
        """Whether the page waits for files to be chosen."""

    # -- the probe, and the frames that it is in

    def probe(self, function: str, *args: object, frame: str = "", timeout: float = 15.0) -> Any:  # noqa: ANN401 - whatever the probe's function returns
        """Call a function of the probe in a frame and return its answer."""

    def frames(self) -> list[str]:
        """Return the ids of all frames that the probe is in, the main one first."""

    def frame_path(self, frame: str) -> tuple[str, ...]:
        """Return the names of the frames that lead to a frame, outermost first."""

    def frame_offset(self, frame: str) -> tuple[float, float]:
        """Return where a frame's own corner is in the window."""

    def frame_at(self, x: float, y: float) -> str:
        """Return the innermost frame at a point; raises CommandFailed where there is nothing."""

    def look_into(self, handles: Sequence[int], frame: str = "") -> int:
        """Hand closed shadow roots of nodes over to the probe; returns how many there were."""

    def listens_to_press(self, press: int, frame: str = "") -> bool:
        """Tell whether a script of the page listens to presses on what an act was done to."""

    def run_script(self, script: str, limit: float) -> Ran:
        """Run the body of an async function among the page's own scripts; gives `value`.

        What goes wrong in it, or takes longer than `limit` seconds, is told by the answer.
        """

    # -- going somewhere, and waiting

    def navigate(self, address: str, limit: float) -> tuple[int, str]:
        """Open an address and wait for its document; returns (HTTP status, error in words)."""

    def history(self, to: str, limit: float) -> None:
        """Go "back", "forward" or load anew ("reload"), and wait for the document."""

    def settled(self, limit: float) -> bool:
        """Wait until no navigation is under way; tells whether that came about in time."""

    def read_in(self, limit: float) -> None:
        """Wait until the document is read with its scripts; raises only BrowserGone."""

    def answered(self, limit: float) -> bool:
        """Wait until no answer to a request is waited for; tells whether that came about."""

    def delivered(self, limit: float) -> bool:
        """Wait until all that the page tells its server is answered, and what follows of it."""

    def quiet(self, time: float, limit: float) -> bool:
        """Wait until nothing has changed for `time` seconds and no answer is waited for."""

    def after_input(self, limit: float = 10.0) -> None:
        """Let what an input queued run, and a navigation it started arrive; raises nothing."""

    # -- acting

    def press(self, x: float, y: float, button: str = "left", count: int = 1) -> None:
        """Press and release the mouse at a point, `count` times in a row."""

    def point_at(self, x: float, y: float) -> None:
        """Move the mouse to a point and leave it there."""

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        """Press at a point, move to another and let go; also where the browser itself drags."""

    def press_key(self, keys: str) -> None:
        """Press a key with its modifiers, for example "Control+Enter"; raises UnknownName."""

    def type_text(self, text: str) -> None:
        """Type a text where the focus is: as keys where a keyboard has them, else inserted."""

    def put_in(self, what: Input) -> Future[Any]:
        """Send what a person does as it is; the future is done when the page has taken it."""

    def give_files(self, handle: int, paths: list[str], frame: str = "") -> None:
        """Give files to a file field; it reports the change as if a person had chosen them."""

    def choose_files(self, paths: list[str]) -> None:
        """End the waiting for files with these; none at all chooses nothing."""

    def answer_dialog(self, accept: bool, text: str = "") -> Dialog | None:
        """Answer the open dialog and return it; None when none is open."""

    def come_to_front(self) -> None:
        """Let the browser draw this window; `Session.bring_to_front` knows when that is needed."""

    def end(self) -> None:
        """Close this window; its session takes note by itself."""

    # -- pictures

    def picture(self, quality: int = 70) -> bytes:
        """Take a JPEG of the viewport."""

    def start_pictures(self, take: Callable[[bytes], None], quality: int = 70) -> None:
        """Send a JPEG to `take` (on the reading thread) whenever the page looks different.

        An engine that does not tell by itself sends none: they are asked for by `picture`.
        """

    def stop_pictures(self) -> None:
        """Stop sending pictures; raises nothing."""


class Session(Protocol):
    """An isolated set of windows; closed by who opened it.

    `happened` counts what happened beside a page: a window, a dialog, a download. `on_page` is
    told of every new window before its first script runs.
    """

    happened: int
    pages: list[Window]
    downloads: Downloads
    files: Files
    on_change: Callable[[], None]
    on_page: Callable[[Window], None]

    @property
    def browser(self) -> Engine:
        """The browser that it is in."""

    @property
    def current(self) -> Window:
        """The window that is acted on; raises BrowserGone when none is open."""

    def open_page(self) -> Window:
        """Open a window and return it when it can be used."""

    def switch(self, page: Window) -> None:
        """Make a window the current one."""

    def bring_to_front(self, page: Window) -> None:
        """Let the browser draw this window: one in the background has no pictures."""

    def follow(self, page: Window) -> None:
        """Make a window the current one that is in front by itself, such as a new one."""

    def close_page(self, page: Window) -> None:
        """Close a window."""

    def clear(self, origin: str) -> None:
        """Forget all cookies, and all that an origin has stored."""

    def set_cookies(self, cookies: Sequence[Mapping[str, str]]) -> None:
        """Set cookies, each with `name`, `value` and `url`."""

    def set_headers(self, headers: Mapping[str, str]) -> None:
        """Send these headers with every request from now on."""

    def close(self) -> None:
        """Close all windows and forget everything; raises nothing when the browser is gone."""


class Engine(Protocol):
    """A running browser with any number of sessions; closed by who started it."""

    version: str
    """Its name and version, for example "Chromium 156.0.1"."""

    @property
    def folder(self) -> Path:
        """What is kept on disk for this browser; gone when it is closed."""

    @property
    def pid(self) -> int:
        """The process id of the browser."""

    @property
    def alive(self) -> bool:
        """Whether the process runs and its connection is open."""

    def answers(self, limit: float = 5.0) -> bool:
        """Tell whether the browser itself answers, whatever its pages do."""

    def new_session(self, held_for: Browser) -> Session:
        """Open a fresh session, its windows of the size and manners that it is held for."""

    def close(self) -> None:
        """End the browser and remove all that it kept on disk."""
