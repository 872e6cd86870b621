"""The library of pages: taking elements in, merging equal ones, writing from a saved page."""

from selenium.webdriver.support.ui import Select

from lantern.core.elements.clues import Clue, Element
from lantern.store import elements
from tests.ui.pages import until
from tests.ui.test_elements import on_the_board
from tests.ui.test_pointing import keep

BOARD = "Firing board - Kiln Desk"


def still_of_the_board(lantern, name):
    """A saved page of the firing board, opened in the library."""
    on_the_board(lantern, name)
    lantern.press("Still")
    lantern.one("[data-role=still] [role=option]")
    lantern.go(f"/pages?page={BOARD}")


def pick(lantern, opens, words, most, kind):
    """Open a list of what is on the page, search it, and pick the first thing of a kind."""
    nodes = "[data-role=still] [data-node]"
    lantern.press(opens)
    lantern.one(nodes)
    lantern.fill("[aria-label='Search this page']", words)
    until(lambda: 0 < len(lantern.all(nodes)) < most, "what is like it")
    next(e for e in lantern.all(nodes) if e.text.endswith(kind)).click()


def test_pages_show_their_elements_and_take_in_more(lantern):
    lantern.sign_in()
    still_of_the_board(lantern, "For the pages")
    pick(lantern, "Take in from this page", "Find", 6, "text box")
    until(lambda: "unique" in lantern.one("[data-role=taking]").text, "how it is recognised")
    lantern.fill("[data-role=taking] input", "Find a firing")
    lantern.press("Take in 1")
    lantern.sees("1 element is taken in.")
    lantern.sees("Find a firing")
    found = next(e for e in lantern.all("[data-element]") if "Find a firing" in e.text)
    assert "not used" in found.text
    found.click()
    lantern.one("[data-role=element-editor]")
    lantern.press("Delete")
    until(
        lambda: all("Find a firing" not in e.text for e in lantern.all("[data-element]")), "it gone"
    )


def test_equal_elements_are_merged_from_one_list_and_the_stronger_clues_kept(lantern):
    lantern.sign_in()
    with lantern.stack.database.session() as session:
        for key, clue in (
            ("equal-a", Clue("field name", "is", "find")),
            ("equal-b", Clue("name", "is", "Find", loose=True)),
        ):
            elements.save(session, Element(key, f"Field {key}", "text box", (clue,), page=BOARD))
    still_of_the_board(lantern, "Two of one")
    lantern.one("[data-role=equal]")
    lantern.press("See them")
    lantern.sees("and nothing else, on Firing board - Kiln Desk")
    keep(lantern, "equal")
    row = next(e for e in lantern.all("[data-role=equal] li > p") if "equal-a" in e.text)
    row.find_element("xpath", ".//button[contains(., 'Merge into this')]").click()
    lantern.sees("The clues of “Field equal-")
    until(
        lambda: all("equal-b" not in e.text for e in lantern.all("[data-role=equal]")),
        "the list without what was merged",
    )
    with lantern.stack.database.session() as session:
        assert set(elements.load(session, ["equal-a", "equal-b"])) == {"equal-a"}


def test_a_new_test_is_written_from_a_saved_page(lantern):
    lantern.sign_in()
    still_of_the_board(lantern, "Source of a page")
    pick(lantern, "Write a test from it", "Moon jar", 15, "table")
    Select(lantern.one("[aria-label='What to do']")).select_by_visible_text("Check")
    lantern.press("Add the sentence")
    lantern.sees("needs a name")
    lantern.fill("[aria-label='Name of the new test']", "Written from a page")
    keep(lantern, "write-from")
    lantern.press("Add the sentence")
    lantern.sees("1 sentence added to “Written from a page”.")
    lantern.press_one("a", "Open “Written from a page”")
    until(lambda: len(lantern.sentences()) == 1, "its sentence")
    assert "Firings" in lantern.sentences()[0]
