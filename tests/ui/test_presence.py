"""Who else is here, and where."""

from tests.ui.pages import until
from tests.ui.test_conflicts import have_open
from tests.ui.test_data import a_quote_that_pauses


def told(person):
    """Who else is here, as the page says it."""
    return [one.get_attribute("aria-label") for one in person.all("[data-role=others] button")]


def test_who_else_is_here_is_shown_where_and_until_they_leave(lantern, other, quote):
    until(lambda: told(lantern) == ["Wren Halloway"], "the other", 3)
    until(lambda: told(other) == ["Odo Fennick"], "one's own page, there", 3)
    other.choose(3)
    until(lambda: told(lantern) == ["Wren Halloway, at sentence 3"], "where", 2)
    third = lantern.nth("li[data-step]", 2)
    assert (
        third.find_element("css selector", "[data-role=other-here]").text == "Wren Halloway is here"
    )
    other.record()
    until(lambda: told(lantern) == ["Wren Halloway, recording, at sentence 3"], "doing what", 2)
    other.go("/tests")
    until(lambda: told(lantern) == [], "gone at once", 3)
    have_open(quote, other)
    until(lambda: told(other) == ["Odo Fennick"], "who was there before", 2)
    until(lambda: len(told(lantern)) == 1, "there again", 3)


def test_ones_own_other_window_is_told_as_such(lantern):
    test = a_quote_that_pauses(lantern.stack, "In two windows")
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    first = lantern.driver.current_window_handle
    lantern.driver.switch_to.new_window("tab")
    lantern.go(f"/tests/{test}")
    until(lambda: told(lantern) == ["You, in another window"], "the other window", 3)
    lantern.driver.close()
    lantern.driver.switch_to.window(first)
    until(lambda: told(lantern) == [], "closed", 5)
