"""Driving Lantern's pages as a person does: by what is seen, on the stage by place."""

import time
from contextlib import contextmanager

from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    StaleElementReferenceException,
)
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import Select
from sqlalchemy import select

from lantern.store import accounts
from lantern.store.models import Account
from lantern.web.guard import COOKIE

VIEWPORT = (1280, 800)


BETWEEN = 0.08
"""Seconds between two looks at a condition: looking costs the page time that it needs itself."""
SHOWN = "one.checkVisibility({ opacityProperty: true, visibilityProperty: true })"
FIRST = f"return [...document.querySelectorAll(arguments[0])].find((one) => {SHOWN})"
NAMED = f"""const all = document.evaluate(arguments[0], document, null, 7)
for (let n = 0; n < all.snapshotLength; n += 1) {{
  const one = all.snapshotItem(n)
  if ({SHOWN} && (!arguments[1] || !one.disabled)) return one
}}"""
DRAWN = """const [x, y, width] = arguments
const canvas = document.querySelector('[data-role=picture] canvas')
const scale = canvas.width / width
const [left, top] = [Math.round((x - 60) * scale), Math.round((y - 24) * scale)]
const { data } = canvas.getContext('2d').getImageData(
  left, top, Math.round(120 * scale), Math.round(48 * scale))
return new Set(new Uint32Array(data.buffer)).size > 1"""
"""Whether what a picture of the stage shows around a place has more than one colour."""
RETRIED = (
    StaleElementReferenceException,
    ElementNotInteractableException,
    ElementClickInterceptedException,
)
"""What happens when a page draws itself anew between looking and acting."""


class Quick(WebElement):
    """An element of which the page itself tells: a tenth of the work of the driver's scripts."""

    TOLD = f"""const one = arguments[0]
if (one.localName === 'option') return one.textContent
return {SHOWN} ? one.innerText.replaceAll('\u00a0', ' ') : ''"""

    @property
    def text(self):
        return self.parent.execute_script(self.TOLD, self).strip()

    def is_displayed(self):
        return self.parent.execute_script(f"const one = arguments[0]; return {SHOWN}", self)


def until(condition, what, limit=20.0):
    """Wait until a condition holds and return what it gave; fail saying what was waited for."""
    end = time.monotonic() + limit
    while True:
        try:
            got = condition()
        except RETRIED:
            got = None
        if got:
            return got
        if time.monotonic() > end:
            raise AssertionError(f"Not within {limit:g} s: {what}")
        time.sleep(BETWEEN)


@contextmanager
def offline(person):
    """While nothing the page asks for gets through."""
    conditions = {"latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
    person.driver.execute_cdp_cmd("Network.enable", {})
    person.driver.execute_cdp_cmd(
        "Network.emulateNetworkConditions", conditions | {"offline": True}
    )
    try:
        yield
    finally:
        person.driver.execute_cdp_cmd(
            "Network.emulateNetworkConditions", conditions | {"offline": False}
        )


class Lantern:
    """Lantern's pages."""

    def __init__(self, driver, stack):
        self._driver, self.stack = driver, stack
        self._starts = False

    @property
    def driver(self):
        """The browser; who has just signed in and went nowhere begins at home."""
        if self._starts:
            self.go("/")
        return self._driver

    # -- finding -----------------------------------------------------------------------------

    def all(self, css):
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def one(self, css, limit=20.0):
        """The first shown thing that fits a selector."""
        return until(lambda: self.driver.execute_script(FIRST, css), css, limit)

    def nth(self, css, at):
        """What stands at a place (from 0; -1: last) among all that fits, when there is so much."""
        least = at + 1 if at >= 0 else -at
        return until(lambda: (found := self.all(css))[least - 1 :] and found[at], f"{css} {at}")

    def button(self, words, limit=20.0, *, enabled=False):
        """A shown button or link by its words or its label; one that can be pressed if asked."""
        path = (
            f"//*[self::button or self::a or self::summary or self::label]"
            f"[normalize-space()='{words}' or @aria-label='{words}' or @title='{words}']"
        )
        return until(
            lambda: self.driver.execute_script(NAMED, path, enabled),
            f"the button “{words}”",
            limit,
        )

    def press(self, words):
        until(lambda: self._click(words), f"pressing “{words}”")

    def _click(self, words):
        self.button(words, enabled=True).click()
        return True

    def press_one(self, css, words=""):
        """Press the first that fits a selector and holds these words; it may be drawn anew."""

        def pressed():
            found = next((e for e in self.all(css) if words in e.text), None)
            return found is not None and found.click() is None

        until(pressed, f"{css} with “{words}” to press")

    def tool(self, words):
        """Do something with the story: by its button, else out of the menu of all that there is."""

        def done():
            path = f"//button[@aria-label='{words}' or normalize-space()='{words}']"
            there = self.driver.find_elements(By.XPATH, path)
            shown = next((e for e in there if e.is_displayed() and e.is_enabled()), None)
            (shown or self.one("[data-role=all-acts]")).click()
            return shown is not None

        until(done, f"doing “{words}”")

    def fill(self, css, text):
        field = self.one(css)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)
        return field

    def sees(self, words, limit=20.0):
        """Wait until words are shown somewhere on the page."""
        return until(
            lambda: words in self.driver.execute_script("return document.body.innerText"),
            f"the words “{words}”",
            limit,
        )

    # -- getting around ----------------------------------------------------------------------

    def go(self, path):
        self._starts = False
        self._driver.get(self.stack.address + path)

    def sign_in(self, username="odo"):
        """Be somebody of the demo, as if the form had been filled in."""
        with self.stack.database.session() as session:
            account = session.scalar(select(Account).filter_by(username=username))
            token, _ = accounts.sign_in(session, account)
        cookie = {"url": self.stack.address, "name": COOKIE, "value": token, "httpOnly": True}
        self._driver.execute_cdp_cmd("Network.setCookie", cookie)
        self._starts = True

    def fill_in_sign_in(self, username="odo", password="lantern-tester"):
        """Sign in by the form."""
        self.go("/sign-in")
        self.fill("[name=username]", username)
        self.fill("[name=password]", password)
        self.press("Sign in")
        until(lambda: "/sign-in" not in self.driver.current_url, "being signed in")

    def new_test(self, name):
        """Make a test of the Kiln Desk and wait for its stage."""
        self.go("/tests")
        self.press("New test")
        self.fill("[name=name]", name)
        self.press("Open the stage")
        self.one("[aria-label=Stage][data-phase=open]", 40)
        return int(self.driver.current_url.split("/tests/")[1].split("?")[0])

    # -- the stage ---------------------------------------------------------------------------

    def record(self):
        self.press("Record")
        self.one("[aria-label=Stage][data-recording=true]")

    def open_on_stage(self, path):
        field = self.fill("[name=address]", path)
        field.send_keys(Keys.ENTER)
        until(
            lambda: path in self.one("[name=address]").get_attribute("value") and self._loaded(),
            f"{path} on the stage",
        )

    def _loaded(self):
        return self.one("[name=address]").get_attribute("value").startswith("http")

    def at(self, x, y):
        """Move to a place of the page under test (its own pixels) on the stage."""
        picture = self.one("[data-role=picture]")
        scale = picture.size["width"] / VIEWPORT[0]
        dx = (x - VIEWPORT[0] / 2) * scale
        dy = (y - VIEWPORT[1] / 2) * scale
        return ActionChains(self.driver, duration=30).move_to_element_with_offset(picture, dx, dy)

    def click_stage(self, x, y):
        self.at(x, y).click().perform()

    def sign_in_on_stage(self, desk):
        """Record the sign-in of the Kiln Desk."""
        self.open_on_stage("/sign-in")
        self.story_has("Open /sign-in")
        self.click_stage(*desk["member"])
        self.type_stage("mara")
        self.story_has("Type mara into Member name")
        self.click_stage(*desk["password"])
        self.type_stage("wheel-and-kiln")
        self.story_has("Type •••••• into Password")
        self.click_stage(*desk["enter"])
        self.story_has("Press Sign in")
        self.stage_at("/quote", desk["piece"])

    def stage_at(self, end, place=None):
        """Wait until the stage is at an address that ends so.

        A page has its address before it has anything to be pressed: with a `place`, also until
        something is drawn there.
        """
        until(
            lambda: self.one("[name=address]").get_attribute("value").endswith(end),
            f"{end} on the stage",
        )
        if place:
            until(
                lambda: self.driver.execute_script(DRAWN, *place, VIEWPORT[0]),
                f"something drawn at {place} on the stage",
            )

    def type_stage(self, text):
        ActionChains(self.driver).send_keys(text).perform()

    def fill_cell(self, row, column, text):
        """Type into a cell of the rows; the grid may be drawing itself anew meanwhile."""
        css = f"[data-cell='{row}:{column}']"
        until(lambda: self._type_cell(css, text), f"typing “{text}” into cell {row}:{column}")

    def _type_cell(self, css, text):
        cell = self.one(css)
        cell.click()
        cell.send_keys(Keys.CONTROL, "a")
        cell.send_keys(text)
        typed = cell.get_property("value") == text
        cell.send_keys(Keys.TAB)
        return typed

    # -- the story ---------------------------------------------------------------------------

    def sentences(self):
        css = "[data-role=story] li[data-step] > div"
        said = "return [...document.querySelectorAll(arguments[0])].map((one) => one.innerText)"
        return [" ".join(text.split()) for text in self.driver.execute_script(said, css)]

    def select(self, css, option):
        """Choose an option of a native list, by its text, once it is there."""

        has = "return [...arguments[0].options].some((one) => one.text === arguments[1])"
        until(lambda: self.driver.execute_script(has, self.one(css), option), f"{option} in {css}")
        Select(self.one(css)).select_by_visible_text(option)

    def choose_rows(self, which):
        """Choose the rows to run: all, ticked, or numbers."""
        select = Select(self.one("[aria-label='Which rows to run']"))
        select.select_by_value(which if which in ("all", "ticked") else "some")
        if which not in ("all", "ticked", ""):
            self.fill("[aria-label='Numbers of the rows']", which)

    def choose(self, number):
        """Choose the n-th sentence (from 1) by its number in the margin."""
        until(lambda: self._choose(number), f"choosing sentence {number}")

    def _choose(self, number):
        self.nth("li[data-step] > span:nth-child(2)", number - 1).click()
        return self.nth("li[data-step]", number - 1).get_attribute("aria-current") == "true"

    def story_has(self, *wanted, limit=20.0):
        """Wait until the story ends with these sentences."""

        def ends():
            said = self.sentences()
            return said[-len(wanted) :] == list(wanted)

        try:
            until(ends, f"sentences {wanted}", limit)
        except AssertionError as error:
            raise AssertionError(f"{error}; the story is {self.sentences()}") from None
