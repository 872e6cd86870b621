"""From fourteen rows that failed to one defect, at another tracker, closed there, retested here."""

import pytest
from sqlalchemy import delete

from lantern.core.plans.model import Pick, Plan
from lantern.demo.slate.app import TOKEN
from lantern.store import plan_runs, plans
from lantern.store.models import Run, Tracker
from tests.slate import slate
from tests.ui.pages import until
from tests.ui.test_spotlight import WRONG, ended, quotes

SECRET = "told by the slate"
ROWS = 14


@pytest.fixture
def there(lantern):
    """The tracker that ships with the demo: its items and its address; it tells what changes."""
    with slate(f"{lantern.stack.address}/api/trackers/told", SECRET) as served:
        yield served
    with lantern.stack.database.session() as session:
        session.execute(delete(Tracker))


def carried_out(stack, plan):
    """Carry a plan out; returns the number of its run and how its one test ended."""
    with stack.database.session() as session:
        run = plan_runs.start(session, plan, None).id
        key = session.query(Run.id).filter_by(plan_run_id=run).scalar()
    return run, ended(stack, key, 180)


def test_fourteen_rows_are_one_defect_that_is_closed_elsewhere_and_retested_here(
    lantern, proxy, there
):
    stack, (items, address) = lantern.stack, there
    test = quotes(stack, proxy, "Fourteen quotes", ROWS)
    with stack.database.session() as session:
        plan = plans.create(session, "All prices", Plan((Pick("test", test=test),)), None).id
    assert carried_out(stack, plan)[1] == "passed"
    proxy.rules.append(WRONG)
    bad, state = carried_out(stack, plan)
    assert state == "failed"

    # A lead says where defects are handed over to.
    lantern.sign_in("wren")
    lantern.go("/settings")
    lantern.press("Add a tracker")
    lantern.fill("input[name=tracker-name]", "The slate")
    lantern.fill("input[name=tracker-address]", f"{address}/api/items")
    lantern.fill("input[name=tracker-token]", f"Bearer {TOKEN}")
    lantern.fill("input[name=tracker-inbox]", SECRET)
    lantern.one("[data-role=field-map] summary").click()
    lantern.fill("input[name=path-requirements]", "covers")
    lantern.press_one("[data-role=trackers] form button.button-main")
    until(lambda: lantern.all("[data-tracker='The slate']"), "the tracker")
    lantern.press_one("[data-tracker='The slate'] button", "Try it")
    lantern.sees("The slate answers, and lets Lantern in.")

    # What failed is one cause, and one defect.
    lantern.go(f"/plan-runs/{bad}")
    until(lambda: f"{ROWS} failures, one cause" in lantern.one("[data-role=causes]").text, "causes")
    assert lantern.one("[data-role=cause]").get_attribute("data-kind") == "product"
    lantern.press("One defect for all")
    lantern.sees(f"Seen in {ROWS} failures: they have one cause.")
    lantern.press("Raise the defect")
    until(lambda: "/defects/" in lantern.driver.current_url, "the defect")
    defect = lantern.driver.current_url
    until(lambda: len(lantern.all("[data-role=sighting]")) == ROWS, "all rows as its sightings")

    # It goes over, and is taken there.
    lantern.press("Hand over to The slate")
    until(lambda: "SLATE-1" in lantern.one("[data-role=handed]").text, "its number there")
    [item] = items.all()
    title = lantern.one("textarea[aria-label=Title], input[aria-label=Title]").get_attribute(
        "value"
    )
    assert item.title == title
    assert "€" in item.values["text"]

    # There it is closed, with a word.
    lantern.driver.get(f"{address}/items/{item.id}")
    lantern.select("select[name=state]", "closed")
    lantern.fill("input[name=fixed_in]", "summer")
    lantern.press("Save")
    answered = "return document.querySelector('select[name=state] option[selected]')?.text"
    until(lambda: lantern.driver.execute_script(answered) == "closed", "closed there")
    proxy.rules.clear()  # the fault is mended

    # Here it is closed as well, by whom its history tells; and a retest passes.
    lantern.driver.get(defect)
    until(lambda: lantern.driver.current_url == defect, "the defect again")
    closed = "return document.querySelector('select[name=state]')?.value"
    until(lambda: lantern.driver.execute_script(closed) == "closed", "closed here as well")
    assert "state: open → closed, The slate" in lantern.one("[data-role=history]").text
    lantern.press("Retest")
    until(lambda: "/runs/" in lantern.driver.current_url, "its run")
    key = int(lantern.driver.current_url.rpartition("/")[2])
    assert ended(stack, key, 180) == "passed"
    lantern.go("/defects")
    lantern.sees("SLATE-1")
