"""A live stage: what the tester does on it goes to the browser, and is recorded."""

from __future__ import annotations

import base64
import json
import queue
import threading
from collections.abc import Callable
from concurrent.futures import Future
from concurrent.futures import TimeoutError as FutureTimeout
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import Annotated, Any

import structlog
from pydantic import Field, TypeAdapter
from sqlalchemy.exc import SQLAlchemyError

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
    OptionsSaid,
    PersonSaid,
    RecordAsked,
    Said,
    WindowAsked,
)
from lantern.core.elements.kinds import pressable_selector
from lantern.core.engine.browsers import BROWSERS, USUAL, Browser
from lantern.core.problems import BadInput, Problem
from lantern.core.proving.noting import Place, When
from lantern.core.proving.shown import Shown
from lantern.core.recording.changes import Change
from lantern.core.recording.events import Event
from lantern.core.recording.recorder import Recorder
from lantern.station.input import Input
from lantern.station.keeping import Keeper
from lantern.station.live import Live
from lantern.station.picker import Pointer
from lantern.station.proving import path_of, shown_in
from lantern.station.redaction import Redactor
from lantern.station.rehearsal import KEPT
from lantern.station.rehearsing import Rehearsals
from lantern.station.workbench import Desk

log = structlog.get_logger()
OPTIONS = TypeAdapter(OptionsSaid)
ASKED: TypeAdapter[Any] = TypeAdapter(Annotated[Asked, Field(discriminator="type")])
Report = tuple[Event, bytes, Window, str] | Callable[[], object]
"""An event to be recorded, the picture then, the window and the frame it happened in; or what is
to be done in its turn."""
LARGEST_FILE = 25 * 1024 * 1024
"""Bytes of all files that may be given to the page in one go."""


MOST_REPORTS = 5000
"""Events that may wait to be recorded; a page that makes more at once is not followed."""
IN_TURN = 30.0
"""Longest time in seconds that something waits until what was reported before is recorded."""


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
        self.recording = False
        self._taking = threading.RLock()
        self._overflowed = False
        self._recorder = Recorder(base)
        self._reports: queue.Queue[Report | None] = queue.Queue(MOST_REPORTS)
        self._happened: dict[tuple[str, int], int] = {}
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
            self.context.downloads.on_begin = lambda name: self._note("download", value=name)
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
            self._thread = threading.Thread(target=self._record_all, name="recorder", daemon=True)
            self._thread.start()
            opened.callback(self._end_recorder)
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
            self._error(error.message, error.hint)
        except BrowserError as error:
            self._error(str(error), "If the stage does not react any more, close and open it.")
        except (KeyError, TypeError, ValueError):  # of validation as well
            self._error("The stage did not understand what was sent.", "Reload this page.")

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

    def _end_recorder(self) -> None:
        self._reports.put(None, timeout=IN_TURN)
        self._thread.join(10)

    def fresh(self) -> None:
        """Make the stage as new: one window, no cookies, nothing stored."""
        for page in list(self.context.pages)[1:]:
            self.context.close_page(page)
        page = self._page
        self.context.clear("/".join(self.base.split("/")[:3]))
        page.navigate("about:blank", 10)

    def _error(self, message: str, hint: str = "") -> None:
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
        self._note("opened", address=address)
        status, error = self._page.navigate(address, 20)
        if error:
            self._error(f"{address} could not be opened: {error}.", "Is the application running?")
        elif status >= 400:
            self._error(f"{address} answered with the error {status}.")

    def _history(self, message: HistoryAsked) -> None:
        to = str(message["to"])
        self._input.settle()
        self._note("history", value=to)
        self._page.history(to, 20)

    def _dialog(self, message: DialogAsked) -> None:
        accept, text = bool(message["accept"]), str(message.get("text") or "")
        page = next((page for page in self.context.pages if page.dialog), None)
        dialog = page.dialog if page else None
        if page is None or dialog is None:
            return
        said = text if dialog.type == "prompt" and accept else ""
        self._note("dialog", ticked=accept, value=said)
        page.answer_dialog(accept, text)

    def _choose(self, message: ChooseAsked) -> None:
        page = self._page
        choice = page.probe(
            "toChoose",
            int(message["handle"]),
            str(message["option"]),
            frame=str(message.get("frame") or ""),
        )
        if choice["state"] == "key":
            page.press_key(choice["key"])
        elif choice["state"] == "missing":
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
            if self.recording:
                self.keeper.keep_file(name, content)
        page.choose_files(paths)
        self.live.changed()

    def _switch(self, message: WindowAsked) -> None:
        for page in self.context.pages:
            if page.target == message["id"]:
                self._input.settle()
                self.context.switch(page)
                page.title = self.title_of(page)
                self._note("window")

    def _close_window(self, message: WindowAsked) -> None:
        for page in list(self.context.pages):
            if page.target == message["id"] and len(self.context.pages) > 1:
                self._input.settle()
                title = self.title_of(page)
                self._note("window closed", page=title, window=page.target)
                self.context.close_page(page)

    def _record(self, message: RecordAsked) -> None:
        """Record from now on, or no more; `after` says behind which sentence ("" the start)."""
        with suppress(BrowserError):  # what was done before is told before: it counts as it was
            self._input.settle()
        on = bool(message["on"])
        before = self.rehearsals.recording_place() if on else None
        self.record(on=on, after=message.get("after"), before=before)

    def record(self, *, on: bool, after: str | None = None, before: str | None = None) -> None:
        """Begin or end recording, behind or before a sentence; what was typed is complete then."""
        self.recording = on

        def go_on_there() -> None:
            for change in self._recorder.forget():
                self.keeper.keep(change, self.live.last)
            if not on:
                self._note_all_shown()
            self.keeper.settle_secrets()
            self.keeper.after = after if on else None
            self.keeper.before = before if on else None
            self.rehearsals.recorded(self.keeper.recorded(fresh=on))

        self._reports.put(go_on_there)  # behind what was reported before
        self.live.say({"type": "recording", "on": on})

    def go_to(self, event: Event) -> list[Change]:
        """Return the sentence that goes to the window of an event, if another was in front."""
        return self._recorder.go_to(event) if self.recording else []

    def in_turn(self, work: Callable[[], None]) -> None:
        """Do something behind all that was reported so far, and wait until it is done.

        Raises what it raises.
        """
        done: Future[None] = Future()

        def run() -> None:
            try:
                work()
            except (Problem, BrowserError) as error:
                done.set_exception(error)
            finally:
                if not done.done():  # anything else is told by who records
                    done.set_result(None)

        self._reports.put(run)
        try:
            done.result(IN_TURN)
        except FutureTimeout as error:
            raise Problem(
                "The stage is still recording what was done before.", hint="Try again in a moment."
            ) from error

    # -- recording -----------------------------------------------------------------------------

    def title_of(self, page: Window) -> str:
        """Return the title of a window as it is now."""
        try:
            return str((page.probe("page", timeout=3) or {}).get("title", ""))
        except BrowserError:
            return page.title

    def _new_page(self, page: Window) -> None:
        page.on_report = lambda event: self._reported(page, event)
        page.probe_tail = f"lantern.report({json.dumps(pressable_selector())})"
        self.context.follow(page)  # a window that the application opens comes to the front

    def _reported(self, page: Window, raw: dict[str, Any]) -> None:
        kind = raw["type"]
        if raw["frame"]:
            raw["page"] = page.title  # what is done in a frame is done on the page that it is in
        elif raw.get("page", page.title) != page.title:
            page.title = str(raw["page"])
            self.live.changed()
        if kind == "title":
            return
        if kind == "options":
            self.live.say(OPTIONS.validate_python(raw))
            return
        if kind == "shows":
            self._note_shown(page, raw)
            return
        if kind == "hosts":
            frame = raw["frame"]
            self._report(lambda: page.look_into(raw["hosts"], frame))
            return
        if raw.get("press") and kind not in ("after", "lost"):
            page.traffic.pressed()
            self._happened[raw["window"], raw["press"]] = self.context.happened
        if kind == "after":
            self._effect(page, raw)
        if self.recording:
            self._report((Event.read(raw), self.live.last, page, raw["frame"]))

    def _report(self, report: Report) -> None:
        """Queue what is to be recorded. The thread that reads from the browser must not wait."""
        try:
            self._reports.put_nowait(report)
            self._overflowed = False
        except queue.Full:
            if not self._overflowed:
                self._overflowed = True
                self._error("The page does more than can be recorded.", "Look what was kept.")

    def _note_shown(self, page: Window, raw: dict[str, Any]) -> None:
        """Note what a document shows, behind what was reported before, for the last sentence."""
        if self.recording:
            place, shown, when = (
                (page.target, path_of(page, raw["frame"])),
                Shown.read(raw),
                raw["when"],
            )
            self._report(lambda: self._note_place(place, shown, when))

    def _note_place(self, place: Place, shown: Shown, when: When) -> None:
        if self._recorder.window not in ("", place[0]):
            self.keeper.look(place, shown)  # a window that came up by itself: its sentence comes
            return
        try:
            self.keeper.note_shown(place, shown, when)
        except SQLAlchemyError as error:  # the sentence is kept, only its proof knows less
            # What the error says in full holds what the page shows.
            log.warning("what_came_of_a_sentence_was_not_kept", error=type(error).__name__)

    def _note_all_shown(self) -> None:
        page = self._page
        for path, shown in shown_in(page).items():
            self._note_place((page.target, path), shown, "end")

    def _effect(self, page: Window, raw: dict[str, Any]) -> None:
        """Add to what the page tells of an act what only the browser knows of it."""
        before = self._happened.pop((raw["window"], raw["press"]), self.context.happened)
        elsewhere = page.traffic.asked or self.context.happened != before
        raw["mutated"] = bool(raw["mutated"] or elsewhere or page.dialog)
        raw["changed"] = bool(raw["changed"] or raw["mutated"])
        if self.recording and not raw["changed"]:
            self._report(lambda: self._ask_if_idle(page, raw))

    def _ask_if_idle(self, page: Window, raw: dict[str, Any]) -> None:
        """Mark a press as one that did nothing, if no script of the page listened to it."""
        try:
            if page.listens_to_press(raw["press"], raw["frame"]):
                return
        except BrowserError:
            return  # when in doubt it did something
        self._record_one(Event.read(raw | {"type": "idle"}), b"", page, raw["frame"])

    def _note(self, kind: str, **more: object) -> None:
        """Record something that the tester did through Lantern's own controls."""
        if self.recording:
            page = self._page
            raw = {"type": kind, "page": page.title, "window": page.target, **more}
            self._report((Event.read(raw), self.live.last, page, ""))

    @staticmethod
    def _offset(page: Window, frame: str) -> tuple[float, float]:
        try:
            return page.frame_offset(frame)
        except BrowserError:
            return 0.0, 0.0  # the frame is gone already; its clues still hold

    def _record_all(self) -> None:
        while (item := self._reports.get()) is not None:
            try:
                if callable(item):
                    item()
                else:
                    self._record_one(*item)
            except BrowserError:
                log.info("page_went_away_while_recording")
            except Problem as error:
                self._error(f"Not recorded: {error.message}", error.hint)
            except Exception:
                # Nothing that a page reports may end the recording of what comes after it.
                log.exception("recording_failed")
                self._error("Something that you did could not be recorded.", "Do it once more.")

    def _record_one(self, event: Event, picture: bytes, page: Window, frame: str) -> None:
        if frame:
            event = event.inside(frame, page.frame_path(frame), self._offset(page, frame))
        for change in self._recorder.feed(event):
            self.keeper.keep(change, picture)
