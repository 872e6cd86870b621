"""A page of 10,000 nodes: a still of it, looking an element up, choosing clues, memory."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

from bench._bench import report, say, sized
from bench.suggest import BUILD, ROWS
from lantern.browser.chromium import Chromium, ChromiumWindow
from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Facts
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import query_for
from lantern.core.recording.proposals import propose
from lantern.station.lookup import look, survey

ROUNDS = sized(15, 2)
ELEMENTS = (
    Element("a", "Menu", "button", (Clue("name", "is", "Menu", loose=True),
                                    Clue("row", "is", f"Piece {ROWS * 7 // 10}"))),
    Element("b", "Ticket", "link", (Clue("href", "is", f"/ticket/{ROWS // 2}"),)),
    Element("c", "Firings", "heading", (Clue("name", "is", "Firings", loose=True),)),
    Element("d", "Piece", "text", (Clue("text", "is", f"Piece {ROWS * 9 // 10}"),)),
)  # fmt: skip


def timed(work: Callable[[], object]) -> float:
    """Return how long some work takes, in seconds."""
    start = time.monotonic()
    work()
    return time.monotonic() - start


def heap(page: ChromiumWindow) -> float:
    """Return the memory that scripts of the page hold after clearing up, in MB."""
    page.call("HeapProfiler.collectGarbage")
    return float(page.call("Runtime.getHeapUsage")["usedSize"]) / 1e6


def lookups(page: ChromiumWindow) -> list[float]:
    """Return the times of looking elements up, in milliseconds."""
    times = []
    for _ in range(ROUNDS):
        for element in ELEMENTS:
            request = ask.Lookup(query_for(element))
            times.append(timed(lambda r=request: look(page, r, time.sleep)) * 1000)  # type: ignore[misc]
            assert len(element.among(look(page, request, time.sleep).candidates)) == 1
    return times


def suggestions(page: ChromiumWindow) -> list[float]:
    """Return the times of choosing clues, in milliseconds."""

    def choose(handle: int) -> None:
        raw = page.probe("describe", handle)
        propose(Facts.read(raw["facts"]), tuple(map(Facts.read, raw["rivals"])), page.title)

    times = []
    for place in range(ROUNDS):
        for selector in ("button", "a", "input", "td:nth-child(2)"):
            handle = page.probe("handleAt", selector, place * 60)
            times.append(timed(lambda h=handle: choose(h)) * 1000)  # type: ignore[misc]
    return times


def main() -> None:
    """Measure and report."""
    browser = Chromium()
    try:
        page = browser.new_session().open_page()
        page.navigate("about:blank", 10)
        nodes = page.call("Runtime.evaluate", expression=BUILD, returnByValue=True)
        page.call("Runtime.evaluate", expression="document.title")
        before = heap(page)
        stills = [timed(lambda: (survey(page), page.picture())) for _ in range(3)]
        looked, suggested = lookups(page), suggestions(page)
        grown = heap(page) - before
    finally:
        browser.close()
    say(f"{nodes['result']['value']} nodes; slowest still {max(stills):.2f} s, "
        f"lookup {max(looked):.0f} ms, clues {max(suggested):.0f} ms")  # fmt: skip
    report(
        "page",
        {
            "still_s": round(statistics.median(stills), 2),
            "lookup_ms": round(statistics.median(looked), 1),
            "suggest_ms": round(statistics.median(suggested), 1),
            "probe_mb": round(grown, 1),
        },
    )


if __name__ == "__main__":
    main()
