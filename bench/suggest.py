"""Clues for an element on a page of 10,000 nodes: facts and rivals by the probe, choice in core."""

from __future__ import annotations

import statistics
import time

from bench._bench import report, say, sized
from lantern.browser.chromium import Chromium, ChromiumWindow
from lantern.core.elements.facts import Facts
from lantern.core.recording.proposals import propose
from lantern.station.lookup import survey

ROUNDS = sized(3, 1)
PLACES = 20
ROWS = sized(1000, 200)
BUILD = f"""(() => {{
  const row = (n) => `<tr class="r${{n}}"><td>${{n}}</td><td>Piece ${{n}}</td>
    <td><a href="/ticket/${{n}}">Ticket</a></td>
    <td><label>Count <input name="count" value="1"></label></td>
    <td><button>Menu</button></td></tr>`
  const rows = [...Array({ROWS}).keys()].map(row).join('')
  document.body.innerHTML = `<main><h1>Firings</h1><table>${{rows}}</table></main>`
  return document.querySelectorAll('*').length
}})()"""


def measure(page: ChromiumWindow) -> list[float]:
    """Return the times in milliseconds from asking the probe to the proposed clues."""
    times = []
    for _ in range(ROUNDS):
        for selector in ("button", "a", "input", "td:nth-child(2)"):
            for place in range(0, ROWS, ROWS // (PLACES // 4)):
                handle = page.probe("handleAt", selector, place)
                start = time.monotonic()
                raw = page.probe("describe", handle)
                facts = Facts.read(raw["facts"])
                proposal = propose(facts, tuple(map(Facts.read, raw["rivals"])), page.title)
                times.append((time.monotonic() - start) * 1000)
                assert proposal.clues
    return times


def timed_survey(page: ChromiumWindow) -> float:
    """Return how long working out the facts of everything on the page takes, in milliseconds."""
    start = time.monotonic()
    survey(page)
    return (time.monotonic() - start) * 1000


def main() -> None:
    """Measure and report."""
    browser = Chromium()
    try:
        page = browser.new_session().open_page()
        page.navigate("about:blank", 10)
        nodes = page.call("Runtime.evaluate", expression=BUILD, returnByValue=True)
        times = measure(page)
        surveys = [timed_survey(page) for _ in range(3)]
    finally:
        browser.close()
    count = nodes["result"]["value"]
    say(f"{len(times)} elements on a page of {count} nodes, slowest {max(times):.0f} ms")
    middle = statistics.median(times)
    ratio = round(middle / statistics.median(surveys), 2)
    report("suggest", {"suggest_ms": round(middle, 1), "suggest_ratio": ratio, "nodes": count})


if __name__ == "__main__":
    main()
