"""After a release the pages are taken in again: one visit tells what would not be found."""

import re

from lantern.demo.team.tests import come_in
from lantern.store import runs, tests
from tests.ui.pages import until
from tests.ui.test_spotlight import ended


def test_one_visit_tells_what_a_release_would_break(lantern):
    stack = lantern.stack
    with stack.database.session() as session:
        test = tests.named(session, "Book a firing")
        tests.create(session, "Come in", test.environment_id, None, come_in(), kind="flow")
        key = runs.create(session, test, "run", "all", None).id
    assert ended(stack, key) == "passed"

    lantern.sign_in()
    lantern.go("/pages")
    lantern.press("Take in again…")
    lantern.press_one("[role=dialog] button.button-main", "Visit")
    until(lambda: "/visits/" in lantern.driver.current_url, "the visit")
    lantern.sees("would not be found any more", 60)
    until(lambda: not lantern.all("[data-role=visit-state]"), "its end", 90)
    told = lantern.one("[data-role=visit-sum]").text
    came, known = re.match(r"(\d+) of (\d+) pages? came", told).groups()
    assert came == known != "0", "it got in"
    lost = [row.text for row in lantern.all("[data-visited] tbody tr")]
    demo = ("Member name", "Piece name", "Get a quote")  # what other stories made may be gone
    assert not [one for one in lost if one.startswith(demo)]

    stack.reset_desk("summer")  # the same desk, its pages built anew
    lantern.go("/pages")
    lantern.press("Take in again…")
    lantern.press_one("[role=dialog] button.button-main", "Visit")
    until(lambda: not lantern.all("[data-role=visit-state]"), "its end", 90)
    quote = lantern.one("[data-visited='Quote - Kiln Desk']")
    until(lambda: "is called “New quote - Kiln Desk” now" in quote.text, "its new title")
    assert "Texts that are new" in quote.text
    assert "Plan a firing" in quote.text
