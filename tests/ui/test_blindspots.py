"""A blind spot is turned into a check, which then catches the fault."""

from bench.verdicts.proxy import Rule, put

from tests.ui.pages import until
from tests.ui.test_spotlight import played, proxy, quotes

__all__ = ["proxy"]


def test_a_blind_spot_becomes_a_check_that_catches_the_fault(lantern, proxy):
    lantern.sign_in()
    stack = lantern.stack
    test = quotes(stack, proxy, "Blind to headings")
    heading = Rule("(GET|POST) /quote", after=put(r"<h1[^>]*>[^<]*</h1>", "<h1>Raku only</h1>"))

    # Green although the page says something else: nothing looks at its heading.
    proxy.rules.append(heading)
    assert played(stack, test)[1] == "passed"
    proxy.rules.clear()
    assert played(stack, test)[1] == "passed"

    lantern.go(f"/tests/{test}")
    lantern.tool("Blind spots")
    lantern.sees("of what may change on its pages would be noticed")
    lantern.one("[data-role=shine] button.blind")
    lantern.press_one("[aria-label='Pages'] button", "Quote - Kiln Desk")
    lantern.press_one("[aria-label='Kinds of change'] button", "texts")

    def heading_spot():
        cards = lantern.all("[data-role=spot]")
        return next((one for one in cards if "Ask for a firing" in one.text), None)

    card = until(heading_spot, "the heading among the blind spots")
    card.find_element("css selector", "button").click()
    lantern.sees("Added to the test")
    until(lambda: heading_spot() is None, "the heading to be seen now")

    # Asked for the noticed ones, it says which sentence does.
    lantern.press_one("label", "with what is noticed")
    assert "Noticed by: Check that the text of" in until(heading_spot, "what is noticed").text

    proxy.rules.append(heading)
    key, state = played(stack, test)
    assert state == "failed"
    lantern.go(f"/runs/{key}")
    lantern.sees("Raku only")


def test_the_list_of_all_tests_shows_how_much_each_would_notice(lantern, proxy):
    lantern.sign_in()
    test = quotes(lantern.stack, proxy, "Listed with its share")
    played(lantern.stack, test)
    lantern.go("/tests")
    lantern.press("Blind spots")
    row = until(
        lambda: next(iter(lantern.all(f"[data-test='{test}']")), None), "the test in the list"
    )
    assert "%" in row.text
    lantern.press("Listed with its share")
    lantern.one("[data-role=spot]")
