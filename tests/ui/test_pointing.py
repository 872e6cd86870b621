"""Pointing takes in more or less around a thing; lists of the stage are used by keys."""

import os

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.ui.desk_map import DeskMap
from tests.ui.pages import until


def keep(lantern, name):
    """Keep a picture where whoever looks at the views asks for it."""
    folder = os.environ.get("LANTERN_LOOK")
    if folder:
        lantern.driver.save_screenshot(f"{folder}/{name}.png")


def light(lantern):
    return [tag.text for tag in lantern.all("[data-role=picture] .light .tag")]


def room(lantern):
    return [one.get_attribute("style") for one in lantern.all("[data-role=picture] .light")]


def press_keys(lantern, *keys):
    ActionChains(lantern.driver).send_keys(*keys).perform()


def test_a_whole_table_is_reached_from_one_of_its_cells(lantern):
    lantern.sign_in()
    desk = DeskMap(lantern)
    lantern.new_test("Pointing at more")
    lantern.record()
    lantern.sign_in_on_stage(desk)
    lantern.open_on_stage("/board")
    lantern.press("Check")
    x, y = desk["[data-opens=menu-2]"]
    lantern.at(x - 300, y).perform()
    until(lambda: light(lantern), "the light")
    keep(lantern, "pointing")
    for _ in range(6):
        if any("table" in words for words in light(lantern)):
            break
        before = room(lantern)
        press_keys(lantern, Keys.ARROW_UP)
        until(lambda before=before: room(lantern) != before, "more of the page lit")
    keep(lantern, "widened")
    assert any("table" in words for words in light(lantern)), light(lantern)
    lantern.click_stage(x - 300, y)
    panel = lantern.one("[data-role=check-panel]")
    assert "table" in panel.text
    ticked = [box for box in lantern.all("[data-role=check-panel] input[type=checkbox]")
              if box.is_selected()]  # fmt: skip
    assert len(ticked) == 1
    until(
        lambda: [one.text for one in lantern.all("[data-role=tried]")] == ["holds now"],
        "the check tried at once",
    )
    lantern.fill("[aria-label='Expected number of rows']", "99")
    until(
        lambda: any(one.text.startswith("now it is") for one in lantern.all("[data-role=tried]")),
        "what would be found instead",
    )
    lantern.fill("[aria-label='Expected number of rows']", "1")
    keep(lantern, "check-table")
    lantern.press("Add the check")
    until(lambda: "number of rows" in lantern.sentences()[-1], "the check of the rows")


def test_escape_ends_pointing_wherever_the_focus_is(lantern):
    lantern.sign_in()
    desk = DeskMap(lantern)
    lantern.new_test("Pointing ends")
    lantern.record()
    lantern.sign_in_on_stage(desk)
    lantern.press("Check")
    lantern.sees("Escape ends it.")
    lantern.driver.execute_script("document.activeElement.blur()")
    press_keys(lantern, Keys.ESCAPE)
    until(lambda: "Escape ends it." not in lantern.driver.page_source, "pointing over")


def test_a_list_of_the_stage_is_used_by_keys_and_closed_by_a_press_elsewhere(lantern):
    lantern.sign_in()
    desk = DeskMap(lantern)
    lantern.new_test("Lists by keys")
    lantern.record()
    lantern.sign_in_on_stage(desk)
    lantern.click_stage(*desk["clay"])
    lantern.one("[data-role=picture] [role=listbox]")

    def chosen():
        return [one.text for one in lantern.all("[role=listbox] [aria-selected=true]")]

    press_keys(lantern, "p")
    until(lambda: chosen() == ["Porcelain"], chosen)
    press_keys(lantern, Keys.ARROW_DOWN)
    until(lambda: chosen() != ["Porcelain"], "the next")
    press_keys(lantern, Keys.ARROW_UP)
    until(lambda: chosen() == ["Porcelain"], "and back")
    keep(lantern, "list")
    press_keys(lantern, Keys.ENTER)
    until(lambda: lantern.sentences()[-1] == "Choose Porcelain in Clay", lantern.sentences)

    lantern.click_stage(*desk["clay"])
    lantern.one("[data-role=picture] [role=listbox]")
    press_keys(lantern, Keys.ESCAPE)
    until(lambda: not lantern.all("[data-role=picture] [role=listbox]"), "the list closed")
    lantern.click_stage(*desk["clay"])
    lantern.one("[data-role=picture] [role=listbox]")
    lantern.click_stage(*desk["ask"])  # closes the list, and is not lost in it
    until(lambda: lantern.sentences()[-1] == "Press Get a quote", lantern.sentences)
    assert not lantern.all("[data-role=picture] [role=listbox]")
