"""Recording on a stage: what its pages report becomes sentences, in the order it happened."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from concurrent.futures import Future
from concurrent.futures import TimeoutError as FutureTimeout
from typing import TYPE_CHECKING, Any

import structlog
from pydantic import TypeAdapter
from sqlalchemy.exc import SQLAlchemyError

from lantern.browser.errors import BrowserError
from lantern.browser.session import Window
from lantern.core.channel import OptionsSaid
from lantern.core.problems import Problem
from lantern.core.proving.noting import Place, When
from lantern.core.proving.shown import Shown
from lantern.core.recording.changes import Change
from lantern.core.recording.events import Event
from lantern.core.recording.recorder import Recorder
from lantern.station.proving import path_of, shown_in

if TYPE_CHECKING:
    from lantern.station.stage import Stage

log = structlog.get_logger()
OPTIONS = TypeAdapter(OptionsSaid)
Report = tuple[Event, bytes, Window, str] | Callable[[], object]
"""An event to be recorded, the picture then, the window and the frame it happened in; or what is
to be done in its turn."""
MOST_REPORTS = 5000
"""Events that may wait to be recorded; a page that makes more at once is not followed."""
IN_TURN = 30.0
"""Longest time in seconds that something waits until what was reported before is recorded."""


class Recording:
    """What the pages of one stage report, and what becomes of it, while `on`.

    It has a thread of its own from `begin` to `close`: who reads from the browser never waits.
    """

    def __init__(self, stage: Stage) -> None:
        self._stage, self._keeper, self.on = stage, stage.keeper, False
        self._overflowed = False
        self._recorder = Recorder(stage.base)
        self._reports: queue.Queue[Report | None] = queue.Queue(MOST_REPORTS)
        self._happened: dict[tuple[str, int], int] = {}
        self._thread = threading.Thread(target=self._record_all, name="recorder", daemon=True)

    def begin(self) -> None:
        """Begin to work off what is reported."""
        self._thread.start()

    def close(self) -> None:
        """Record what was reported so far, and end."""
        self._reports.put(None, timeout=IN_TURN)
        self._thread.join(10)

    def turn(self, *, on: bool, after: str | None = None, before: str | None = None) -> None:
        """Begin or end recording, behind or before a sentence; what was typed is complete then."""
        self.on = on

        def go_on_there() -> None:
            for change in self._recorder.forget():
                self._keeper.keep(change, self._stage.live.last)
            if not on:
                self._note_all_shown()
            self._keeper.settle_secrets()
            self._keeper.after = after if on else None
            self._keeper.before = before if on else None
            self._stage.rehearsals.recorded(self._keeper.recorded(fresh=on))

        self._reports.put(go_on_there)  # behind what was reported before
        self._stage.live.say({"type": "recording", "on": on})

    def go_to(self, event: Event) -> list[Change]:
        """Return the sentence that goes to the window of an event, if another was in front."""
        return self._recorder.go_to(event) if self.on else []

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

    def reported(self, page: Window, raw: dict[str, Any]) -> None:
        """Take what a page reports: it is recorded in its turn, or told to those who look on."""
        kind = raw["type"]
        if raw["frame"]:
            raw["page"] = page.title  # what is done in a frame is done on the page that it is in
        elif raw.get("page", page.title) != page.title:
            page.title = str(raw["page"])
            self._stage.live.changed()
        if kind == "title":
            return
        if kind == "options":
            self._stage.live.say(OPTIONS.validate_python(raw))
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
            self._happened[raw["window"], raw["press"]] = self._stage.context.happened
        if kind == "after":
            self._effect(page, raw)
        if self.on:
            self._report((Event.read(raw), self._stage.live.last, page, raw["frame"]))

    def _report(self, report: Report) -> None:
        """Queue what is to be recorded. The thread that reads from the browser must not wait."""
        try:
            self._reports.put_nowait(report)
            self._overflowed = False
        except queue.Full:
            if not self._overflowed:
                self._overflowed = True
                self._stage.trouble(
                    "The page does more than can be recorded.", "Look what was kept."
                )

    def _note_shown(self, page: Window, raw: dict[str, Any]) -> None:
        """Note what a document shows, behind what was reported before, for the last sentence."""
        if self.on:
            place, shown, when = (
                (page.target, path_of(page, raw["frame"])),
                Shown.read(raw),
                raw["when"],
            )
            self._report(lambda: self._note_place(place, shown, when))

    def _note_place(self, place: Place, shown: Shown, when: When) -> None:
        if self._recorder.window not in ("", place[0]):
            self._keeper.look(place, shown)  # a window that came up by itself: its sentence comes
            return
        try:
            self._keeper.note_shown(place, shown, when)
        except SQLAlchemyError as error:  # the sentence is kept, only its proof knows less
            # What the error says in full holds what the page shows.
            log.warning("what_came_of_a_sentence_was_not_kept", error=type(error).__name__)

    def _note_all_shown(self) -> None:
        page = self._stage.context.current
        for path, shown in shown_in(page).items():
            self._note_place((page.target, path), shown, "end")

    def _effect(self, page: Window, raw: dict[str, Any]) -> None:
        """Add to what the page tells of an act what only the browser knows of it."""
        before = self._happened.pop((raw["window"], raw["press"]), self._stage.context.happened)
        elsewhere = page.traffic.asked or self._stage.context.happened != before
        raw["mutated"] = bool(raw["mutated"] or elsewhere or page.dialog)
        raw["changed"] = bool(raw["changed"] or raw["mutated"])
        if self.on and not raw["changed"]:
            self._report(lambda: self._ask_if_idle(page, raw))

    def _ask_if_idle(self, page: Window, raw: dict[str, Any]) -> None:
        """Mark a press as one that did nothing, if no script of the page listened to it."""
        try:
            if page.listens_to_press(raw["press"], raw["frame"]):
                return
        except BrowserError:
            return  # when in doubt it did something
        self._record_one(Event.read(raw | {"type": "idle"}), b"", page, raw["frame"])

    def note(self, kind: str, **more: object) -> None:
        """Record something that the tester did through Lantern's own controls."""
        if self.on:
            page = self._stage.context.current
            raw = {"type": kind, "page": page.title, "window": page.target, **more}
            self._report((Event.read(raw), self._stage.live.last, page, ""))

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
                self._stage.trouble(f"Not recorded: {error.message}", error.hint)
            except Exception:
                # Nothing that a page reports may end the recording of what comes after it.
                log.exception("recording_failed")
                self._stage.trouble(
                    "Something that you did could not be recorded.", "Do it once more."
                )

    def _record_one(self, event: Event, picture: bytes, page: Window, frame: str) -> None:
        if frame:
            event = event.inside(frame, page.frame_path(frame), self._offset(page, frame))
        for change in self._recorder.feed(event):
            self._keeper.keep(change, picture)
