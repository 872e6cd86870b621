"""Every main view by day and by night, as axe-core sees it: nothing that keeps anybody out."""

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from lantern.host.setup import FRONTEND
from lantern.store import audit, tests
from tests.past import past
from tests.ui.pages import until
from tests.ui.test_lists import some_runs
from tests.ui.test_spotlight import played, quotes

AXE = (FRONTEND / "node_modules/axe-core/axe.min.js").read_text()
LOOK = """
const done = arguments[0]
axe.run(document, { resultTypes: ['violations'] }).then(({ violations }) =>
  done(violations.map((one) =>
    `${one.impact}: ${one.id}: ${one.nodes.slice(0, 3).map((node) => node.html).join(' | ')}`)))
"""
VIEWS = (
    "/", "/tests", "/runs", "/defects", "/flows", "/data", "/pages", "/stations", "/settings",
    "/trends", "/requirements", "/blind-spots",
)  # fmt: skip
DRAWERS = (
    "Rows",
    "Constants",
    "Files",
    "Last run",
    "Limits",
    "Shape",
    "Comments",
    "Text",
    "Versions",
)


@pytest.fixture(params=["day", "night"])
def theme(request, lantern):
    lantern.sign_in("wren")
    chosen = "localStorage.setItem('lantern-theme', arguments[0])"
    lantern.driver.execute_script(chosen, request.param)
    return request.param


def violations(lantern):
    """What axe-core finds on the page, once nothing moves any more."""
    lantern.driver.execute_script(AXE)
    until(
        lambda: lantern.driver.execute_script(
            "return document.getAnimations().every((one) => one.playState !== 'running')"
        ),
        "a page that stands still",
    )
    return lantern.driver.execute_async_script(LOOK)


def test_lists_and_settings_keep_nobody_out(lantern, theme):
    some_runs(lantern.stack, 40)
    with lantern.stack.database.session() as session:
        for n in range(40):  # so many that their list scrolls
            audit.note(session, "signed in", f"Potter {n}", "", "127.0.0.1")
    found = {}
    for view in VIEWS:
        lantern.go(view)
        lantern.one("h1")
        found[view] = violations(lantern)
    assert not any(found.values()), f"by {theme}: {found}"


def test_the_workbench_keeps_nobody_out(lantern, theme):
    test = id_of(lantern, "Quotes by clay and cone")
    lantern.go(f"/tests/{test}")
    until(lambda: len(lantern.sentences()) > 5, "the story")
    lantern.choose(4)
    found = {}
    for drawer in DRAWERS:
        lantern.press_one("[role=tab]", drawer)
        found[drawer] = violations(lantern)
    lantern.one("[data-role=all-acts]").click()
    lantern.one("[role=menu]")
    found["the menu"] = violations(lantern)
    assert not any(found.values()), f"by {theme}: {found}"


def test_a_run_keeps_nobody_out(lantern, theme):
    run = some_runs(lantern.stack, 1)[0]
    lantern.go(f"/runs/{run}")
    lantern.one("[data-role=row]")
    assert not (found := violations(lantern)), f"the run by {theme}: {found}"


def test_what_is_judged_keeps_nobody_out(lantern, proxy, theme):
    test = quotes(lantern.stack, proxy, f"Judged by {theme}")
    played(lantern.stack, test)
    past(lantern.stack.database, test, "pppupff", releases={6: "summer"})
    found = {}
    lantern.go("/trends")
    lantern.one("[data-role=days] canvas, [aria-label=Outcomes] canvas")
    found["trends"] = violations(lantern)
    lantern.go(f"/tests/{test}/blind-spots")
    lantern.one("[data-role=spot]")
    found["blind spots"] = violations(lantern)
    run = past(lantern.stack.database, test, "f")[0]
    lantern.go(f"/runs/{run}")
    lantern.one("[data-role=remarks] summary").click()
    found["comments"] = violations(lantern)
    lantern.press("Side by side")
    lantern.one("[data-role=pair]")
    found["side by side"] = violations(lantern)
    lantern.one("[data-role=bell]").click()
    found["the bell"] = violations(lantern)
    assert not any(found.values()), f"by {theme}: {found}"


def test_reports_and_trackers_keep_nobody_out(lantern, theme):
    test = id_of(lantern, "Book a firing")
    run = past(lantern.stack.database, test, "pf")[-1]
    found = {}
    lantern.go(f"/runs/{run}")
    lantern.press("Report…")
    lantern.one("select[name=form]")
    found["the report"] = violations(lantern)
    lantern.go("/settings")
    lantern.press("Order a report")
    lantern.press("Add a tracker")
    lantern.one("[data-role=field-map] summary").click()
    lantern.one("input[name=path-title]")
    found["orders and trackers"] = violations(lantern)
    assert not any(found.values()), f"by {theme}: {found}"


def id_of(lantern, name):
    with lantern.stack.database.session() as session:
        return tests.named(session, name).id


def test_signing_in_keeps_nobody_out(lantern):
    lantern.driver.delete_all_cookies()
    lantern.go("/sign-in")
    lantern.one("[name=username]")
    assert violations(lantern) == []


def test_the_stage_tells_how_its_keys_are_left(lantern, quote):
    lantern.press_one("[data-role=open-start]")
    keys = lantern.driver.find_element(By.CSS_SELECTOR, "[aria-label^='Keyboard of the stage']")
    until(lambda: lantern.driver.switch_to.active_element == keys, "the keys at the stage")
    assert "Shift Esc" in lantern.one("[data-role=leave-stage]").text
    keys.send_keys(Keys.SHIFT, Keys.ESCAPE)
    until(lambda: lantern.driver.switch_to.active_element != keys, "the stage left")
    assert not lantern.all("[data-role=leave-stage]")
