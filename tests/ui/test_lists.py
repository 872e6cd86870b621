"""Long lists, and how long things are kept, through the pages."""

from datetime import UTC, datetime, timedelta

from selenium.webdriver.support.ui import Select

from lantern.core.keeping import Rules
from lantern.store import keeping, tests
from lantern.store.models import Cast, Result, Run
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
