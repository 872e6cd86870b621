"""The search otherwise: 60 things of the Kiln Desk and the yard, each broken in known ways.

`named` is the share of cases whose true cause is among the answers, `first` of those where it is
the first, `act_works` of the acts offered for the true cause after which the sentence passes (of
those that could make it pass), `seconds` the median until the true cause was told. A case counts
only when the sentence really fails on the broken page.
"""

from __future__ import annotations

import json
import statistics
import time
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from bench._bench import report, say, sized
from bench.recognise import BOOKING, VIEWS, View, a_desk, look_at, reset, signed_in
from bench.yard.building import build
from bench.yard.mutating import MARK
from bench.yard.server import Yard
from lantern.browser.chromium import Chromium, ChromiumWindow
from lantern.browser.errors import BrowserError
from lantern.browser.session import Session, Window
from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.repair import FINDS, found_by, verdict
from lantern.core.engine import requests as ask
from lantern.core.engine.attempt import Flow
from lantern.core.engine.interpreter import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.searching.looked import Answer
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.values.sources import Names
from lantern.station.guides import Watcher
from lantern.station.inspecting import learned
from lantern.station.lookup import survey
from lantern.station.picker import Pointer
from lantern.station.player import Player
from lantern.station.searching import Search
from lantern.store.pages import Green

assert BOOKING  # the desk has a firing to look at
WAYS: dict[str, frozenset[str]] = {
    "renamed": frozenset({"clue"}),
    "case": frozenset({"case"}),
    "number": frozenset({"number"}),
    "doubled": frozenset({"several"}),
    "hidden": frozenset({"hidden"}),
    "disabled": frozenset({"disabled"}),
    "covered": frozenset({"covered"}),
    "moving": frozenset({"moving"}),
    "later": frozenset({"later"}),
    "window": frozenset({"other window"}),
    "signed out": frozenset({"sign in"}),
    "gone": frozenset({"gone"}),
}
"""How things are broken, and which cause tells it."""
YARD = (
    "bootstrap", "native", "fields", "dialogs", "stepper", "headless", "antd-pick", "alpine",
    "scripts", "downloads", "jqueryui", "hover", "keys", "tree",
)  # fmt: skip
OF_ALL = sized(60, 1)
OF_A_PAGE = 3
"""Things of a page that are broken."""
WAYS_OF_A_THING = sized(4, 2)
"""Ways in which each thing is broken, in turn."""
ENTER = """fetch('/sign-in', { method: 'POST',
  body: new URLSearchParams('member=mara&password=wheel-and-kiln') }).then((r) => r.status)"""
LIMIT = 0.8
LATE = 1900
"""Milliseconds after which what is late comes."""
BUDGET = 10.0
KINDS = ("button", "link", "text box", "choice list", "tick box", "radio")
BREAK = (Path(__file__).parent / "breaking.js").read_text(encoding="utf-8")
BREAK = BREAK.partition("\n")[2].strip().removeprefix(";")


@dataclass(frozen=True)
class Place:
    """A page to be broken: how it is opened in a window."""

    name: str
    address: str
    opened: Callable[[ChromiumWindow], None]


@dataclass
class Thing:
    """Something that is looked for: what is known of it, and the page as it was learned."""

    place: Place
    mark: str
    element: Element
    page: tuple[Facts, ...]
    title: str


def script(page: Window, expression: str) -> Any:  # noqa: ANN401 - any JSON value
    """Evaluate an expression in a page."""
    given: Any = page
    answer = given.call("Runtime.evaluate", expression=expression, returnByValue=True)
    return answer["result"].get("value")


class Stands:
    """What the search needs of a stage: a session with its pointer, and what is known of it."""

    class _Said:
        def __init__(self) -> None:
            self.told: list[tuple[float, list[str]]] = []

        def say(self, message: Any) -> None:  # noqa: ANN401 - any message
            if message["type"] == "search":
                causes = [one["cause"] for one in message["answers"]]
                self.told.append((time.monotonic(), causes))

    class _Scripts:
        def __init__(self, thing: Thing) -> None:
            self._thing = thing

        def last_green(self, _: str, __: str) -> Green:
            return Green(self._thing.page, 1)

        def played_at(self, _: str) -> str:
            return self._thing.place.address

        def flow_that_signs_in(self) -> str:
            return "1"

    class _Keeper:
        def __init__(self, scripts: Any) -> None:  # noqa: ANN401
            self.scripts = scripts

    def __init__(self, context: Session, thing: Thing) -> None:
        self.context = context
        self.live = self._Said()
        self.keeper = self._Keeper(self._Scripts(thing))
        given: Any = self
        self.pointer = Pointer(given)

    @staticmethod
    def title_of(page: Window) -> str:
        """Return the title of a window."""
        try:
            return str((page.probe("page", timeout=3) or {}).get("title", ""))
        except BrowserError:
            return page.title


class Last(Watcher):
    """Remembers the last result."""

    def __init__(self) -> None:
        self.result: StepResult | None = None

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        """Remember."""
        self.result = result


def places(desk: str, yard: str) -> Iterator[Place]:
    """Yield the pages of the desk and of the yard."""

    def of_desk(view: View) -> Callable[[ChromiumWindow], None]:
        def opened(page: ChromiumWindow) -> None:
            page.navigate(f"{desk}/sign-in", 10)
            page.call("Runtime.evaluate", expression=ENTER, awaitPromise=True)
            look_at(page, desk, view)

        return opened

    def of_yard(address: str) -> Callable[[ChromiumWindow], None]:
        def opened(page: ChromiumWindow) -> None:
            page.navigate(address, 20)
            page.quiet(0.25, 4)

        return opened

    wanted = [view for view in VIEWS if not view.script or "main form" in view.script][:10]
    for number, view in enumerate(sized(wanted, wanted[:1])):
        yield Place(f"desk {view.path} {number}", desk + view.path, of_desk(view))
    for name in sized(YARD, ()):
        address = f"{yard}/page/{name}"
        yield Place(name, address, of_yard(address))


def mark(page: ChromiumWindow, place: Place) -> None:
    """Open a page and mark things of it, the same ones each time."""
    place.opened(page)
    script(page, f"({MARK})({OF_A_PAGE * 2})")


def known(page: ChromiumWindow, place: Place) -> list[Thing]:
    """Return things of a page that can be acted on and are found by what was learned of them."""
    mark(page, place)
    title = str(page.probe("page")["title"])
    nodes = survey(page)
    found = []
    for number in range(1, OF_A_PAGE * 2 + 1):
        handle = page.probe("handleAt", f'[data-truth="{number}"]', 0)
        facts = next((one for one in nodes if handle and one.handle == handle), None)
        if facts is None or kind_of(facts) not in KINDS or not (facts.visible and facts.enabled):
            continue
        element = replace(learned(facts, nodes, title).element, id="thing")
        if verdict(element, nodes, facts.handle).word == FINDS:
            found.append(Thing(place, str(number), element, tuple(nodes), title))
    return found[:OF_A_PAGE]


@dataclass
class Case:
    """A thing broken in a way, and what is played on it."""

    thing: Thing
    way: str

    def opened(self, context: Session) -> bool:
        """Open the page broken; returns whether it could be broken so."""
        page: Any = context.current
        mark(page, self.thing.place)
        if self.way == "number":
            self._number(page)
        if self.way == "window":
            self._second(context, page)
        clues = [clue.fact for clue in self.thing.element.clues]
        given = json.dumps([self.way, self.thing.mark, clues, LATE])
        done = bool(script(page, f"({BREAK})(...{given})"))
        page.title = str(page.probe("page")["title"])
        return done

    def _second(self, context: Session, page: Window) -> None:
        """Open the page in a second window, and go back to the first."""
        given: Any = page
        address = json.dumps(self.thing.place.address)
        given.call("Runtime.evaluate", expression=f"open({address})", userGesture=True)
        end = time.monotonic() + 10
        while len(context.pages) < 2 and time.monotonic() < end:
            time.sleep(0.05)  # between two looks
        other: Any = context.pages[-1]
        other.read_in(10)
        mark(other, self.thing.place)
        context.switch(page)

    def _number(self, page: Window) -> None:
        """Give the thing a number, by which it is known then."""
        selector = f'[data-truth="{self.thing.mark}"]'
        script(
            page,
            f"""(() => {{ const one = document.querySelector('{selector}')
            if (one.textContent.trim()) one.append(' no. 12')
            else one.setAttribute('aria-label', (one.labels?.[0]?.textContent ?? 'Field') + ' 12')
            }})()""",
        )

    def element(self, context: Session) -> Element:
        """Return what is known of the thing; by a number that it had where that is the way."""
        if self.way != "number":
            return self.thing.element
        page: Any = context.current
        mark(page, self.thing.place)
        self._number(page)
        nodes = survey(page)
        handle = page.probe("handleAt", f'[data-truth="{self.thing.mark}"]', 0)
        facts = next(one for one in nodes if one.handle == handle)
        made = replace(learned(facts, nodes, self.thing.title).element, id="thing")
        self.thing = replace(self.thing, page=tuple(nodes))
        return replace(made, clues=(Clue("name", "is", facts.name or facts.text),))


def story(element: Element) -> Script:
    """Return a story of one sentence: a press of the thing."""
    step = Step("press", "press", "thing", page=element.page)
    document = Document((step,), settings=Settings(LIMIT, pictures="none"))
    return Script(document, {"thing": element}, Names(), "http://desk")


def acted(before: Script, answer: Answer, place: Place) -> Script | None:
    """Return the story with what an answer offers done; None for what can not make it pass."""
    step = before.document.steps[0]
    elements, steps = dict(before.elements), [step]
    given: Any = answer.given
    if answer.act == "use clues":
        elements["thing"] = replace(Element.read(given["element"]), id="thing")
    elif answer.act == "raise limit":
        steps = [replace(step, limit=float(given["limit"]))]
    elif answer.act == "close first":
        elements["closer"] = replace(Element.read(given["element"]), id="closer")
        shown = {"property": "shown", "comparison": "is", "expected": "yes"}
        closed = Step("closed", "press", "closer", depth=1)
        steps = [Step("if", "if", "closer", shown), closed, step]
    elif answer.act == "go to window":
        steps = [Step("window", "window", inputs={"window": given["window"]}), step]
    elif answer.act == "sign in":
        steps = [Step("in", "flow", flow=given["flow"]), step]
    else:
        return None
    again = Step("again", "open", inputs={"address": place.address})
    flows = {"1": Flow("Sign in", Document((again,)))}
    document = replace(before.document, steps=tuple(steps))
    return replace(before, document=document, elements=elements, flows=flows)


@dataclass
class Tally:
    """What was counted."""

    cases: int = 0
    named: int = 0
    first: int = 0
    acts: int = 0
    works: int = 0


def passes(context: Session, played: Script) -> bool:
    """Play a story; returns whether it passes."""
    return Player(context, Watcher(), closes=False).play(played) == "passed"


def measure(chromium: Chromium, case: Case, tally: Tally, seconds: list[float]) -> None:
    """Break, fail, search, do what is offered, and count."""
    context = chromium.new_session()
    try:
        context.open_page()
        element = case.element(context)
        if not case.opened(context):
            return
        before = story(element)
        last = Last()
        Player(context, last, closes=False).play(before)
        if last.result is None or last.result.outcome == "passed":
            return
        found, took = searched(context, case, before)
        count(case, found, took, tally, seconds)
        right = next((one for one in found if one.cause in WAYS[case.way]), None)
        changed = acted(before, right, case.thing.place) if right else None
    finally:
        context.close()
    if changed is not None:
        worked = works(chromium, case, changed)
        tally.acts += 1
        tally.works += worked
        if not worked:
            say(f"  act does not work  {case.thing.place.name} {element.name}, {case.way}")


def searched(context: Session, case: Case, before: Script) -> tuple[list[Answer], float]:
    """Search; returns the answers, and seconds until the true cause was told."""
    stands: Any = Stands(context, case.thing)
    spot = ask.Spot(before.document.steps[0], before)
    began = time.monotonic()
    search = Search(stands, before.elements["thing"], spot, LIMIT, BUDGET)
    search.begin()
    search.thread.join(BUDGET + 5)
    told = (at for at, causes in stands.live.told if WAYS[case.way] & set(causes))
    return search.found, next(told, began + BUDGET) - began


def count(case: Case, found: list[Answer], took: float, tally: Tally, seconds: list[float]) -> None:
    """Count what a search came to."""
    tally.cases += 1
    causes = [one.cause for one in found]
    named = bool(WAYS[case.way] & set(causes))
    tally.named += named
    first = bool(causes) and causes[0] in WAYS[case.way]
    tally.first += first
    if named:
        seconds.append(took)
    if not first:
        said = [(one.cause, round(one.share, 2), one.told[:70]) for one in found[:3]]
        say(f"  not first  {case.thing.place.name} {case.thing.element.name}, {case.way}: {said}")


def works(chromium: Chromium, case: Case, changed: Script) -> bool:
    """Tell whether a changed story passes on the page broken anew, at the right thing."""
    context = chromium.new_session()
    try:
        context.open_page()
        case.opened(context)
        page: Any = context.current
        if case.way in ("renamed", "case", "number", "doubled"):
            handle = page.probe("handleAt", f'[data-truth="{case.thing.mark}"]', 0)
            right = found_by(changed.elements["thing"], survey(page))
            if [one.handle for one in right] != [handle]:
                return False
        return passes(context, changed)
    finally:
        context.close()


def main() -> None:
    """Measure and report."""
    chromium = Chromium()
    if sized(True, False):
        build()
    yard = Yard()
    tally, by_way = Tally(), Counter[str]()
    seconds: list[float] = []
    try:
        with a_desk() as desk:
            reset(desk, "spring")
            page = signed_in(chromium, desk)
            ways, number = list(WAYS), 0
            for place in places(desk, yard.address):
                page = page if place.name.startswith("desk") else chromium.new_session().open_page()
                for thing in known(page, place)[: OF_ALL - number]:
                    for turn in range(WAYS_OF_A_THING):
                        way = ways[(number + turn * len(ways) // WAYS_OF_A_THING) % len(ways)]
                        measure(chromium, Case(thing, way), tally, seconds)
                        by_way[way] += 1
                    number += 1
                say(f"{place.name}: {tally}")
    finally:
        yard.stop()
        chromium.close()
    say(f"{number} things, {dict(by_way)}")
    cases = max(tally.cases, 1)
    report(
        "search",
        {
            "cases": tally.cases,
            "named": round(tally.named / cases, 3),
            "first": round(tally.first / cases, 3),
            "act_works": round(tally.works / max(tally.acts, 1), 3),
            "seconds": round(statistics.median(seconds or [0.0]), 2),
        },
    )


if __name__ == "__main__":
    main()
