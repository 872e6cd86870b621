"""The workbench as somebody wants it: its sizes, its head, and what is never out of reach."""

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui.pages import until
from tests.ui.test_data import a_quote_that_pauses

NARROW = {"width": 1024, "height": 768, "deviceScaleFactor": 1, "mobile": False}


@pytest.fixture
def bench(request, lantern):
    """A test that is open in the workbench; returns its number."""
    test = a_quote_that_pauses(lantern.stack, request.node.name)
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    until(lambda: len(lantern.sentences()) > 5, "the story")
    return test


def width(lantern):
    return lantern.one("section[aria-label=Story]").rect["width"]


def test_a_width_that_was_drawn_is_there_again_and_goes_back(lantern, bench):
    before = width(lantern)
    line = lantern.one("[aria-label='Width of the story']")
    line.send_keys(Keys.ARROW_LEFT, Keys.ARROW_LEFT)
    until(lambda: width(lantern) == before + 48, "a wider story")
    lantern.driver.refresh()
    until(lambda: width(lantern) == before + 48, "as wide after a reload")
    lantern.one("[aria-label='Width of the story']").send_keys(Keys.HOME)
    until(lambda: width(lantern) == before, "the usual width")
    drawer = lantern.one("section[aria-label=Drawer]").rect["height"]
    lantern.one("[aria-label='Height of the drawer']").send_keys(Keys.ARROW_UP)
    until(lambda: lantern.one("section[aria-label=Drawer]").rect["height"] == drawer + 24, "higher")


def test_full_width_gives_way_to_what_one_is_sent_to(lantern, bench):
    lantern.press("Full width")
    story = lantern.driver.find_element(By.CSS_SELECTOR, "section[aria-label=Story]")
    until(lambda: not story.is_displayed(), "the stage alone")
    lantern.go(f"/tests/{bench}?sentence=3")
    until(lambda: lantern.nth("li[data-step]", 2).is_displayed(), "the story with the sentence")
    lantern.press("Full width")
    lantern.driver.find_element(By.CSS_SELECTOR, "[data-role=try]").click()
    lantern.one("section[aria-label=Story]")  # while a run has the stage
    until(lambda: not lantern.all("[data-role=cancel]"), "the end of the try", 60)
    lantern.press("Show the story")


def test_the_head_says_what_fits_and_the_menu_has_the_rest_with_its_keys(lantern, bench):
    head = lantern.one("[data-role=story-head]")
    assert "Prove it" in head.text
    lantern.choose(2)
    until(lambda: "Play to here" in head.text, "what fits one sentence")
    assert "Prove it" not in head.text
    lantern.one("[data-role=all-acts]").click()
    menu = lantern.one("[role=menu]")
    assert "New test from the part up to here" in menu.text
    keys = "[...document.querySelectorAll('[role=menu] [data-keys]')].map((e) => e.dataset.keys)"
    told = lantern.driver.execute_script(f"return {keys}")
    assert {"Ctrl D", "Del", "Alt ↑", "Alt →"} <= set(told)


def test_at_1024_pixels_nothing_is_gone(lantern, bench):
    lantern.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", NARROW)
    for words in ("Check the data", "Design variations", "More", "Run", "Try", "Record", "Still"):
        box = lantern.button(words).rect
        assert box["x"] + box["width"] <= NARROW["width"], words
