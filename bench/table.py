"""A table of 10,000 rows and 30 columns in the grid, against the same grid with 20 rows.

Typing, scrolling and keeping an edit in the real page in headless Chromium: the longest time
between two frames meanwhile, and how long an edit takes until it is kept. Ratios are of both grids
in one run.
"""

from __future__ import annotations

import time
from collections.abc import Callable

from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webdriver import WebDriver
from selenium.webdriver.support.ui import WebDriverWait

from bench._bench import Place, a_lantern, report, say, sized
from lantern.core.steps.edits import SetTable
from lantern.core.steps.model import Row
from lantern.store import tests
from lantern.store.rows import unpacked

SIZES = {"large": sized(10_000, 200), "small": 20}
COLUMNS = tuple(f"column_{n}" for n in range(30))
FLAGS = (
    "--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run "
    "--disable-background-networking --disable-component-update --disable-sync"
).split()
WATCH = """
window.longest = 0; let last = performance.now()
const look = (now) => { window.longest = Math.max(window.longest, now - last); last = now
  if (!window.over) requestAnimationFrame(look) }
window.over = false; requestAnimationFrame(look)"""


def make(place: Place, name: str, count: int) -> int:
    """Make a test with so many rows; returns its id."""
    rows = tuple(
        Row(f"r{n}", {column: f"value {n} of {column}" for column in COLUMNS}) for n in range(count)
    )
    with place.database.session() as session:
        test = tests.create(session, name, 1, None)
        tests.edit(session, test.id, SetTable(COLUMNS, rows), None)
        return test.id


def browser(address: str) -> WebDriver:
    """Return a browser in which a tester is signed in."""
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in FLAGS:
        options.add_argument(flag)
    service = webdriver.ChromeService("/usr/bin/chromedriver")
    driver = webdriver.Chrome(options=options, service=service)
    driver.set_window_size(1280, 900)
    driver.get(address + "/sign-in")
    field(driver, "[name=username]").send_keys("odo")
    field(driver, "[name=password]").send_keys("lantern-tester", Keys.ENTER)
    WebDriverWait(driver, 20).until(lambda d: "/sign-in" not in d.current_url)
    return driver


def field(driver: WebDriver, css: str) -> webdriver.remote.webelement.WebElement:
    """Return what a selector finds, as soon as it is there."""
    return WebDriverWait(driver, 60).until(lambda d: d.find_element(By.CSS_SELECTOR, css))


def longest(driver: WebDriver, work: Callable[[], object]) -> float:
    """Return the longest time between two frames while something is done, in milliseconds."""
    driver.execute_script(WATCH)
    work()
    return float(driver.execute_script("window.over = true; return window.longest"))


def settled(driver: WebDriver) -> None:
    """Wait until the page has come to rest after opening: half a second of short frames."""
    driver.execute_async_script(
        """const done = arguments[0]
        let last = performance.now(), quiet = 0
        const look = (now) => { quiet = now - last > 50 ? 0 : quiet + 1; last = now
          if (quiet < 30) requestAnimationFrame(look); else done() }
        requestAnimationFrame(look)"""
    )


def scroll(driver: WebDriver) -> None:
    """Scroll through the whole table, a page of it a frame."""
    driver.execute_async_script(
        """const done = arguments[0]
        const place = document.querySelector('[data-role=rows] .overflow-auto')
        let n = 0
        const step = () => { place.scrollTop = (n++ / 40) * place.scrollHeight
          if (n < 40) requestAnimationFrame(step); else { place.scrollTop = 0; done() } }
        step()"""
    )


def measure(place: Place, driver: WebDriver, test: int) -> dict[str, float]:
    """Measure one grid."""
    start = time.monotonic()
    driver.get(f"{place.address}/tests/{test}")
    cell = field(driver, "[data-cell='0:0']")
    found = {"open_s": time.monotonic() - start}
    settled(driver)
    found["scroll_ms"] = longest(driver, lambda: scroll(driver))
    cell = field(driver, "[data-cell='0:0']")
    cell.click()
    found["type_ms"] = longest(
        driver, lambda: cell.send_keys(" of the spring, typed letter by letter")
    )
    start = time.monotonic()
    cell.send_keys(Keys.TAB)
    WebDriverWait(driver, 60).until(lambda _: "letter by letter" in kept(place, test))
    found["keep_s"] = time.monotonic() - start
    return found


def kept(place: Place, test: int) -> str:
    """Return the first value of a test as it is kept."""
    with place.database.session() as session:
        return unpacked(tests.get(session, test)).rows[0].values[COLUMNS[0]]


def main() -> None:
    """Measure and report."""
    with a_lantern() as place:
        made = {name: make(place, name, count) for name, count in SIZES.items()}
        driver = browser(place.address)
        try:
            found = {name: measure(place, driver, test) for name, test in made.items()}
        finally:
            driver.quit()
    large, small = found["large"], found["small"]
    say(f"large {large}; small {small}")
    figures = {f"large_{name}": round(value, 2) for name, value in large.items()}
    figures |= {f"ratio_{name}": round(large[name] / small[name], 2) for name in large}
    report("table", figures)


if __name__ == "__main__":
    main()
