"""The search otherwise on a stage: looks, watches on, and tells what it has found so far."""

from __future__ import annotations

import threading
import time
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Literal

import structlog

from lantern.browser.errors import BrowserError, CommandFailed
from lantern.browser.session import Window
from lantern.core.channel import AnswerSaid, box_said
from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.repair import found_by
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import query_for
from lantern.core.searching.looked import Answer, Cause, Elsewhere, Looked
from lantern.core.searching.reasons import answers
from lantern.station.lookup import aimed, look, survey

if TYPE_CHECKING:
    from lantern.station.stage import Stage

log = structlog.get_logger()
LOOK = 0.25
"""Seconds between two looks while it is watched on."""
WIDER = 6
"""Steps outwards in which what covers a place is looked at."""
SETTLED: frozenset[Cause] = frozenset(
    ("dialog", "several", "other window", "sign in", "error page", "case", "number", "clue", "kind")
)
"""Causes that waiting longer does not change."""
SURE = 0.9
"""From this share on such a cause ends the watching."""


class Search:
    """Looks for why an element was not found, on a thread of its own, within some seconds.

    `spot` is the sentence that did not find it, `limit` how many seconds it waited.
    """

    def __init__(
        self, stage: Stage, element: Element, spot: ask.Spot, limit: float, seconds: float
    ) -> None:
        self._stage, self._element, self._seconds = stage, element, seconds
        scripts = stage.keeper.scripts
        green = scripts.last_green(element.page or spot.step.page, spot.step.id)
        self._looked = Looked(
            element,
            (),
            wanted_title=spot.step.page or element.page,
            wanted_address=scripts.played_at(spot.step.id),
            green=green.nodes,
            green_run=green.run,
            limit=limit,
            flow_that_signs_in=scripts.flow_that_signs_in(),
        )
        self._answers: list[Answer] = []
        self._stopped = threading.Event()
        self._began = time.monotonic()
        self.thread = threading.Thread(target=self._run, name="search", daemon=True)

    def begin(self) -> None:
        """Search in the background."""
        self._began = time.monotonic()
        self.thread.start()

    def stop(self) -> None:
        """End; what was found so far stays told."""
        self._stopped.set()

    @property
    def found(self) -> list[Answer]:
        """The answers so far, the likeliest first."""
        return self._answers

    def _run(self) -> None:
        state: Literal["done", "stopped"] = "done"
        try:
            self._search()
        except BrowserError as error:
            self._stage.live.say({"type": "error", "message": str(error), "hint": ""})
        except Exception:
            log.exception("search_failed")
            self._stage.live.say({"type": "error", "message": "The search failed.", "hint": ""})
        if self._stopped.is_set():
            state = "stopped"
        self._tell("", state)

    def _search(self) -> None:
        self._tell("Looking at the page")
        looked = self._looked = self._look_around(self._looked)
        if self._there_now(looked):
            looked = self._looked = replace(looked, after=0.0)
        self._answers = answers(looked)
        if self._answers and self._answers[0].cause in SETTLED and self._answers[0].share >= SURE:
            return
        if looked.after is None:
            self._watch(looked)

    def _there_now(self, looked: Looked) -> bool:
        if not looked.is_it or looked.aimed is None:
            return False
        return looked.aimed.problem == ""

    def _watch(self, looked: Looked) -> None:
        """Watch on for up to thrice the limit whether it comes to be there and ready."""
        until = min(self._began + self._seconds, time.monotonic() + 3 * looked.limit)
        start = time.monotonic()
        self._tell("Watching whether it comes later")
        while time.monotonic() < until and not self._stopped.wait(LOOK):
            aim = self._ready(self._stage.context.current)
            waited = time.monotonic() - start
            if aim is not None and aim.problem == "":
                came = replace(looked, aimed=aim, after=looked.limit + waited)
                nodes = tuple(survey(self._stage.context.current))
                self._looked = replace(came, nodes=nodes)
                break
            self._looked = replace(looked, watched=waited)
            if aim is not None:
                self._looked = replace(self._looked, aimed=aim)
        self._answers = answers(self._looked)

    # -- looking ---------------------------------------------------------------------------------

    def _look_around(self, looked: Looked) -> Looked:
        context = self._stage.context
        page = context.current
        if page.dialog:
            return replace(looked, dialog=page.dialog.message)
        nodes = tuple(survey(page))
        looked = replace(
            looked,
            nodes=nodes,
            title=self._stage.title_of(page),
            address=page.address,
            windows=tuple(self._elsewhere(page)),
        )
        found = found_by(self._element, nodes)
        if len(found) != 1:
            return looked
        aim = self._ready(page)
        cover = self._cover(aim) if aim and aim.problem == "covered" else ()
        return replace(looked, aimed=aim, cover=tuple(cover))

    def _elsewhere(self, current: Window) -> list[Elsewhere]:
        found = []
        for other in list(self._stage.context.pages):
            if other is current or other.dialog:
                continue
            try:
                found.append(Elsewhere(self._stage.title_of(other), tuple(survey(other))))
            except BrowserError:
                continue  # a window that is just closing shows nothing
        return found

    def _ready(self, page: Window) -> ask.Aimed | None:
        """Tell how the one thing that is found can be reached, None when there is not just one."""
        if page.dialog:
            return None
        seen = look(page, ask.Lookup(query_for(self._element)), self._stopped.wait)
        found = found_by(self._element, seen.candidates)
        if len(found) != 1:
            return None
        try:
            raw = page.probe("aim", found[0].handle, None, frame=found[0].frame)
        except CommandFailed:
            return None
        return aimed(page, raw, found[0].frame) if raw else None

    def _cover(self, aim: ask.Aimed) -> list[Facts]:
        """Return what lies at a place: the innermost, then what is around it."""
        found: list[Facts] = []
        for up in range(WIDER):
            try:
                raw, _ = self._stage.pointer.at_point("at", aim.x, aim.y, up)
            except CommandFailed:
                break
            if raw is None:
                break
            found.append(Facts.read(raw))
        return found

    # -- telling ---------------------------------------------------------------------------------

    def _tell(
        self, doing: str, state: Literal["searching", "done", "stopped"] = "searching"
    ) -> None:
        left = max(self._seconds - (time.monotonic() - self._began), 0.0)
        self._stage.live.say(
            {
                "type": "search",
                "state": state,
                "doing": doing,
                "left": round(left, 1) if state == "searching" else 0.0,
                "element": self._element.id,
                "name": self._element.name,
                "answers": said_of(self._answers),
            }
        )


def said_of(found: Sequence[Answer]) -> list[AnswerSaid]:
    """Return answers as they are said."""
    return [
        {
            "cause": one.cause,
            "told": one.told,
            "share": round(one.share, 3),
            "boxes": [box_said(facts.box) for facts in one.nodes if facts.visible],
            "act": one.act,
            "label": one.label,
            "given": dict(one.given),
        }
        for one in found
    ]
