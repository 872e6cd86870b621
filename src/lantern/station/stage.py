"""A live stage: what the tester does on it goes to the browser, and is recorded."""

from __future__ import annotations

import base64
import json
import threading
from collections.abc import Callable
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import Annotated, Any

import structlog
from pydantic import Field, TypeAdapter

from lantern.browser.choosing import choose
from lantern.browser.errors import BrowserError, DialogOpen
from lantern.browser.session import Engine, Session, Window
from lantern.core.addresses import joined, parts_of
from lantern.core.channel import (
    Asked,
    ChooseAsked,
    DialogAsked,
    FilesAsked,
    HistoryAsked,
    OpenAsked,
    PersonSaid,
    RecordAsked,
    Said,
    WindowAsked,
)
from lantern.core.elements.kinds import pressable_selector
from lantern.core.engine.browsers import BROWSERS, USUAL, Browser
from lantern.core.problems import BadInput, Problem
from lantern.station.input import Input
from lantern.station.keeping import Keeper
from lantern.station.live import Live
from lantern.station.picker import Pointer
from lantern.station.recording import Recording
from lantern.station.redaction import Redactor
from lantern.station.rehearsal import KEPT
from lantern.station.rehearsing import Rehearsals
from lantern.station.workbench import Desk

log = structlog.get_logger()
ASKED: TypeAdapter[Any] = TypeAdapter(Annotated[Asked, Field(discriminator="type")])
LARGEST_FILE = 25 * 1024 * 1024
"""Bytes of all files that may be given to the page in one go."""


def _session(browser: Engine | None, held: Browser) -> Session:
    if browser is None:
        raise BrowserError("There is no browser for the stage.")
    return browser.new_session(held)


class Stage:
    """A context shown live for the author of a test: its own, or that of a row that was taken."""

    def __init__(
        self,
        browser: Engine | None,
        keeper: Keeper,
        base: str,
        held: Browser = BROWSERS[USUAL],
        owner: PersonSaid | None = None,
        *,
        taken: tuple[Session, Live] | None = None,
    ) -> None:
        self.keeper, self.base = keeper, base
        self._taking = threading.RLock()
        self._commands: dict[str, Callable[[Any], None]] = {
            "open": self._open,
            "history": self._history,
            "dialog": self._dialog,
            "choose": self._choose,
            "files": self._give_files,
            "window": self._switch,
            "close window": self._close_window,
            "record": self._record,
        }
        with ExitStack() as opened:
            self.context = taken[0] if taken else _session(browser, held)
            if not taken:
                opened.callback(self.context.close)
            self.context.on_page = self._new_page
            self.recording = Recording(self)
            self.context.downloads.on_begin = lambda name: self.recording.note(
                "download", value=name
            )
            self.pointer = Pointer(self)
            self._input = Input(lambda: self.context.current)
            self.desk = Desk(self)
            self.rehearsals = Rehearsals(self, owner or {"account": 0, "name": ""})
            self._commands |= self.pointer.commands | self.desk.commands | self._input.commands
            self._commands |= self.rehearsals.commands
            if taken:
                self.live = taken[1]
                self._take_over()
            else:
                self.context.open_page()
                self.live = Live(self.context, always=True, redactor=Redactor(keeper.secrets))
                opened.callback(self.live.close)
            keeper.viewport = held.viewport
            self.recording.begin()
            opened.callback(self.recording.close)
            opened.callback(self.rehearsals.close)
            self._opened = opened.pop_all()

    def _take_over(self) -> None:
        """Follow the windows that are open already, and what is done in them from now on."""
        current = self.context.current
        for page in list(self.context.pages):
            self._new_page(page)
            for frame in page.frames():
                with suppress(BrowserError):  # one that is being replaced begins by itself
                    page.probe("report", pressable_selector(), frame=frame)
        self.context.follow(current)

    # -- from the tester -----------------------------------------------------------------------

    def take(self, message: dict[str, Any], who: int = 0) -> None:
        """Carry out a message of the tester; what goes wrong is said to the viewers.

        Messages of several tabs are carried out one after the other. `who` is the account that it
        comes from; only who has the controls may do anything but look.
        """
        try:
            asked = ASKED.validate_python(message)
            if not self.rehearsals.may(who, asked["type"]):
                return
            with self._taking:
                self._commands[asked["type"]](asked)
        except DialogOpen:
            self.live.changed()
        except Problem as error:
            self.trouble(error.message, error.hint)
        except BrowserError as error:
            self.trouble(str(error), "If the stage does not react any more, close and open it.")
        except (KeyError, TypeError, ValueError):  # of validation as well
            self.trouble("The stage did not understand what was sent.", "Reload this page.")

    def close(self) -> None:
        """Close the stage; what is still to be recorded is recorded first."""
        self._opened.close()

    def say(self, message: Said) -> None:
        """Tell everybody who looks on."""
        self.live.say(message)

    def file(self, name: str) -> bytes | None:
        """Return a file that is kept with the test; None when there is none of that name."""
        return self.keeper.file(name)

    @property
    def patience(self) -> float:
        """Seconds for which it is kept, beyond the usual, although nobody looks at it."""
        return KEPT if self.rehearsing else 0.0

    @property
    def rehearsing(self) -> bool:
        """Whether a rehearsal is under way."""
        return self.rehearsals.now is not None and self.rehearsals.now.on

    @property
    def alive(self) -> bool:
        """Whether its browser lives and has a window open."""
        return self.context.browser.alive and bool(self.context.pages)

    def fresh(self) -> None:
        """Make the stage as new: one window, no cookies, nothing stored."""
        for page in list(self.context.pages)[1:]:
            self.context.close_page(page)
        page = self._page
        self.context.clear("/".join(self.base.split("/")[:3]))
        page.navigate("about:blank", 10)

    def trouble(self, message: str, hint: str = "") -> None:
        """Tell everybody who looks on what went wrong, and what may be done about it."""
        self.live.say({"type": "error", "message": message, "hint": hint})

    @property
    def _page(self) -> Window:
        return self.context.current

    def _open(self, message: OpenAsked) -> None:
        typed = str(message["address"]).strip()
        address = typed if "://" in typed else joined(self.base.rstrip("/") + "/", typed)
        if parts_of(address).scheme not in ("http", "https"):
            raise BadInput(
                f"“{typed}” can not be opened on the stage.",
                hint="Write a path such as /quote, or an address with http:// or https://.",
            )
        self._input.settle()
        self.recording.note("opened", address=address)
        status, error = self._page.navigate(address, 20)
        if error:
            self.trouble(f"{address} could not be opened: {error}.", "Is the application running?")
        elif status >= 400:
            self.trouble(f"{address} answered with the error {status}.")

    def _history(self, message: HistoryAsked) -> None:
        to = str(message["to"])
        self._input.settle()
        self.recording.note("history", value=to)
        self._page.history(to, 20)

    def _dialog(self, message: DialogAsked) -> None:
        accept, text = bool(message["accept"]), str(message.get("text") or "")
        page = next((page for page in self.context.pages if page.dialog), None)
        dialog = page.dialog if page else None
        if page is None or dialog is None:
            return
        said = text if dialog.type == "prompt" and accept else ""
        self.recording.note("dialog", ticked=accept, value=said)
        page.answer_dialog(accept, text)

    def _choose(self, message: ChooseAsked) -> None:
        handle, option = int(message["handle"]), str(message["option"])
        self._input.settle()  # what was typed before must not overtake the list
        choice = choose(self._page, handle, option, str(message.get("frame") or ""))
        if choice["state"] == "missing":
            raise BadInput("That option is not in the list any more.", hint="Open the list again.")

    def _give_files(self, message: FilesAsked) -> None:
        page = next((page for page in self.context.pages if page.chooser), None)
        if page is None:
            return
        paths = []
        files = message.get("files") or []
        if sum(len(str(file["content"])) for file in files) * 3 / 4 > LARGEST_FILE:
            raise BadInput(f"Files of up to {LARGEST_FILE >> 20} MB can be given to the page.")
        for file in files:
            name, content = Path(str(file["name"])).name, base64.b64decode(file["content"])
            paths.append(self.context.files.put(name, content))
            if self.recording.on:
                self.keeper.keep_file(name, content)
        page.choose_files(paths)
        self.live.changed()

    def _switch(self, message: WindowAsked) -> None:
        for page in self.context.pages:
            if page.target == message["id"]:
                self._input.settle()
                self.context.switch(page)
                page.title = self.title_of(page)
                self.recording.note("window")

    def _close_window(self, message: WindowAsked) -> None:
        for page in list(self.context.pages):
            if page.target == message["id"] and len(self.context.pages) > 1:
                self._input.settle()
                title = self.title_of(page)
                self.recording.note("window closed", page=title, window=page.target)
                self.context.close_page(page)

    def _record(self, message: RecordAsked) -> None:
        """Record from now on, or no more; `after` says behind which sentence ("" the start)."""
        with suppress(BrowserError):  # what was done before is told before: it counts as it was
            self._input.settle()
        on = bool(message["on"])
        before = self.rehearsals.recording_place() if on else None
        self.recording.turn(on=on, after=message.get("after"), before=before)

    def title_of(self, page: Window) -> str:
        """Return the title of a window as it is now."""
        try:
            return str((page.probe("page", timeout=3) or {}).get("title", ""))
        except BrowserError:
            return page.title

    def _new_page(self, page: Window) -> None:
        page.on_report = lambda event: self.recording.reported(page, event)
        page.probe_tail = f"lantern.report({json.dumps(pressable_selector())})"
        self.context.follow(page)  # a window that the application opens comes to the front
