"""What failed, whose fault it is, and what becomes of it: one defect for all, or a correction."""

from dataclasses import replace
from itertools import cycle, islice

from bench.verdicts.proxy import Rule, put
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from lantern.core.runs.life import RUN_OVER
from lantern.core.steps.model import Row
from lantern.demo.data import quote_test
from lantern.store import runs, tests
from lantern.store.models import Environment, Sighting
from tests.ui.pages import until

PRICES = ("€ 5.40", "€ 21.40", "€ 6.10")
WRONG = Rule("POST /quote", after=put(r"(€ \d+\.\d)\d", r"\g<1>9"))


def quotes(stack, proxy, name, count=3):
    """A test of so many quotes whose prices are right, played behind the proxy."""
    document = quote_test()
    three = list(zip(document.rows, PRICES, strict=False))
    rows = tuple(
        Row(f"r{n}", {**row.values, "price": price})
        for n, (row, price) in enumerate(islice(cycle(three), count))
    )
    with stack.database.session() as session:
        environment = Environment(name=f"{name}, behind a proxy", address=proxy.address)
        session.add(environment)
        session.flush()
        steps = tuple(
            replace(one, inputs={"text": "wheel-and-kiln"}) if one.id == "demo03" else one
            for one in document.steps
        )
        made = replace(
            document, steps=steps, rows=rows, settings=replace(document.settings, limit=3)
        )
        return tests.create(session, name, environment.id, None, made).id


def played(stack, test):
    """Carry a run of all rows out; returns its number and how it ended."""
    with stack.database.session() as session:
        key = runs.create(session, tests.get(session, test), "run", "all", None).id
    return key, ended(stack, key)


def ended(stack, key, limit=90):
    """Wait until a run is over; returns how it ended."""

    def state():
        with stack.database.session() as session:
            return runs.get(session, key).state

    until(lambda: state() in RUN_OVER, "the run's end", limit)
    return state()


def test_rows_that_fail_of_one_fault_are_judged_together_and_become_one_defect(lantern, proxy):
    stack = lantern.stack
    test = quotes(stack, proxy, "Three quotes")
    green, state = played(stack, test)
    assert state == "passed"
    proxy.rules.append(WRONG)
    bad, state = played(stack, test)
    assert state == "failed"

    lantern.sign_in()
    lantern.go(f"/runs/{bad}")
    until(lambda: "3 failures, one cause" in lantern.one("[data-role=causes]").text, "the causes")
    cause = lantern.one("[data-role=cause]")
    assert cause.get_attribute("data-kind") == "product"
    assert "3 failures" in cause.text
    assert "with the same values" in lantern.one("[data-role=strongest]").text

    # Why, with what it was held against.
    lantern.press("Why")
    assert len(lantern.all("[data-role=signs] li")) >= 2
    lantern.sees(f"Held against run {green}, when it passed")
    third = lantern.one("[aria-label='Failures of this cause']").find_elements(
        By.TAG_NAME, "button"
    )
    third[2].click()
    row = "[data-role=row][aria-current=true]"
    until(lambda: "row 3" in lantern.one(row).text, "the row of that failure")

    assert lantern.one("[data-role=verdict] summary").text.startswith("product")
    assert "Nothing: the test" in lantern.one("[data-role=changed]").text

    # In what it differs, and what the page looked like when it passed.
    assert lantern.one("[data-role=difference]").text == "€ 6.19 is € 0.09 more."
    assert lantern.one("[data-role=found] mark").text == "9"
    lantern.one("[data-role=besides]").click()
    lantern.sees(f"run {green}, when it passed")
    drawn = (
        "return [...document.querySelectorAll('figure img')].filter((i) => i.naturalWidth).length"
    )
    until(lambda: lantern.driver.execute_script(drawn) == 2, "both pictures")
    lantern.one("[data-role=besides]").send_keys(Keys.ARROW_UP)
    until(lambda: "Press Get a quote" in lantern.one("[aria-label=Detail]").text, "walked up")
    until(lambda: lantern.driver.execute_script(drawn) == 2, "both pictures of that sentence")
    lantern.one("[data-role=step][aria-current=true]").send_keys(Keys.ARROW_DOWN)

    # One defect for all of them.
    lantern.press("One defect for all")
    lantern.sees("Seen in 3 failures: they have one cause.")
    lantern.press("Raise the defect")
    until(lambda: "/defects/" in lantern.driver.current_url, "the defect")
    number = int(lantern.driver.current_url.rpartition("/")[2])
    with stack.database.session() as session:
        assert session.query(Sighting).filter_by(defect_id=number).count() == 3
    lantern.go(f"/runs/{bad}")
    lantern.sees(f"Defect {number}")


def test_a_person_says_otherwise_and_takes_it_back(lantern, proxy):
    stack = lantern.stack
    test = quotes(stack, proxy, "Quotes once more")
    assert played(stack, test)[1] == "passed"
    proxy.rules.append(WRONG)
    bad, _ = played(stack, test)
    lantern.sign_in()
    lantern.go(f"/runs/{bad}")
    kind = "[data-role=cause]"
    until(lambda: lantern.one(kind).get_attribute("data-kind") == "product", "its verdict")
    lantern.press("Why")
    lantern.press("It is something else")
    lantern.one("input[name=kind][value=environment]").click()
    lantern.fill("textarea[name=word]", "The till was of last year.")
    lantern.press("Keep")
    until(lambda: lantern.one(kind).get_attribute("data-kind") == "environment", "what was said")
    said = lantern.one("[data-role=said]").text
    assert "Odo Fennick says environment; Lantern had said product" in said
    assert "“The till was of last year.”" in said
    lantern.press("Take back")
    until(lambda: lantern.one(kind).get_attribute("data-kind") == "product", "taken back")
