"""People talk about runs and defects; a defect is worked on until it is closed."""

from selenium.webdriver.common.by import By
from selenium.webdriver.support.select import Select

from tests.past import past
from tests.ui.pages import until
from tests.ui.test_trends import made


def test_a_run_is_talked_about_and_who_is_mentioned_finds_the_way_there(lantern):
    lantern.sign_in()
    run = past(lantern.stack.database, made(lantern.stack, "Talked about"), "pf")[-1]
    lantern.go(f"/runs/{run}")
    lantern.one("[data-role=remarks] summary").click()
    lantern.fill("[aria-label='Comment on this run']", "@wren the price is wrong again")
    lantern.press("I looked at it")
    lantern.sees("looked at by Odo Fennick")
    sentence = "[aria-label='Comment on this sentence']"
    lantern.fill(sentence, "@wren here")
    lantern.press_one("[aria-label='Comments on this sentence'] button", "Comment")
    until(lambda: len(lantern.all("[data-role=remark]")) == 3, "the comment on the run as well")

    lantern.sign_in("wren")
    lantern.go("/")
    bell = lantern.one("[data-role=bell]")
    until(lambda: "2 new" in bell.get_attribute("title"), "two notices")
    bell.click()
    lantern.press_one("[data-role=notice]", "here")
    until(lambda: f"/runs/{run}?row=" in lantern.driver.current_url, "the sentence")
    until(
        lambda: "2 new" not in lantern.one("[data-role=bell]").get_attribute("title"),
        "seen",
    )
    assert not [b for b in lantern.all("[data-role=remark] button") if b.text == "Take back"]


def test_a_defect_goes_from_open_over_a_retest_to_closed(lantern):
    lantern.sign_in()
    stack = lantern.stack
    test = made(stack, "Worked on")
    run = past(stack.database, test, "pf")[-1]
    lantern.go(f"/runs/{run}")
    lantern.press("Raise a defect")
    until(lambda: lantern.one("[name=title]").get_property("value"), "the draft")
    lantern.press("Raise the defect")
    until(lambda: "/defects/" in lantern.driver.current_url, "the defect")
    number = lantern.driver.current_url.rsplit("/", 1)[1]
    Select(lantern.one("select[name=priority]")).select_by_visible_text("urgent")
    until(lambda: "normal → urgent" in lantern.one("[data-role=history]").text, "the history")
    past(stack.database, test, "p", release="summer")
    lantern.go(f"/defects/{number}")
    asks = lantern.one("[data-role=passed]")
    assert "on release summer" in asks.text
    lantern.press("Close it")
    until(lambda: not lantern.all("[data-role=passed]"), "nothing asked any more")
    assert "open → closed" in lantern.one("[data-role=history]").text

    # On the board it stands under its state, and is moved there.
    lantern.go("/defects")
    lantern.press("As a board")
    card = f"[data-role=board] [aria-label=closed] [data-defect='{number}']"
    select = lantern.one(card).find_element(By.CSS_SELECTOR, "select")
    Select(select).select_by_visible_text("in work")
    lantern.one(f"[data-role=board] [aria-label='in work'] [data-defect='{number}']")
    lantern.press("As a list")
