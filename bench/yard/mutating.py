"""Pages of the yard as their makers may change them, with the truth known."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

from bench._bench import sized
from bench._marking import marked
from bench.yard.building import build
from bench.yard.server import Yard
from lantern.browser.chromium import Chromium, ChromiumWindow
from lantern.core.elements.clues import Element
from lantern.core.elements.facts import Facts
from lantern.core.elements.repair import FINDS, propose, verdict
from lantern.station.inspecting import learned

PAGES = (
    "bootstrap", "jqueryui", "native", "fields", "dialogs", "hover", "keys", "stepper", "tree",
    "headless", "radix", "mui-surfaces", "antd-pick", "primevue", "alpine", "scripts", "windows",
    "calendar", "infinite", "tabulator", "virtual", "downloads",
)  # fmt: skip
SORTS = (
    "nothing", "classes", "ids", "wrappers", "order", "case", "wording", "tags", "kind", "moved",
    "doubled", "removed",
)  # fmt: skip
MOST = 9
"""Things of a page that are learned."""
MARK = """(most) => {
  const whole = { visibilityProperty: true, opacityProperty: true }
  const seen = (n) => n.checkVisibility(whole) && n.getBoundingClientRect().width > 1
  const all = [...document.querySelectorAll(
    'button,a[href],input:not([type=hidden]),select,textarea,[role=button],[role=tab],' +
    '[role=combobox],[role=switch],[role=treeitem],[role=columnheader],h1,h2')].filter(seen)
  const step = Math.max(1, all.length / most)
  let n = 0
  for (let at = 0; at < all.length && n < most; at += step)
    all[Math.floor(at)].setAttribute('data-truth', ++n)
  const truths = [...document.querySelectorAll('[data-truth]')]
  return [all.length, ...truths.map((one) => one.textContent.trim())]
}"""


@dataclass
class Tally:
    """What was counted, in all and by sort of change.

    `ranks` are the strengths of things that a change befell, with whether they were lost by it;
    `ranks_of_all` are those of all things on changed pages.
    """

    cases: int = 0
    right: int = 0
    wrong: int = 0
    missed: int = 0
    first: int = 0
    gone: int = 0
    gone_high: int = 0
    ranks: list[tuple[float, bool]] = field(default_factory=list)
    ranks_of_all: list[tuple[float, bool]] = field(default_factory=list)
    lost: dict[str, int] = field(default_factory=dict)
    told: list[str] = field(default_factory=list)


def ranking(ranks: list[tuple[float, bool]]) -> float:
    """Return how well strength tells what is lost: the area under the curve (0.5 is chance)."""
    kept = [share for share, lost in ranks if not lost]
    lost = [share for share, gone in ranks if gone]
    if not kept or not lost:
        return 1.0
    wins = sum((a > b) + (a == b) / 2 for a in kept for b in lost)
    return wins / (len(kept) * len(lost))


def _script(page: ChromiumWindow, expression: str) -> object:
    answer = page.call("Runtime.evaluate", expression=expression, returnByValue=True)
    return answer["result"].get("value")


def _marked(page: ChromiumWindow) -> tuple[list[Facts], dict[str, Facts], set[str]]:
    """Return what is recognised, which of it is marked as what, and what a change befell."""
    nodes, parts = marked(page, "data-truth")
    befallen = {
        mark
        for mark, facts in parts.items()
        if page.probe("read", facts.handle, "attribute data-befell")
    }
    return nodes, parts, befallen


TRIES = 5


def _opened(page: ChromiumWindow, address: str, wanted: object = None) -> object:
    """Open a page and mark things of it; returns of how many, and what the marked things say.

    A page that was not done when it was marked has other things marked than before: it is opened
    again, so that what is looked for is what was learned.
    """
    said: object = None
    for _ in range(TRIES):
        page.navigate(address, 20)
        page.quiet(0.25, 4)
        said = _script(page, f"({MARK})({MOST})")
        if wanted is None or said == wanted:
            break
    return said


def changed_pages(chromium: Chromium, address: str) -> Iterator[tuple[str, str, ChromiumWindow]]:
    """Yield each page in each state: its name, the sort of change, and the window it is open in."""
    for name in sized(PAGES, PAGES[:1]):
        known: object = None
        for number, sort in enumerate(sized(SORTS, SORTS[:1])):
            context = chromium.new_session()
            page = context.open_page()
            known = _opened(page, f"{address}/page/{name}", known)
            change = (Path(__file__).parent / "mutating.js").read_text(encoding="utf-8")
            body = change.partition("\n")[2].strip().removeprefix(";")
            seed = sum(map(ord, name)) * 31 + number
            _script(page, f"({body})({json.dumps(sort)}, {seed})")
            page.quiet(0.1, 2)
            yield name, sort, page
            context.close()


def measure(chromium: Chromium) -> Tally:
    """Learn things of the yard's pages, change the pages, and look for the things again."""
    build()
    yard, tally = Yard(), Tally()
    known: dict[str, tuple[Element, float]] = {}
    try:
        for name, sort, page in changed_pages(chromium, yard.address):
            nodes, parts, befallen = _marked(page)
            if sort == "nothing":
                known = {}
                for mark, facts in parts.items():
                    made = learned(facts, nodes, name)
                    known[mark] = made.element, made.strength.share
            for mark, (element, share) in known.items():
                case = Case(f"{name}, {sort}", element, share, mark in befallen)
                _count(tally, case, nodes, parts.get(mark))
    finally:
        yard.stop()
    return tally


@dataclass(frozen=True)
class Case:
    """A thing looked for on a changed page: what is known of it, and whether it was changed."""

    where: str
    element: Element
    share: float
    befallen: bool


def _count(tally: Tally, case: Case, nodes: list[Facts], truth: Facts | None) -> None:
    where, element = case.where, case.element
    its = verdict(element, nodes)
    accepted = its.found[0] if its.word == FINDS else None
    words = f"{where}: {element.name} [{'; '.join(clue.sentence() for clue in element.clues)}]"
    if truth is None:
        tally.gone += 1
        if accepted is not None:
            tally.wrong += 1
            tally.told.append(f"wrong (gone) {words} -> {accepted.name or accepted.text}")
        best = propose(element, nodes, most=1)
        if best and best[0].high:
            tally.gone_high += 1
            tally.told.append(f"high (gone) {words} -> {best[0].facts.name} {best[0].score}")
        return
    tally.cases += 1
    right = accepted is not None and accepted.handle == truth.handle
    tally.right += right
    tally.ranks_of_all.append((case.share, not right))
    if case.befallen:
        tally.ranks.append((case.share, not right))
    if right:
        return
    sort = where.rpartition(", ")[2]
    tally.lost[sort] = tally.lost.get(sort, 0) + 1
    if accepted is not None:
        tally.wrong += 1
        tally.told.append(f"wrong {words} -> {accepted.name or accepted.text}")
    tally.missed += 1
    proposals = propose(element, nodes)
    if proposals and proposals[0].facts.handle == truth.handle:
        tally.first += 1
    else:
        shown = [(one.facts.name or one.facts.text, one.score) for one in proposals[:2]]
        tally.told.append(f"not first {words} {its.word} -> {shown}")
