"""Two runs are held against each other, to the first sentence at which they part."""

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.ui.pages import until
from tests.ui.test_spotlight import WRONG, played, quotes


def test_two_runs_are_compared_to_the_first_difference(lantern, proxy):
    lantern.sign_in()
    stack = lantern.stack
    test = quotes(stack, proxy, "Held against its last")
    green, state = played(stack, test)
    assert state == "passed"
    proxy.rules.append(WRONG)
    bad, state = played(stack, test)
    assert state == "failed"

    lantern.go(f"/runs/{bad}")
    lantern.press("Side by side")
    lantern.sees(f"run {green}")
    parting = lantern.one("[data-role=parting]").text
    assert "They part at sentence" in parting
    current = lantern.one("[data-role=pair][aria-current=true]")
    assert "≠" in current.text
    assert "Check that the text of" in current.text or "Press" in current.text
    lantern.one("[data-what=found], [data-what=texts]")

    # The pictures are lit where they differ; a part that may differ is drawn and counts no more.
    lantern.one("[data-role=lit-pair] [data-role=lit]", 30)
    lantern.press("Set a part aside")
    side = lantern.one("[data-role=lit-pair] [data-side='0']")
    lantern.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", side)
    half = side.size["width"] // 2 - 2, side.size["height"] // 2 - 2
    pen = ActionChains(lantern.driver)
    pen.move_to_element_with_offset(side, -half[0], -half[1]).click_and_hold()
    pen.move_to_element_with_offset(side, half[0], half[1]).release().perform()
    lantern.one("[data-role=mask]")
    until(lambda: not lantern.all("[data-role=lit-pair] [data-role=lit]"), "nothing lit any more")
    lantern.press_one("[data-role=mask] button")
    lantern.one("[data-role=lit-pair] [data-role=lit]")

    # Walked with the keys, and held against another play.
    ActionChains(lantern.driver).send_keys(Keys.ARROW_UP).perform()
    until(
        lambda: "≠" not in lantern.one("[data-role=pair][aria-current=true]").text,
        "the sentence before",
    )
    lantern.press_one("label", "only what differs")
    until(lambda: all(p.text[:1] != "=" for p in lantern.all("[data-role=pair]")), "only those")
