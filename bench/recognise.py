"""Recognising: learned on the spring release, looked up on summer, with the truth known.

The Kiln Desk marks its parts, so that it is known which node of a release is which thing; no
clue looks at these marks. `plain` is without repair, `first_proposal` of what plain did not find,
`false_high` counts proposals that score high for things that are not there: those that autumn
loses, and each thing of summer taken away in turn.
"""

from __future__ import annotations

import logging
import os
import threading
import urllib.parse
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from werkzeug.serving import make_server

from bench._bench import report, say, sized
from bench._marking import Marked, marked
from bench.yard.mutating import measure, ranking
from lantern.browser.chromium import Chromium, ChromiumWindow
from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.repair import FINDS, propose, verdict
from lantern.demo.desk.app import create_app
from lantern.station.inspecting import learned

BOOKING = {
    "piece": "Wide platter", "clay": "Stoneware", "cone": "6", "glaze": "None", "count": "14",
    "shelf": "Large (16 litres)", "drop_off": "2099-06-05",
}  # fmt: skip
PRESS = "document.querySelector('{}').click()"


@dataclass(frozen=True)
class View:
    """A page in a state: its address, and script that leads to the state."""

    path: str
    script: str = ""


VIEWS = (
    View("/quote"),
    View("/quote", "document.querySelector('[name=piece]').value = 'Moon jar';"
         + PRESS.format("main form .act")),
    View("/quote", "document.querySelector('[name=count]').value = '90';"
         + PRESS.format("main form .act")),
    View("/board"),
    View("/board", PRESS.format("[data-opens]")),
    View("/shelves"),
    View("/recipes"),
    View("/bench"),
    View("/bench", "document.querySelector('[role=combobox]').focus()"),
    View("/talk"),
    View("/talk", PRESS.format("[data-shows-notice]")),
    View("/chart"),
    View("/files"),
    View("/ticket/1"),
    View("/sign-in"),
)  # fmt: skip
"""What is looked at; a further page or state is one entry here."""


@contextmanager
def a_desk() -> Iterator[str]:
    """Run a Kiln Desk that marks its parts; gives its address."""
    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    server = make_server("127.0.0.1", 0, create_app(mark_parts=True), threaded=True)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()


def reset(desk: str, release: str) -> None:
    """Put the desk back and start a release."""
    urllib.request.urlopen(f"{desk}/reset", data=f"release={release}".encode()).close()


def signed_in(browser: Chromium, desk: str) -> ChromiumWindow:
    """Open a window, sign in and book one firing."""
    page = browser.new_session().open_page()
    page.navigate(f"{desk}/sign-in", 10)
    form = urllib.parse.urlencode({"member": "mara", "password": "wheel-and-kiln"})
    post = "fetch({!r}, {{method: 'POST', body: new URLSearchParams({!r})}}).then(r => r.status)"
    for address, body in (("/sign-in", form), ("/book", urllib.parse.urlencode(BOOKING))):
        page.call(
            "Runtime.evaluate",
            expression=post.format(desk + address, body),
            awaitPromise=True,
        )
    return page


def look_at(page: ChromiumWindow, desk: str, view: View) -> tuple[list[Facts], Marked]:
    """Return everything that is recognised in a view, and which node that is shown is which part.

    What a view hides, such as a closed menu, is measured in the view that shows it.
    """
    page.navigate(desk + view.path, 15)
    page.quiet(0.2, 3)
    if view.script:
        page.call("Runtime.evaluate", expression=view.script)
        page.after_input()
        page.quiet(0.2, 3)
    page.title = page.probe("page")["title"]
    return marked(page, "data-part")


def without(nodes: list[Facts], gone: Facts) -> list[Facts]:
    """Return the nodes without one and without what it consists of or wraps it tightly."""
    return [node for node in nodes if node.frame != gone.frame or not _part_of(node, gone)]


def _part_of(node: Facts, gone: Facts) -> bool:
    if node.handle == gone.handle:
        return True
    same_words = bool(gone.text) and node.text == gone.text
    a, b = node.box, gone.box
    inside = (
        a.x >= b.x - 1 and a.y >= b.y - 1 and a.x + a.width <= b.x + b.width + 1
        and a.y + a.height <= b.y + b.height + 1
    )  # fmt: skip
    around = (
        b.x >= a.x - 1 and b.y >= a.y - 1 and b.x + b.width <= a.x + a.width + 1
        and b.y + b.height <= a.y + a.height + 1
    )  # fmt: skip
    return (inside and b.width > 0 and a.width > 0) or (around and same_words and b.width > 0)


@dataclass
class Count:
    """What was counted."""

    elements: int = 0
    right: int = 0
    wrong: int = 0
    first: int = 0
    missed: int = 0
    gone: int = 0
    false_high: int = 0
    high: int = 0


def compare(element: Element, nodes: list[Facts], truth: Facts | None, count: Count) -> None:
    """Look one element up on a page where the truth is known, and count."""
    its = verdict(element, nodes)
    accepted = its.found[0] if its.word == FINDS else None
    here = f"{element.page}: {element.name}"
    if truth is None:
        count.gone += 1
        if accepted is not None:
            count.wrong += 1
            say(f"  wrong (gone)  {here} -> {accepted.name or accepted.text}")
        _false_high(element, nodes, here, count)
        return
    count.elements += 1
    if accepted is not None and accepted.handle == truth.handle:
        count.right += 1
    else:
        if accepted is not None:
            count.wrong += 1
            say(f"  wrong         {here} -> {accepted.name or accepted.text}")
        count.missed += 1
        proposals = propose(element, nodes)
        if proposals and proposals[0].facts.handle == truth.handle:
            count.first += 1
            count.high += proposals[0].high
        else:
            shown = [(p.facts.name or p.facts.text, p.score) for p in proposals[:2]]
            say(f"  not first     {here} -> {shown}")
        if os.environ.get("SAY_MISSED"):
            clues = [clue.sentence() for clue in element.clues]
            say(f"  missed        {here} {its.word} {clues} {[p.score for p in proposals[:2]]}")
    _false_high(element, without(nodes, truth), here, count)


def _false_high(element: Element, nodes: list[Facts], here: str, count: Count) -> None:
    proposals = propose(element, nodes, most=1)
    if proposals and proposals[0].high:
        count.false_high += 1
        best = proposals[0]
        say(f"  false high    {here} -> {best.facts.name or best.facts.text} {best.score}")


def main() -> None:
    """Measure and report."""
    browser, count = Chromium(), Count()
    gone = Count()
    try:
        with a_desk() as desk:
            known: dict[View, dict[str, Element]] = {}
            reset(desk, "spring")
            page = signed_in(browser, desk)
            for view in sized(VIEWS, VIEWS[-1:]):
                nodes, parts = look_at(page, desk, view)
                known[view] = {
                    mark: learned(facts, nodes, page.title).element for mark, facts in parts.items()
                }
            for release, counted in (("summer", count), ("autumn", gone)):
                reset(desk, release)
                page = signed_in(browser, desk)
                seen: set[str] = set()
                for view in known:
                    nodes, parts = look_at(page, desk, view)
                    for mark, element in known[view].items():
                        if mark in seen:
                            continue  # a part that stands on several pages counts once
                        seen.add(mark)
                        if release == "summer" or mark not in parts:
                            compare(element, nodes, parts.get(mark), counted)
        say("Now the pages of the yard, changed …")
        tally = measure(browser)
    finally:
        browser.close()
    for line in tally.told:
        say(f"  {line}")
    say(f"lost by sort of change: {tally.lost}")
    say(
        f"{count.elements} elements: {count.right} found plainly, {count.missed} not; "
        f"of these {count.first} first of the proposals, {count.high} of them high. "
        f"{gone.gone} are gone in autumn."
    )
    report(
        "recognise",
        {
            "elements": count.elements,
            "plain_right": round(count.right / count.elements, 3),
            "plain_wrong": count.wrong + gone.wrong,
            "first_proposal_right": round(count.first / max(count.missed, 1), 3),
            "false_high": count.false_high + gone.false_high,
            "gone_in_autumn": gone.gone,
            "yard_cases": tally.cases + tally.gone,
            "yard_plain_right": round(tally.right / max(tally.cases, 1), 3),
            "yard_wrong": tally.wrong,
            "yard_with_first_proposal": round((tally.right + tally.first) / max(tally.cases, 1), 3),
            "yard_gone_high": round(tally.gone_high / max(tally.gone, 1), 3),
            "yard_strength_auc": round(ranking(tally.ranks), 2),
            "yard_strength_auc_of_all": round(ranking(tally.ranks_of_all), 2),
        },
    )


if __name__ == "__main__":
    main()
