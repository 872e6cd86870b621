"""Everything, everywhere: a station joins, and a plan is played in three browsers on two."""

import json

import pytest
from selenium.webdriver.common.keys import Keys

from lantern.core.plans.model import Pick, Plan
from lantern.core.steps.model import Step
from lantern.store import plans, stations
from lantern.store.models import Cast, Picture, Result, Run, Station
from tests.station.test_remote import ASKED, PASSWORD, USER, Grid
from tests.ui.joined import Door, Elsewhere
from tests.ui.pages import until
from tests.ui.rehearsals import SIGN_IN, make, step

BROWSERS = ("chromium", "firefox", "webkit")


@pytest.fixture
def elsewhere(stack, tmp_path):
    """A station that comes in by a door with TLS."""
    door = Door(int(stack.address.rsplit(":")[-1]), tmp_path)
    made = Elsewhere(door.address, door.certificate)
    made.certificate = door.certificate
    yield made
    made.end()
    door.close()
    with stack.database.session() as session:
        for one in stations.known(session):
            if one.secret_hash:
                session.delete(one)
            else:
                stations.change(session, one.id, mode="works", labels=[])


def joins(lead, elsewhere, *arguments):
    """Let a station join by the pages; returns its key."""
    lead.go("/stations")
    lead.press("Add a station")
    lead.press("Make a token")
    command = lead.one("[data-role=made-token] code").text
    token = command.partition("--token ")[2].split()[0]
    elsewhere.start("--name", "Kiln room", *arguments, token=token)
    elsewhere.is_up()
    lead.go("/stations")
    row = until(
        lambda: next((tr for tr in lead.all("tr[data-station]") if "Kiln room" in tr.text), None),
        "it is listed",
        20,
    )
    return token, row.get_attribute("data-station")


def opened():
    return Step("o", "open", inputs={"address": "/sign-in"})


def state(page):
    return page.one("[data-role=plan-state]").text


def is_playing(stack, key):
    with stack.database.session() as session:
        return session.query(Cast).filter_by(station_id=key, outcome="running").count()


def played(stack, plan_run):
    """The stations that played casts of a run of a plan."""
    with stack.database.session() as session:
        query = session.query(Cast.station_id).join(Run, Run.id == Cast.run_id)
        return {row.station_id for row in query.filter(Run.plan_run_id == plan_run)}


def test_three_tests_in_three_browsers_on_two_stations(lantern, other, elsewhere):
    stack = lantern.stack
    rows = [{"piece": "Moon jar", "shown": "Moon jar"}, {"piece": "Bowl", "shown": "Vase"}]
    typed = step("q", "type", "piece", text="${row.piece}")
    shown = step("c", "check", "piece", property="value", comparison="is", expected="${row.shown}")
    made = (
        make(stack, "Opens", opened(), rows=rows, limit=20),
        make(stack, "Types", *SIGN_IN, typed, rows=rows, limit=20),
        make(stack, "Shows", *SIGN_IN, typed, shown, rows=rows, limit=10),
    )
    with stack.database.session() as session:
        wanted = Plan(tuple(Pick(test=test) for test in made), BROWSERS, at_once=4)
        plan = plans.create(session, "All of it", wanted, None).id
    _, key = joins(other, elsewhere, "--places", "2")

    lantern.sign_in()
    lantern.go(f"/plans/{plan}")
    until(lambda: "18 casts" in lantern.one("[data-role=outlook]").text, "what it comes to")
    lantern.one("[data-role=start]").click()
    until(
        lambda: "passed" in lantern.one("[data-role=matrix]").text and state(lantern) == "running",
        "the matrix fills while it runs",
        60,
    )
    until(lambda: state(lantern) == "failed", "its verdict", 240)
    assert "18 of 18 over: 15 passed, 3 failed" in lantern.one("[data-role=progress]").text
    number = int(lantern.driver.current_url.rpartition("/plan-runs/")[2].split("?")[0])
    assert len(played(stack, number)) == 2, "both stations played"

    # What the other station played is told in full: its sentences, and pictures of the pages.
    lantern.one("[data-test=Shows] [data-browser=webkit] button").click()
    failed = "[data-role=cell] [data-cast='2']"
    until(lambda: "failed" in lantern.one(failed).text, "its rows")
    lantern.one("[data-role=again]").click()
    until(lambda: "3 of 3 over" in lantern.driver.page_source, "what failed, again", 120)

    # A row of the station elsewhere alone, with its picture.
    with stack.database.session() as session:
        stations.change(session, key, labels=["elsewhere"])
    lantern.go(f"/tests/{made[1]}")
    lantern.press("Limits")
    lantern.fill("[aria-label='Labels that a station must have']", "elsewhere").send_keys(Keys.TAB)
    until(lambda: lantern.one("[data-role=run]").is_enabled(), "it can be run")
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "played elsewhere", 60)
    next(a for a in lantern.all("a") if a.text.startswith("Open run ")).click()
    lantern.nth("[data-role=step]", -1).click()
    shown = "return [...document.images].some((one) => one.src.includes('/pictures/'))"
    until(lambda: lantern.driver.execute_script(shown), "a picture that came over the network", 20)


def test_a_joined_station_is_drained_killed_and_retired(lantern, other, elsewhere):
    stack = lantern.stack
    steps = (opened(), Step("p", "pause", inputs={"seconds": "8"}))
    slow = make(stack, "Slow there", *steps, on_interrupted="play again")
    with stack.database.session() as session:
        plan = plans.create(
            session, "Where it is slow", Plan((Pick(test=slow),), needs=("elsewhere",)), None
        ).id
    token, key = joins(other, elsewhere)
    other.go(f"/stations/{key}")
    other.fill("[aria-label='Labels of the station']", "elsewhere").send_keys(Keys.TAB)
    lantern.sign_in()
    lantern.go(f"/plans/{plan}")
    until(lambda: lantern.one("[data-role=start]").is_enabled(), "it can be started")
    lantern.one("[data-role=start]").click()
    until(lambda: is_playing(stack, key) == 1, "it is played there", 40)

    # Killed in the middle: the row waits again, and is played once it is back.
    elsewhere.kill()
    until(lambda: is_playing(stack, key) == 0, "it is missed", 40)
    assert state(lantern) == "running"
    elsewhere.start()
    elsewhere.is_up()
    until(lambda: is_playing(stack, key) == 1, "played there again, without a new token", 40)

    # Drained: it ends what it plays and takes nothing more.
    other.press("Drain")
    until(lambda: other.one("[data-role=station-state]").text == "draining", "it is being drained")
    until(lambda: state(lantern) == "passed", "what it played has ended well", 60)
    until(lambda: other.one("[data-role=station-state]").text == "drained", "nothing is left")
    with stack.database.session() as session:
        assert session.query(Cast).filter_by(station_id=key).one().takings == 2

    # Retired: it is no station any more, and says so where it runs.
    other.press("Retire it")
    other.one("[data-role=yes]").click()
    until(lambda: elsewhere.process.poll() is not None, "it has ended", 30)
    assert elsewhere.process.returncode == 2
    assert "it was retired" in elsewhere.said()
    until(lambda: not other.all(f"tr[data-station='{key}']"), "it is not listed any more")
    again = Elsewhere(elsewhere.address, elsewhere.certificate)
    try:
        again.start("--token", token).process.wait(30)
        assert "each lets one station join" in again.said()
    finally:
        again.end()


def test_a_bad_network_loses_nothing_and_doubles_nothing(lantern, other, tmp_path):
    """Of every five connections one is cut when its request has arrived."""
    stack = lantern.stack
    rows = [{"piece": name} for name in ("Moon jar", "Bowl", "Vase")]
    typed = step("q", "type", "piece", text="${row.piece}")
    test = make(stack, "Over a bad line", *SIGN_IN, typed, rows=rows)
    with stack.database.session() as session:
        wanted = Plan((Pick(test=test),), needs=("far away",))
        plan = plans.create(session, "Over a bad line", wanted, None).id
    door = Door(int(stack.address.rsplit(":")[-1]), tmp_path, cuts=5)
    station = Elsewhere(door.address, door.certificate)
    try:
        _, key = joins(other, station)
        with stack.database.session() as session:
            stations.change(session, key, labels=["far away"])
        lantern.sign_in()
        lantern.go(f"/plans/{plan}")
        lantern.one("[data-role=start]").click()
        until(lambda: state(lantern) == "passed", "its verdict", 120)
        with stack.database.session() as session:
            for cast in session.query(Cast).filter_by(station_id=key):
                kept = session.query(Result.place).filter_by(cast_id=cast.id).order_by(Result.place)
                assert [row.place for row in kept] == [1, 2, 3, 4, 5]
                pictured = session.query(Picture).join(Result, Result.picture == Picture.digest)
                assert pictured.filter(Result.cast_id == cast.id).count() == 5
                assert cast.takings == 1
            assert session.query(Cast).filter_by(station_id=key).count() == 3
        assert door.cut > 5
    finally:
        station.end()
        door.close()
        with stack.database.session() as session:
            session.query(Station).filter(Station.secret_hash.is_not(None)).delete()


def test_who_joins_is_not_led_astray(stack, tmp_path):
    """No clear text over a network, nobody whom nobody vouches for, no guessing who it is."""
    door = Door(int(stack.address.rsplit(":")[-1]), tmp_path)
    wanted = (
        ("http://lantern.example", None, "would go there in clear"),
        (door.address, None, "certificate verify failed"),
        (door.address, door.certificate, "good (any more)"),
    )
    for address, certificate, said in wanted:
        one = Elsewhere(address, certificate)
        try:
            one.start("--token", "lantern_join_guessed").process.wait(30)
            assert one.process.returncode == 2
            assert said in one.said(), one.said()
            assert not list(one.folder.rglob("joined.json"))
        finally:
            one.end()
    unknown = Elsewhere(stack.address)
    try:
        unknown.start().process.wait(30)
        assert "Give a --token" in unknown.said()
    finally:
        unknown.end()
        door.close()


@pytest.fixture
def grid(tmp_path):
    made = Grid(tmp_path / "driver.log")
    yield made
    made.close()


def test_a_remote_browser_is_said_tried_and_played_in(lantern, other, grid):
    stack = lantern.stack
    test = make(stack, "Opened far away", opened())
    other.go("/settings")
    other.press("Add a remote browser")
    other.fill("[name=remote-name]", "Kiln grid")
    other.fill("[name=remote-address]", grid.address)
    other.fill("[name=remote-user]", USER)
    other.fill("[name=remote-password]", "guessed")
    other.one("[name=remote-capabilities]").clear()
    other.fill("[name=remote-capabilities]", json.dumps(ASKED))
    other.press_one("[data-role=remotes] button", "Save")
    row = "[data-remote='remote kiln grid']"
    other.press_one(f"{row} button", "Try it")
    until(lambda: "Who are you?" in other.one("[data-role=tried]").text, "it is refused", 60)
    other.press_one(f"{row} button", "Change")
    other.fill("[name=remote-password]", PASSWORD)
    other.press_one("[data-role=remotes] button", "Save")
    other.press_one(f"{row} button", "Try it")
    until(lambda: "A session came about" in other.one("[data-role=tried]").text, "a session", 60)
    assert "Files that it downloads" in other.one("[data-role=tried]").text

    lantern.sign_in()
    lantern.go(f"/tests/{test}")

    def offered():
        choice = "[data-browser='remote kiln grid']"
        lantern.one("[data-role=browsers]").click()
        there = "no station" not in lantern.one(choice).text
        lantern.one(choice if there else "[data-role=browsers]").click()
        return there

    until(offered, "a station offers it", 40)
    lantern.driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    until(lambda: lantern.one("[data-role=browsers]").text == "Remote Kiln grid", "it alone")
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "played there", 60)
    next(a for a in lantern.all("a") if a.text.startswith("Open run ")).click()
    lantern.sees("Chrome 156")
    other.press_one(f"{row} button", "Delete")
    until(lambda: not other.all(row), "it is gone")
