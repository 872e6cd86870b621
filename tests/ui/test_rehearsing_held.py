"""A rehearsal that is held outlives what goes wrong; who watches takes it in hand; two share it."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lantern.store import preferences
from tests.ui.conftest import OFFERED
from tests.ui.pages import until
from tests.ui.rehearsals import SIGN_IN, Rehearsal, held_at_a_pause, make, step


def test_keys_go_on_and_a_reload_and_a_new_web_process_find_it_held(lantern):
    test, rehearsal = held_at_a_pause(lantern, "Found again")
    lantern.go(f"/tests/{test}")
    rehearsal.held("5 ·")
    assert lantern.all("[data-role=story] li[data-step] [data-at=held]")
    lantern.stack.web.stop()
    lantern.stack.web.start()
    until(lantern.stack.healthy, "Lantern answers again", 60)
    lantern.go(f"/tests/{test}")
    rehearsal.held("5 ·")
    keys = ActionChains(lantern.driver)
    keys.send_keys("n").perform()
    rehearsal.held("6 ·")
    ActionChains(lantern.driver).send_keys("e").perform()
    rehearsal.over("Ended by hand")


def test_the_end_of_a_station_ends_it_and_is_said(lantern):
    held_at_a_pause(lantern, "Without its station")
    lantern.stack.station.stop()
    lantern.stack.station.start()
    until(lantern.stack.healthy, "a station is up again", 60)
    lantern.sees("The rehearsal is over: the station or the stage that held it ended.", 60)
    until(lambda: not lantern.all(Rehearsal.BAR), "nothing is rehearsed any more")


def test_a_second_person_looks_on_is_handed_the_controls_and_loses_them_by_leaving(lantern, other):
    test, rehearsal = held_at_a_pause(lantern, "Looked at by two")
    other.go(f"/tests/{test}")
    other.one("[data-role=look-on]", 30).click()
    theirs = Rehearsal.BAR
    until(lambda: "you look on" in other.one(theirs).text, "looking on")
    assert not other.one(f"{theirs} [data-do=over]").is_enabled()
    lantern.press_one(f"{theirs} button", "More")
    lantern.press("Hand the controls to Wren Halloway")
    until(lambda: other.one(f"{theirs} [data-do=over]").is_enabled(), "the controls")
    lantern.sees("Wren Halloway has the controls")
    other.one(f"{theirs} [data-do=over]").click()
    rehearsal.held("6 ·")
    other.go("/tests")
    until(lambda: "has the controls" not in lantern.one(theirs).text, "the controls back")
    rehearsal.do("end")


@pytest.fixture
def offered(stack):
    """Rows that fail are offered as long as they are at first; as in other stories after it."""

    def put(seconds):
        with stack.database.session() as session:
            preferences.put_rehearsing(session, preferences.Rehearsing(offered=seconds))

    put(preferences.Rehearsing().offered)
    yield
    put(OFFERED)


@pytest.mark.usefixtures("offered")
def test_a_row_that_fails_while_its_author_watches_is_taken_in_hand_and_mended(lantern):
    lost = step("w", "check", "count", property="value", comparison="is", expected="7")
    test = make(lantern.stack, "Taken in hand", *SIGN_IN, lost, limit=8)
    lantern.sign_in()
    rehearsal = Rehearsal(lantern, test)
    lantern.press("Run")
    lantern.press_one("a", "Open run ")
    lantern.one("[data-role=take]", 60).click()  # on the run's page, which leads to the workbench
    rehearsal.held("5 ·")
    assert "expected “7”" in rehearsal.trouble
    lantern.one("[data-input=expected]").click()
    field = lantern.fill(".floating [aria-label=expected]", "1")
    field.send_keys(Keys.ENTER)
    until(lambda: any("is 1" in one for one in lantern.sentences()), "the new value")
    lantern.one(f"{rehearsal.BAR} [data-do=again]").click()
    until(lambda: lantern.one("[data-role=run-state]").text == "failed", "its end", 60)
    next(a for a in lantern.all("a") if a.text.startswith("Open run ")).click()
    lantern.sees("in hand")
    lantern.sees("On record such a row does not count as passed")


@pytest.mark.usefixtures("offered")
def test_a_lead_sets_how_many_stages_there_are_and_how_long_a_row_is_offered(lantern):
    lantern.sign_in("wren")
    lantern.go("/settings")
    part = "[data-role=rehearsing-part]"
    lantern.fill(f"{part} [name=offered]", "20")
    lantern.press_one(f"{part} button", "Save")
    lantern.sees("Saved.")
    lantern.go("/settings")
    until(
        lambda: lantern.one(f"{part} [name=offered]").get_property("value") == "20", "what was set"
    )
