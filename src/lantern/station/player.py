"""Plays a row in a browser context: answers the interpreter's requests, one after the other."""

from __future__ import annotations

import threading
import time
from collections.abc import Sequence
from contextlib import suppress
from typing import Any, TypeVar

import structlog
from sqlalchemy.exc import SQLAlchemyError

from lantern.browser.choosing import choose
from lantern.browser.errors import (
    BrowserError,
    BrowserGone,
    CommandFailed,
    DialogOpen,
    NoAnswer,
    OutOfReach,
)
from lantern.browser.session import Session, Window
from lantern.core.elements.facts import Facts
from lantern.core.engine import requests as ask
from lantern.core.engine.interpreter import Script, play_row
from lantern.core.engine.outcomes import Outcome, StepFailed
from lantern.core.problems import Problem
from lantern.core.runs.life import TooLate
from lantern.station.coding import run_code
from lantern.station.guides import GOES_ON, Cancelled, Guide, Watcher
from lantern.station.lookup import PAUSE, aimed, look, survey
from lantern.station.proving import Prover
from lantern.station.redaction import safe_picture

log = structlog.get_logger()
T = TypeVar("T")
READING = 10.0
"""Longest time in seconds that a window which is gone to may take to be read."""
REST = 0.5
"""Seconds that requests under way get at the end of a row."""
TELLS = 5.0
"""Seconds that those get which may change something: what was done last is to be done."""
SOON = 2.0
"""Seconds within which a page tells what a press met; a busy one need not."""
SLICE = 0.1
"""Seconds of a long wait after which the guide is asked again."""
NOTING = (ask.StepStarts, ask.StepFails, ask.StepEnds, ask.Now)
"""Requests between sentences: without their answers the row itself can not go on."""


class Player:
    """Plays one row; `cancel` may be called from another thread.

    With `closes` a cancelled player closes its context, so that nothing goes on in it. A `prover`
    holds what each sentence comes to against what its recording saw. A `guide` says how it goes on.
    """

    def __init__(
        self,
        context: Session,
        watcher: Watcher,
        *,
        closes: bool = True,
        prover: Prover | None = None,
        guide: Guide = GOES_ON,
    ) -> None:
        self.context = context
        self._guide = guide
        self._prover = prover
        self._closes = closes
        self.release = ""
        self.stops_everything = False
        self._secrets: tuple[str, ...] = ()
        self._watcher = watcher
        self._cancelled = threading.Event()

    def cancel(self) -> None:
        """Stop playing as soon as possible."""
        self._cancelled.set()
        if self._closes:
            self.context.close()

    def play(self, script: Script, start: Sequence[str] = ()) -> Outcome:
        """Play all steps, or from `start` on; returns the row's outcome. Raises Cancelled."""
        self._secrets = tuple(script.names.secret.values())
        outcome = self.carry_out(play_row(script, start))
        self._come_to_rest()
        if outcome == "passed" and self._watcher.looks_last():
            with suppress(BrowserError):  # what is gone shows nothing any more
                self.picture(ask.Picture())
        return outcome

    def carry_out(self, play: ask.Play[T]) -> T:
        """Answer all that a play asks for; returns what it returns. Raises Cancelled."""
        answer: Any = None
        lost: ask.StageLost | ask.PageGone | ask.DriverFailed | StepFailed | None = None
        while True:
            try:
                request = play.throw(lost) if lost else play.send(answer)
            except StopIteration as end:
                result: T = end.value
                return result
            answer, lost = None, None
            try:
                answer = self._answer(request)
            except (ask.StageLost, ask.PageGone, StepFailed) as error:
                lost = error
            except (Problem, BrowserError, Cancelled, TooLate, SQLAlchemyError):
                raise
            except Exception as error:
                if isinstance(request, NOTING):
                    raise
                log.exception("request_failed", request=type(request).__name__)
                lost = ask.DriverFailed(type(error).__name__)

    def _come_to_rest(self) -> None:
        """Let what the last step sent arrive: with the context it would be cut off."""
        if not self._closes:
            return
        for page in list(self.context.pages):
            if not page.dialog:
                page.delivered(TELLS)
                page.answered(REST)

    def _answer(self, request: ask.Request[T]) -> T:
        if self._cancelled.is_set():
            raise Cancelled
        if not isinstance(request, NOTING):
            self._guide.before(request)
        if isinstance(request, ask.ACTING):  # what is asked for from now on may come of it
            for page in list(self.context.pages):
                page.traffic.pressed()
        began = time.monotonic()
        try:
            answer = request.ask_of(self)
            self._guide.after(request, answer, time.monotonic() - began)
            return answer
        except NoAnswer as error:
            if self._cancelled.is_set():
                raise Cancelled from error
            if not self.context.browser.answers():
                raise ask.StageLost(str(error)) from error
            raise ask.PageGone("The page is busy and does not answer.") from error
        except BrowserGone as error:
            if self._cancelled.is_set():
                raise Cancelled from error
            raise ask.StageLost(str(error)) from error
        except (CommandFailed, DialogOpen) as error:
            self._cancelled.wait(PAUSE)
            raise ask.PageGone(str(error)) from error
        except OutOfReach as error:
            raise StepFailed(
                "not ready", str(error), hint="Choose a point in the window."
            ) from error

    @property
    def _page(self) -> Window:
        return self.context.current

    # -- looking -------------------------------------------------------------------------------

    def look_up(self, request: ask.Lookup) -> ask.Seen:
        """Look for nodes in all frames."""
        return look(self._page, request, self._cancelled.wait)

    def aim(self, request: ask.Aim) -> ask.Aimed:
        """Tell where to press a node."""
        page = self._page
        try:
            raw = page.probe("aim", request.handle, request.at, frame=request.frame)
            if raw is not None:
                return aimed(page, raw, request.frame, request.at)
        except (CommandFailed, DialogOpen):
            self._cancelled.wait(PAUSE)  # the next lookup tells what is there now
        return ask.Aimed(request.handle, problem="hidden")

    def nearby(self, request: ask.Nearby) -> list[Facts]:
        """List all that is recognised."""
        return survey(self._page)

    def read(self, request: ask.Read) -> str | None:
        """Read a property of a node."""
        try:
            value = self._page.probe("read", request.handle, request.property, frame=request.frame)
        except (CommandFailed, DialogOpen):
            return None
        return None if value is None else str(value)

    # -- time and code ---------------------------------------------------------------------------

    def now(self, request: ask.Now) -> float:
        """Tell the time, as it is for limits."""
        return time.monotonic() - self._guide.stood

    def wait(self, request: ask.Wait) -> None:
        """Let time pass, or less where the play is cancelled; the guide may hold it meanwhile."""
        end = time.monotonic() - self._guide.stood + request.seconds
        while (left := end - time.monotonic() + self._guide.stood) > 0:
            if self._cancelled.wait(min(left, SLICE)):
                return
            self._guide.before(request)

    def quiet(self, request: ask.Quiet) -> bool:
        """Wait until the page is quiet."""
        return self._page.quiet(request.seconds, request.limit)

    def outstanding(self, request: ask.Outstanding) -> Sequence[str]:
        """Tell what the windows wait for."""
        return [one for page in list(self.context.pages) for one in page.traffic.outstanding()]

    def run_code(self, request: ask.RunCode) -> ask.Ran:
        """Run Python apart."""
        return run_code(request)

    # -- acting --------------------------------------------------------------------------------

    def press(self, request: ask.Mouse) -> str:
        """Press at a point, and tell what was met there instead of what the press is for."""
        page = self._page
        page.press(request.x, request.y, request.button, request.count)
        if not request.handle:
            return ""
        with suppress(BrowserError):  # the page is another one by now, or a dialog is the effect
            return page.probe("metBy", request.handle, frame=request.frame, timeout=SOON) or ""
        return ""

    def point_at(self, request: ask.PointAt) -> None:
        """Move the mouse to a point."""
        self._page.point_at(request.x, request.y)

    def drag(self, request: ask.Drag) -> None:
        """Press at a point, move to another and let go."""
        self._page.drag((request.x, request.y), (request.to_x, request.to_y))

    def go(self, request: ask.History) -> None:
        """Go back, forward or load anew."""
        self._page.history(request.to, request.limit)

    def type_letters(self, request: ask.Letters) -> None:
        """Type where the focus is."""
        self._page.type_text(request.text)

    def press_key(self, request: ask.PressKey) -> None:
        """Press a key with its modifiers."""
        self._page.press_key(request.keys)

    def downloads(self, request: ask.Downloads) -> Sequence[ask.Download]:
        """List the downloads."""
        return self.context.downloads.listed()

    def close_window(self, request: ask.CloseWindow) -> None:
        """Close a window."""
        self.context.close_page(self._window(request.id))

    def open(self, request: ask.Open) -> ask.Opened:
        """Go to an address."""
        page = self._page
        try:
            status, error = page.navigate(request.address, request.limit)
        except NoAnswer:
            return ask.Opened(0, f"no answer within {request.limit:g} s")
        except CommandFailed as failed:
            return ask.Opened(0, str(failed))
        if not error and not self.release:
            self._learn_release(page)
        return ask.Opened(status, error)

    def _learn_release(self, page: Window) -> None:
        try:
            self.release = str((page.probe("page", timeout=2.0) or {}).get("release", ""))
        except (CommandFailed, DialogOpen, NoAnswer):
            pass

    def type_text(self, request: ask.TypeText) -> None:
        """Type into a field."""
        page = self._page
        awaits = page.probe("read", request.handle, "awaits", frame=request.frame)
        if awaits == "yes" and request.text and not request.append:
            page.type_text(request.text)  # a press would lose what was chosen for the first letter
            return
        page.press(request.x, request.y)
        how = page.probe(
            "toType", request.handle, request.text, request.append, frame=request.frame
        )
        if how == "gone":
            raise CommandFailed("The field went away while it was typed into.")
        if how == "set":
            page.after_input()
        elif request.text:
            page.type_text(request.text)
        elif not request.append:
            page.press_key("Delete")

    def scroll_on(self, request: ask.ScrollOn) -> bool:
        """Scroll what can be scrolled."""
        page = self._page
        more = False
        for frame in page.frames():
            try:
                more |= bool(page.probe("scrollOn", request.down, frame=frame))
            except CommandFailed:
                continue  # a frame that went away has nothing to scroll
        return more

    def give_files(self, request: ask.GiveFiles) -> str:
        """Give kept files to a field."""
        paths = []
        for name in request.names:
            content = self._watcher.file(name)
            if content is None:
                return name
            paths.append(self.context.files.put(name, content))
        self._page.give_files(request.handle, paths, request.frame)
        return ""

    def keep_download(self, request: ask.KeepDownload) -> ask.KeptFile:
        """Keep a download."""
        name, content = self.context.downloads.content(request.id)
        digest = self._watcher.keep_file(name, content)
        return {"name": name, "size": len(content), "digest": digest}

    def choose(self, request: ask.Choose) -> ask.Chosen:
        """Choose an option of a native list."""
        page = self._page
        choice = choose(page, request.handle, request.option, request.frame)
        if choice["state"] == "set":
            page.after_input()
        return ask.Chosen(choice["state"] != "missing", tuple(choice["options"]))

    def answer_dialog(self, request: ask.AnswerDialog) -> str | None:
        """Answer an open dialog, in whichever window."""
        for page in [self._page, *self.context.pages]:
            dialog = page.answer_dialog(request.accept, request.text)
            if dialog:
                return dialog.message
        return None

    def _window(self, target: str) -> Window:
        for page in self.context.pages:
            if page.target == target:
                return page
        raise BrowserGone("That window was closed meanwhile.")

    def switch_to(self, request: ask.SwitchTo) -> None:
        """Go to a window."""
        page = self._window(request.id)
        self.context.switch(page)
        page.read_in(READING)

    def windows(self, request: ask.Windows) -> list[ask.Window]:
        """List the windows."""
        current = self._page
        found = []
        for page in list(self.context.pages):
            title = ""
            try:
                page.settled(PAUSE)
                title = str(page.probe("page", timeout=3)["title"])
            except (BrowserError, TypeError):
                pass  # a window that is still loading has no title yet
            found.append(ask.Window(page.target, title, page.address, page is current))
        return found

    def picture(self, request: ask.Picture) -> str:
        """Take a picture, and what is on the page where that is wanted."""
        page = self._page
        if page.dialog:
            return ""
        try:
            self.context.bring_to_front(page)
            digest = self._watcher.keep_picture(safe_picture(page, self._secrets))
            title = str(page.probe("page")["title"])
            if self._watcher.wants_page(title, failed=request.failed):
                nodes = survey(page)
                self._watcher.keep_page(title, page.address, nodes, digest, failed=request.failed)
            return digest
        except (CommandFailed, NoAnswer, DialogOpen):
            return ""
        except (ValueError, KeyError, TypeError, OSError):
            log.exception("picture_failed")  # a row is worth more than its pictures
            return ""

    def run_page_script(self, request: ask.PageScript) -> ask.Ran:
        """Run a script in the page."""
        return self._page.run_script(request.script, request.limit)

    def stop_everything(self, request: ask.StopEverything) -> None:
        """Remember that the run is to end."""
        self.stops_everything = True

    def step_starts(self, request: ask.StepStarts) -> ask.Onward:
        """Tell that a step begins, unless it is not to."""
        onward = self._guide.starts(request)
        if onward.do != "skip":
            if self._prover:
                self._prover.step_starts(self._page)
            self._watcher.step_starts(request)
        return onward

    def step_fails(self, request: ask.StepFails) -> ask.Onward:
        """Ask whether a failure counts."""
        return self._guide.fails(request)

    def step_ends(self, request: ask.StepEnds) -> None:
        """Tell how a step went, and what the page complained about."""
        console: list[str] = []
        requests: list[str] = []
        for page in list(self.context.pages):
            more_console, more_requests = page.traffic.noise.take()
            console += more_console
            requests += more_requests
        if self._prover:
            self._prover.step_ends(request.result, self._page, self._cancelled.wait)
        self._watcher.step_ends(request.result, console, requests)
        self._guide.ends(request.result)
