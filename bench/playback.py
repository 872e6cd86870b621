"""Playback against the same steps hand-written with Selenium: a 30-step test over 10 rows.

The script is what a tester would otherwise write: explicit waits, a fresh browser a row. Both are
measured in one run, in turn, so that the machine is the same; figures are ratios of wall time.
"""

from __future__ import annotations

import time

from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webdriver import WebDriver
from selenium.webdriver.support import expected_conditions as until
from selenium.webdriver.support.ui import Select, WebDriverWait
from sqlalchemy import select

from bench._bench import Place, a_lantern, report, run_to_end, say, sized
from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.model import Document, Pictures, Row, Settings, Step
from lantern.store import elements, tests
from lantern.store.models import Environment
from lantern.store.rows import packed

ROWS = sized(10, 1)
ROUNDS = sized(2, 1)
PIECES = ["Moon jar", "Tea caddy", "Wide platter", "Roof finial", "Ash tile"]

# One line a step: action, id of the element, value. Both sides play exactly these.
QUOTE = [
    ("type", "piece", "{piece}"),
    ("choose", "clay", "Stoneware"),
    ("choose", "cone", "10"),
    ("choose", "glaze", "Celadon"),
    ("type", "count", "3"),
    ("choose", "shelf", "Medium (9 litres)"),
    ("press", "ask", ""),
    ("check", "price", "€"),
]
STEPS = [
    ("open", "", "/sign-in"),
    ("type", "member", "mara"),
    ("type", "password", "wheel-and-kiln"),
    ("press", "enter", ""),
    *QUOTE,
    ("tick", "rush", ""),
    *QUOTE,
    ("open", "", "/quote"),
    *QUOTE,
]
KINDS = {
    "member": "text box", "password": "password box", "enter": "button", "piece": "text box",
    "clay": "choice list", "cone": "choice list", "glaze": "choice list", "count": "text box",
    "shelf": "choice list", "rush": "tick box", "ask": "button", "price": "text",
}  # fmt: skip


def document(pictures: Pictures) -> Document:
    """Return the test as Lantern plays it."""
    steps = [_step(number, *line) for number, line in enumerate(STEPS)]
    rows = [Row(f"r{n}", {"piece": PIECES[n % len(PIECES)]}) for n in range(ROWS)]
    return Document(tuple(steps), ("piece",), tuple(rows), Settings(pictures=pictures))


def _step(number: int, action: str, element: str, value: str) -> Step:
    text = value.replace("{piece}", "${row.piece}")
    inputs = {
        "open": {"address": text},
        "type": {"text": text},
        "choose": {"option": text},
        "check": {"property": "text", "comparison": "starts with", "expected": text},
    }.get(action, {})
    return Step(f"s{number}", action, f"bench-{element}" if element else "", inputs)


def by_hand(desk: str) -> float:
    """Play the rows as a hand-written Selenium script would; returns seconds."""
    start = time.monotonic()
    for number in range(ROWS):
        driver = _browser()
        try:
            _row(driver, desk, PIECES[number % len(PIECES)])
        finally:
            driver.quit()
    return time.monotonic() - start


def _browser() -> WebDriver:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in (
        "--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
        "--disable-background-networking", "--disable-component-update", "--disable-sync",
        "--window-size=1280,800",
    ):  # fmt: skip
        options.add_argument(flag)
    return webdriver.Chrome(
        options=options, service=webdriver.ChromeService("/usr/bin/chromedriver")
    )


def _row(driver: WebDriver, desk: str, piece: str) -> None:
    wait = WebDriverWait(driver, 10, poll_frequency=0.05)
    for action, element, value in STEPS:
        text = value.replace("{piece}", piece)
        where = (By.ID, element)
        if action == "open":
            driver.get(desk + text)
        elif action == "type":
            field = wait.until(until.element_to_be_clickable(where))
            field.clear()
            field.send_keys(text)
        elif action == "choose":
            Select(wait.until(until.element_to_be_clickable(where))).select_by_visible_text(text)
        elif action == "tick":
            box = wait.until(until.element_to_be_clickable(where))
            if not box.is_selected():
                box.click()
        elif action == "press":
            wait.until(until.element_to_be_clickable(where)).click()
        else:
            wait.until(until.visibility_of_element_located(where))
            assert driver.find_element(*where).text.startswith(text)


def by_lantern(place: Place, test_id: int, pictures: Pictures) -> float:
    """Run the rows on record, from queueing to the end; returns seconds."""
    with place.database.session() as session:
        test = tests.get(session, test_id)
        test.body = packed(session, document(pictures))
    return run_to_end(place.database, test_id)


def _make_test(place: Place) -> int:
    with place.database.session() as session:
        for key, kind in KINDS.items():
            fact = Clue("id", "is", key)
            elements.save(session, Element(f"bench-{key}", key, kind, (fact,)))
        environment = session.scalars(select(Environment)).one()
        return tests.create(session, "bench", environment.id, None, document("none")).id


def main() -> None:
    """Measure in turn, and report the ratios of the best of each."""
    with a_lantern() as place:
        test_id = _make_test(place)
        by_lantern(place, test_id, "none")  # the station's browser is up from here on
        times: dict[str, list[float]] = {"script": [], "plain": [], "pictures": []}
        for _ in range(ROUNDS):
            times["script"].append(by_hand(place.desk))
            times["plain"].append(by_lantern(place, test_id, "none"))
            times["pictures"].append(by_lantern(place, test_id, "each step"))
            say("  ".join(f"{name} {values[-1]:.1f} s" for name, values in times.items()))
    best = {name: min(values) for name, values in times.items()}
    report(
        "playback",
        {
            "ratio_plain": round(best["plain"] / best["script"], 3),
            "ratio_pictures": round(best["pictures"] / best["script"], 3),
            "script_s": round(best["script"], 2),
            "steps": len(STEPS),
            "rows": ROWS,
        },
    )


if __name__ == "__main__":
    main()
