"""Long lists, and how long things are kept, through the pages."""

from datetime import UTC, datetime, timedelta

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from lantern.core.elements.clues import Clue, Element
from lantern.core.keeping import Rules
from lantern.store import elements, keeping, preferences, tests
from lantern.store.models import Account, Cast, Result, Run, Test
from lantern.store.models import Element as KeptElement
from tests.ui.pages import until


def some_runs(stack, count, test="Quotes by clay and cone", days=0, outcome="failed"):
    """Runs that ended some days ago; returns their ids, oldest first."""
    made = []
    with stack.database.session() as session:
        of = tests.named(session, test)
        for _ in range(count):
            at = datetime.now(UTC) - timedelta(days=days)
            run = Run(
                kind="run", state=outcome, test_id=of.id, test_name=test, test_version=1,
                environment_name="Kiln Desk", address="http://kiln.test",
                body={"steps": [{"id": "s"}]}, elements={}, ended_at=at, started_at=at,
                casts=[Cast(position=0, number=1, values={"clay": "Raku"}, outcome=outcome)],
            )  # fmt: skip
            session.add(run)
            session.flush()
            session.add(
                Result(
                    cast_id=run.casts[0].id,
                    position=0,
                    step_id="s",
                    sentence="Press Quote",
                    outcome=outcome,
                    used=1,
                    limit=5,
                    details={},
                    message="Not there.",
                )
            )
            made.append(run.id)
    return made


def test_a_long_list_is_read_on_and_sorted(lantern):
    some_runs(lantern.stack, 60)
    lantern.sign_in()
    lantern.go("/runs?state=failed")
    until(lambda: len(lantern.all("tbody tr")) == 50, "a page of them")
    lantern.press("Show more")
    until(lambda: len(lantern.all("tbody tr")) >= 60, "all of them")
    lantern.go("/tests")
    lantern.press("Name")
    until(lambda: lantern.one("th[aria-sort=ascending]").text == "Name", "sorted by name")

    cells = "document.querySelectorAll('tbody tr td:first-child')"

    def sorted_by_name():
        names = lantern.driver.execute_script(f"return [...{cells}].map((e) => e.innerText)")
        return names and names == sorted(names, key=str.lower)

    until(sorted_by_name, "the names in their order")
    Select(lantern.one("select")).select_by_visible_text("failed")
    until(lambda: "Quotes by clay and cone" in lantern.one("tbody").text, "those that failed")
    until(lambda: "never ran" not in lantern.one("tbody").text, "no others")


@pytest.fixture
def shelves(stack):
    """Sixty flows, shared tables, people, and pages with an element each; gone afterwards."""
    with stack.database.session() as session:
        for n in range(60):
            name = f"Shelf {n:02}"
            session.add(Account(username=name, name=name, role="viewer", password_hash=""))
            for kind in ("flow", "table"):
                tests.create(session, f"{name} {kind}", 1, None, kind=kind)
            clues = (Clue("name", "is", name),)
            elements.save(session, Element(name, name, "button", clues, page=f"{name} page"))
    yield
    with stack.database.session() as session:
        for kind in (Test, Account, KeptElement):
            session.query(kind).filter(kind.name.startswith("Shelf ")).delete()


def read_on(lantern, rows):
    """Read a list to its end, which what is on the last shelf is."""
    until(lambda: "Shelf 05" in lantern.one(rows).text, "the list")
    assert "Shelf 59" not in lantern.one(rows).text
    lantern.press("Show more")
    until(lambda: "Shelf 59" in lantern.one(rows).text, "the rest")


def pick(lantern, label, words):
    """Type a part of a name; Enter takes the first that has it."""
    field = lantern.fill(f"[role=combobox][aria-label='{label}']", words)
    until(
        lambda: [words in one.text for one in lantern.all("li[role=option]")] == [True],
        f"only “{words}” to choose",
    )
    field.send_keys(Keys.ENTER)


def test_what_tests_are_made_of_is_found_however_much_there_is(lantern, shelves):
    lantern.sign_in("wren")
    for path, rows in (
        ("/flows", "tbody"),
        ("/data", "tbody"),
        ("/pages", "nav[aria-label=Pages]"),
    ):
        lantern.go(path)
        read_on(lantern, rows)
    lantern.fill("[aria-label='Search pages and elements']", "shelf 57")
    until(
        lambda: "Shelf 05" not in lantern.one("nav[aria-label=Pages]").text, "what was looked for"
    )
    lantern.press_one("nav[aria-label=Pages] button", "Shelf 57 page")
    lantern.press_one("[data-element='Shelf 57']")
    # An element goes to a page, and one that is the same is found, by letters of their names.
    pick(lantern, "Page", "Shelf 58 page")
    lantern.sees("“Shelf 57” is changed")
    pick(lantern, "The same as", "Shelf 59")
    lantern.press("Merge")
    lantern.sees("“Shelf 57” was merged.")
    with lantern.stack.database.session() as session:
        assert session.get(KeptElement, "Shelf 57") is None

    # A link leads to a page that stands further down than what was read.
    lantern.go("/pages?page=Shelf%2056%20page")
    until(lambda: lantern.one("[data-element]").get_attribute("data-element") == "Shelf 56", "it")

    lantern.go("/settings")
    pick(lantern, "Flow before each row", "Shelf 58")
    lantern.sees("It holds for every test that does not say otherwise.")
    with lantern.stack.database.session() as session:
        flow = session.get(Test, int(preferences.get(session).before))
        assert flow.name == "Shelf 58 flow"
    before = "[aria-label='Flow before each row']"
    until(lambda: lantern.one(f"input{before}").get_property("value") == flow.name, "what holds")
    lantern.fill(f"input{before}", Keys.BACKSPACE).send_keys(Keys.TAB)
    until(lambda: lantern.one(f"input{before}").get_property("value") == "nothing", "nothing again")
    lantern.fill("[aria-label='Search people']", "shelf 59")
    until(lambda: "Shelf 05" not in lantern.one("[data-role=people]").text, "only that one")
    assert "Shelf 59" in lantern.one("[data-role=people]").text


def test_a_sentence_calls_a_flow_and_a_test_uses_a_table_that_stands_far_down(lantern, shelves):
    with lantern.stack.database.session() as session:
        test = tests.create(session, "Uses what is far down", 1, None).id
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.press("Sentence")
    lantern.sees("There are more: type a part of the name.")
    box = lantern.fill("[aria-label='Find an action or a flow']", "shelf 59")
    until(lambda: "Shelf 59 flow" in [b.text for b in lantern.all("button")], "the flow")
    box.send_keys(Keys.ENTER)
    until(lambda: lantern.sentences() == ["Do Shelf 59 flow"], "its call")
    lantern.press("Tables in and out")
    lantern.press("Use the rows of another table…")
    pick(lantern, "Table", "Shelf 59 table")
    lantern.press("Use its rows")
    lantern.sees("The rows come from “Shelf 59 table” now.")
    with lantern.stack.database.session() as session:
        session.delete(session.get(Test, test))


def test_a_table_is_deleted_only_when_that_is_meant(lantern):
    with lantern.stack.database.session() as session:
        tests.create(session, "Glazes of old", 1, None, kind="table")
    lantern.sign_in()
    lantern.go("/data")
    lantern.press("Delete Glazes of old")
    lantern.sees("Its 0 rows go for good.")
    lantern.press("Keep it")
    lantern.press("Delete Glazes of old")
    lantern.press("Delete the table")
    lantern.sees("The table “Glazes of old” was deleted.")
    until(lambda: "Glazes of old" not in lantern.one("main").text, "it gone")


def test_a_lead_sets_what_is_kept_and_a_station_frees_the_rest(lantern):
    stack = lantern.stack
    with stack.database.session() as session:
        name = tests.create(session, "Fired long ago", 1, None).name
    old = some_runs(stack, 3, name, days=900)
    lantern.sign_in("wren")
    lantern.go(f"/runs/{old[0]}")
    lantern.press("Keep for good")
    lantern.sees("Kept for good")
    lantern.go("/settings")
    failed = "[data-kind=failed] [data-role=frees]"
    assert lantern.one(failed).text == "none"
    lantern.press("Fill in what is usual")
    lantern.fill("[aria-label='Newest runs of each test that stay']", "1")
    until(lambda: lantern.one(failed).text == "1", "what would be freed")
    lantern.press("Keep these rules")
    lantern.sees("The rules hold from now on.")
    lantern.press("Free it now")
    until(lambda: "1 runs" in lantern.one("[data-role=tidied]").text, "what was freed", 40)
    with stack.database.session() as session:
        left = [key for key in old if session.get(Run, key)]
        assert left == [old[0], old[2]]
        keeping.put_rules(session, Rules())
