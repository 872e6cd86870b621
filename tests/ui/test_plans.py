"""Plans, through the pages: made, looked at ahead, run in a matrix, played again; the queue."""

from dataclasses import replace

from selenium.webdriver.common.keys import Keys

from lantern.core.plans.model import Pick, Plan
from lantern.core.steps.model import Step
from lantern.demo.data import booking_test
from lantern.store import plans, tests
from lantern.store.models import Environment
from tests.ui.pages import until
from tests.ui.rehearsals import QUOTE, SIGN_IN, make, step


def open_quote(*more):
    return (*SIGN_IN, step("q", "type", "piece", text="${row.piece}"), *more)


def a_plan_of(lantern, name, label):
    """Make a plan of all tests with a label, in two browsers, by the pages."""
    lantern.go("/plans")
    lantern.press("New plan")
    lantern.fill("[name=name]", name)
    lantern.press("Make it")
    lantern.one("[data-role=outlook]")
    lantern.select("[aria-label='Pick by']", "a label")
    lantern.select("[aria-label='Label to add']", f"{label} (2)")
    lantern.press("Add")
    for browser in ("chromium", "firefox"):
        lantern.one(f"[data-role=cells] [data-browser={browser}] input").click()
        until(
            lambda one=browser: lantern.one(
                f"[data-role=cells] [data-browser={one}] input"
            ).is_selected(),
            f"{browser} is ticked",
        )


def label(lantern, test, words):
    lantern.go(f"/tests/{test}")
    lantern.one("[data-role=labels]").click()
    lantern.fill("[aria-label='A label']", words).send_keys(Keys.ENTER)
    until(lambda: words in lantern.one("[data-role=own-labels]").text, "the label is on it")


def cell(lantern, test, browser):
    return lantern.one(f"[data-role=matrix] [data-test='{test}'] [data-browser={browser}]").text


def states(lantern):
    return lantern.one("[data-role=plan-state]").text


def test_a_plan_by_label_fills_its_matrix_and_what_failed_is_played_again(lantern):
    stack = lantern.stack
    rows = [{"piece": "Moon jar", "shown": "Moon jar"}, {"piece": "Bowl", "shown": "Vase"}]
    check = step("c", "check", "piece", property="value", comparison="is", expected="${row.shown}")
    good = make(stack, "Pieces are typed", *open_quote(), rows=rows[:1])
    bad = make(stack, "Pieces are shown", *open_quote(check), rows=rows, limit=6)
    lantern.sign_in()
    for test in (good, bad):
        label(lantern, test, "typing")
    lantern.go("/tests")
    lantern.press_one("main button.chip, button.chip", "typing")
    until(lambda: len(lantern.all(".list-table tbody tr")) == 2, "the tests with the label")

    a_plan_of(lantern, "Typing everywhere", "typing")
    until(lambda: "6 casts" in lantern.one("[data-role=outlook]").text, "what it comes to")
    # A cell is taken out of the matrix, and the outlook follows.
    lantern.one("[aria-label='Play Pieces are typed in Firefox']").click()
    until(lambda: "5 casts" in lantern.one("[data-role=outlook]").text, "one less")
    lantern.one("[data-role=start]").click()
    until(lambda: states(lantern) == "failed", "its verdict", 120)
    assert "5 of 5 over: 3 passed, 2 failed" in lantern.one("[data-role=progress]").text
    assert cell(lantern, "Pieces are typed", "firefox") == "–"
    assert "1 of 2" in cell(lantern, "Pieces are shown", "firefox")

    # A cell is opened: its rows, each leading to what came of it.
    lantern.one("[data-test='Pieces are shown'] [data-browser=firefox] button").click()
    panel = "[data-role=cell] [data-cast='2']"
    until(lambda: "failed" in lantern.one(panel).text, "its rows")
    assert "Check that the value of Piece name" in lantern.one(panel).text

    lantern.one("[data-role=again]").click()
    until(lambda: "0 of 2" in lantern.driver.page_source or states(lantern) != "", "the new run")
    until(
        lambda: states(lantern) == "failed" and "2 of 2 over" in lantern.driver.page_source, "", 90
    )
    lantern.sees("what failed in run")

    # In the list it stands with its newest run, and the runs know that they are part of it.
    lantern.go("/plans")
    lantern.sees("label “typing”")
    lantern.go("/runs")
    lantern.press_one("a.chip", "plan")
    lantern.one("[data-role=matrix]")


def test_what_passes_at_the_second_try_is_shown_as_unsteady_with_both_results(lantern):
    stack = lantern.stack
    booking = booking_test()
    last = booking.steps[-1]
    # Each booking adds a firing to the four there are: only after the second there are six.
    last = replace(last, inputs={**last.inputs, "expected": "6"}, limit=1)
    with stack.database.session() as session:
        environment = session.query(Environment).filter_by(name="Kiln Desk").one().id
        document = replace(booking, steps=(*booking.steps[:-1], last))
        test = tests.create(session, "Booked twice", environment, None, document)
        plan = Plan((Pick(test=test.id),), retries=1)
        made = plans.create(session, "Twice if need be", plan, None).id
    lantern.sign_in()
    lantern.go(f"/plans/{made}")
    lantern.one("[data-role=start]").click()
    until(lambda: states(lantern) == "unsteady", "its verdict", 60)
    lantern.one("[data-test='Booked twice'] button").click()
    until(lambda: "unsteady" in lantern.one("[data-role=cell]").text, "the cell")
    assert "It failed once before it passed." in lantern.one("[data-role=cell]").text
    lantern.one("[data-role=cell] a").click()
    until(lambda: lantern.one("[data-role=run-state]").text == "unsteady", "the run")
    lantern.one("[aria-label='Which time it was played']")
    lantern.select("[aria-label='Which time it was played']", "the 1st time")
    lantern.sees("was “5” for")
    lantern.select("[aria-label='Which time it was played']", "the last time")


def test_a_change_of_somebody_else_is_not_written_over_and_versions_come_back(lantern, other):
    lantern.sign_in()
    lantern.go("/plans")
    lantern.press("New plan")
    lantern.fill("[name=name]", "Shared plan")
    lantern.press("Make it")
    lantern.one("[data-role=how]")
    address = lantern.driver.current_url.partition("/plans/")[2]
    other.go(f"/plans/{address}")
    other.select("[aria-label='When a row fails']", "everything stops")
    until(
        lambda: (
            lantern.one("[aria-label='When a row fails']").get_property("value")
            == "stop everything"
        ),
        "what the other changed",
    )
    lantern.fill("[aria-label='How often failed rows are played again']", "2").send_keys(Keys.TAB)
    lantern.press("Versions (3)")
    lantern.sees("retries changed")
    lantern.press_one("tr button", "Bring back")
    lantern.sees("is the newest now")
    until(
        lambda: (
            lantern.one("[aria-label='How often failed rows are played again']").get_property(
                "value"
            )
            == "0"
        ),
        "the version before",
    )


def test_what_waits_is_shown_in_its_order_and_a_lead_moves_it(lantern, other):
    stack = lantern.stack
    pause = Step("p", "pause", inputs={"seconds": "60"}, page=QUOTE)
    rows = [{"piece": f"Piece {n}"} for n in range(6)]
    slow = make(stack, "Slow pieces", *SIGN_IN, pause, rows=rows)
    lantern.sign_in()
    label(lantern, slow, "slow")
    lantern.go("/plans")
    lantern.press("New plan")
    lantern.fill("[name=name]", "Slow ones")
    lantern.press("Make it")
    lantern.select("[aria-label='Pick by']", "a label")
    lantern.select("[aria-label='Label to add']", "slow (1)")
    lantern.press("Add")
    until(lambda: "6 casts" in lantern.one("[data-role=outlook]").text, "what it comes to")
    lantern.one("[data-role=start]").click()
    until(lambda: "Slow pieces" in lantern.one("[data-role=stations]").text, "a station plays", 40)
    other.go("/stations")
    until(lambda: "plan “Slow ones”" in other.one("[data-role=queue]").text, "what waits")
    other.press_one("[aria-label^='Before all others']")
    until(lambda: "before all others" in other.one("[data-role=queue]").text, "moved")
    lantern.one("[data-role=cancel-all]").click()
    until(lambda: states(lantern) == "cancelled", "all of it stops", 40)
