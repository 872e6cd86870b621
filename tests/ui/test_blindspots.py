"""A blind spot is turned into a check, which then catches the fault."""

from dataclasses import replace

import pytest
from bench.verdicts.proxy import Rule, put

from lantern.store import documents, pages
from lantern.store.rows import unpacked
from tests.ui.pages import until
from tests.ui.test_spotlight import played, quotes


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
        return next((one for one in cards if "“Ask for a firing” says" in one.text), None)

    card = until(heading_spot, "the heading among the blind spots")
    assert "Check that Ask for a firing is shown" in card.text, "it is known by what it says"
    card.find_element("css selector", "button").click()
    lantern.sees("Added to the test")
    until(lambda: heading_spot() is None, "the heading to be seen now")

    # Asked for the noticed ones, it says which sentence does.
    lantern.press_one("label", "with what is noticed")
    assert "Noticed by: Check that" in until(heading_spot, "what is noticed").text

    proxy.rules.append(heading)
    key, state = played(stack, test)
    assert state == "failed"
    lantern.go(f"/runs/{key}")
    lantern.sees("Check that Ask for a firing is shown")


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


@pytest.mark.parametrize("pictures", ["each step", "failures", "none"])
def test_the_page_on_which_a_row_ends_is_kept_where_pictures_are(lantern, proxy, pictures):
    stack = lantern.stack
    test = quotes(stack, proxy, f"Ends with a press, pictures: {pictures}")
    with stack.database.session() as session:
        row = documents.get(session, test, lock=True)
        document = unpacked(row)
        settings = replace(document.settings, pictures=pictures, inherits=())
        shorter = replace(document, steps=document.steps[:-1], settings=settings)
        documents.put(session, row, shorter, "changed", None)
    key, state = played(stack, test)
    assert state == "passed"
    with stack.database.session() as session:
        kept = pages.of_run(session, key)
        ends = [page for page in kept if not page.step_id]
        if pictures == "each step":
            assert len(ends) == 2, "of the first two rows"
            assert all("€" in str(page.nodes) and page.picture for page in ends)
        else:
            assert not kept
