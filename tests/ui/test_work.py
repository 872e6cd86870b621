"""Daily work besides recording: rows, runs that are cancelled or die, two people at once."""

import json
import os
import signal
import urllib.request

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from sqlalchemy import func, select, text

from lantern.core.steps.edits import Change
from lantern.core.steps.model import Document, Row, Settings, Step
from lantern.host import processes
from lantern.store import models, runs, stations, tests
from lantern.store.models import Cast, Environment, Result, Run
from lantern.store.rows import unpacked
from tests.ui.pages import until


def make_test(stack, name, *steps, rows=0, **settings):
    columns = ("piece",) if rows else ()
    table = tuple(Row(f"r{number}", {"piece": f"Moon jar {number}"}) for number in range(rows))
    with stack.database.session() as session:
        environment = session.scalar(select(Environment).filter_by(name="Kiln Desk"))
        document = Document(
            tuple(steps), columns=columns, rows=table, settings=Settings(**settings)
        )
        return tests.create(session, name, environment.id, None, document).id


def waiting(limit=60):
    """Steps that wait for a dialog which never comes."""
    return (
        Step("w1", "open", inputs={"address": "/sign-in"}),
        Step("w2", "dialog", inputs={"answer": "OK"}, limit=limit),
    )


def state_of(stack, run_id):
    with stack.database.session() as session:
        return runs.get(session, run_id).state


def test_a_run_is_watched_live_and_cancelled(lantern):
    test = make_test(lantern.stack, "Waits for ever", *waiting())
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.press("Run")
    canvas = lantern.one("[data-role=live-run] canvas", 30)
    until(lambda: "dialog" in lantern.one("[aria-label=Drawer]").text, "the step under way")
    pixel = "return [...arguments[0].getContext('2d').getImageData(20, 10, 1, 1).data.slice(0, 3)]"
    until(lambda: lantern.driver.execute_script(pixel, canvas) != [0, 0, 0], "a picture of it")
    lantern.one("[data-role=cancel]").click()
    until(lambda: lantern.one("[data-role=run-state]").text == "cancelled", "cancelled", 3)


def test_a_killed_station_leaves_an_interrupted_run_and_the_next_goes_on(lantern):
    stack = lantern.stack
    slow = make_test(stack, "Interrupted", *waiting())
    quick = make_test(stack, "After it", Step("q", "open", inputs={"address": "/sign-in"}))
    lantern.sign_in()
    lantern.go(f"/tests/{slow}")
    lantern.press("Run")
    lantern.one("[data-role=live-run] canvas", 30)
    first = int(lantern.button("Cancel") and newest(stack, slow))
    until(lambda: state_of(stack, first) == "running", "the run under way")
    until(lambda: steps_kept(stack, first) == 1, "the first step kept")
    os.killpg(stack.station.pid, signal.SIGKILL)
    stack.station.process.wait(10)
    lantern.go(f"/tests/{quick}")
    lantern.press("Run")
    until(lambda: state_of(stack, first) == "interrupted", "the run marked as interrupted", 30)
    second = newest(stack, quick)
    assert state_of(stack, second) == "queued"
    stack.station.start()
    until(lambda: state_of(stack, second) == "passed", "the queue going on", 60)
    lantern.go(f"/runs/{first}")
    lantern.sees("The station that played it stopped.")
    assert lantern.one("[data-role=run-state]").text == "interrupted"
    until(lambda: len(lantern.all("[data-role=step]")) == 1, "the step that was kept")
    until(stack.healthy, "a station again", 30)


def test_cancelling_reaches_the_rows_on_every_station(stack):
    """The one that is there has its places full, so two others play a row each."""
    blocks = make_test(stack, "Takes a place", *waiting())
    slow = make_test(stack, "Waits everywhere", *waiting(), rows=4)
    busy = [start(stack, blocks) for _ in range(2)]
    until(lambda: all(playing(stack, run) for run in busy), "both places taken", 60)
    env = {**stack.station.env, "LANTERN_STATION_PLACES": "1"}
    others = [processes.station(env, stack.logs / f"other {number}") for number in (1, 2)]
    try:
        for other in others:
            other.start()
        until(lambda: len(living(stack)) == 3, "two more stations", 30)
        run = start(stack, slow)
        until(lambda: len(playing(stack, run)) == 2, "a row on each of them", 60)
        with stack.database.session() as session:
            session.execute(text("SELECT pg_notify('lantern', 'not JSON')"))
            runs.ask_cancel(session, run)
        until(lambda: state_of(stack, run) == "cancelled", "all of it cancelled", 3)
        with stack.database.session() as session:
            ends = [cast.outcome for cast in runs.get(session, run).casts]
        assert ends == ["cancelled"] * 4
    finally:
        for other in others:
            other.stop()
        for run in busy:
            with stack.database.session() as session:
                runs.ask_cancel(session, run)
    until(lambda: {state_of(stack, run) for run in busy} == {"cancelled"}, "the places free")


def start(stack, test_id):
    with stack.database.session() as session:
        return runs.create(session, tests.get(session, test_id), "run", "all", None).id


def living(stack):
    with stack.database.session() as session:
        return stations.alive(session)


def playing(stack, run_id):
    """The stations that play rows of a run and are past its first sentence."""
    with stack.database.session() as session:
        query = select(Cast.station_id).filter_by(run_id=run_id, outcome="running")
        return set(session.scalars(query.filter(Cast.current.contains("dialog"))))


def steps_kept(stack, run_id):
    with stack.database.session() as session:
        query = select(func.count()).select_from(Result).join(Cast)
        return session.scalar(query.where(Cast.run_id == run_id))


def newest(stack, test_id):
    return until(lambda: _newest(stack, test_id), f"a run of test {test_id}")


def _newest(stack, test_id):
    with stack.database.session() as session:
        query = select(Run.id).filter_by(test_id=test_id).order_by(Run.id.desc())
        return session.scalars(query).first()


CUT_OFF = """
const Real = WebSocket
window.WebSocket = function (url) { return url.includes('/live/events') ? {} : new Real(url) }
window.WebSocket.OPEN = Real.OPEN
"""


def test_an_edit_that_someone_else_overtook_is_said_and_nothing_is_lost(lantern):
    stack = lantern.stack
    test = make_test(stack, "Two at once", Step("a", "open", inputs={"address": "/sign-in"}))
    lantern.sign_in()
    # The other's change arrives while this page is cut off from news.
    script = {"source": CUT_OFF}
    cut = lantern.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", script)
    lantern.go(f"/tests/{test}")
    lantern.one("[data-step=a] [data-input=address]")
    with stack.database.session() as session:
        tests.edit(session, test, Change("a", {"inputs": {"address": "/board"}}), None)
    lantern.one("[data-step=a] [data-input=address]").click()
    field = lantern.fill("[data-step=a] .floating input", "/quote")
    field.send_keys(Keys.ENTER)
    until(lambda: lantern.one("[data-role=theirs]").text == "/board", "what the other wrote")
    lantern.press("Keep theirs")
    lantern.driver.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", cut)
    lantern.driver.refresh()
    until(lambda: lantern.sentences() == ["Open /board"], "the other's change")


def test_rows_are_pasted_imported_ticked_and_taken_back(lantern, tmp_path):
    stack = lantern.stack
    test = make_test(stack, "Rows", Step("a", "open", inputs={"address": "/sign-in"}))
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    for name in ("piece", "clay"):
        lantern.fill("[aria-label='Name of the new column']", name).send_keys(Keys.ENTER)
        lantern.one(f"[aria-label='{name} of row 1']")
    cell = lantern.one("[data-cell='0:0']")
    lantern.driver.execute_script(
        """const data = new DataTransfer(), bubbles = true
        data.setData('text/plain', arguments[1])
        arguments[0].dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles}))""",
        cell,
        'Moon jar\tRaku\n"Tea\ncaddy"\tStoneware\n',
    )
    until(
        lambda: values(stack, test) == [["Moon jar", "Raku"], ["Tea\ncaddy", "Stoneware"]], "2 rows"
    )
    lantern.one("[aria-label='Tick row 2']").click()
    lantern.choose_rows("")
    lantern.press("Try")
    lantern.sees("Say which rows to run")
    lantern.choose_rows("ticked")
    lantern.press("Try")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "the run's end", 60)
    assert "row 2" in lantern.one("[aria-label=Drawer]").text

    file = tmp_path / "rows.csv"
    file.write_text("piece;clay\nAsh tile;Raku\n")
    lantern.press("Rows (2)")
    take_in(lantern, file)
    lantern.sees("1 row: 1 added, 0 changed, 2 removed.")
    lantern.press("Take it in")
    until(lambda: values(stack, test) == [["Ash tile", "Raku"]], "the imported row")
    file.write_text('piece;clay\n"a;b\n')
    take_in(lantern, file)
    lantern.sees("can not be read")
    lantern.press("Cancel")
    assert values(stack, test) == [["Ash tile", "Raku"]]


def take_in(lantern, file):
    lantern.press("Tables in and out")
    lantern.press("Take in a spreadsheet…")
    lantern.one("[data-role=choose-spreadsheet]")
    lantern.nth("[name=spreadsheet]", 0).send_keys(str(file))


def values(stack, test_id):
    with stack.database.session() as session:
        document = unpacked(session.get(models.Test, test_id))
    return [[row.values.get(c, "") for c in document.columns] for row in document.rows]


def test_a_viewer_reads_everything_and_changes_nothing(lantern):
    lantern.sign_in("pia")
    lantern.go("/tests")
    lantern.fill("input[type=search]", "clay and cone")
    lantern.press("Quotes by clay and cone")
    lantern.sees("A viewer reads the story")
    assert not lantern.all("[data-role=run], [data-role=record], [aria-label=Stage]")
    assert lantern.one("[aria-label='Name of the test']").get_attribute("disabled")
    lantern.go("/defects")
    lantern.sees("Defects")


def test_the_command_box_jumps_by_keyboard(lantern):
    lantern.sign_in()
    lantern.sees("Latest runs")
    lantern.driver.find_element(By.TAG_NAME, "body").send_keys(Keys.CONTROL, "j")
    lantern.one("[aria-label='Go to']").send_keys("clay and")
    lantern.sees("Quotes by clay and cone")
    until(lambda: "Quotes" in lantern.one("[role=option]").text, "the test found first")
    lantern.one("[aria-label='Go to']").send_keys(Keys.ENTER)
    until(lambda: "/tests/" in lantern.driver.current_url, "the test")


def test_health_names_every_part(stack):
    with urllib.request.urlopen(f"{stack.address}/api/health") as answer:
        health = json.load(answer)
    assert health["status"] == "ok"
    assert health["stations"] == "1 up"
    assert health["sample_application"] == "ok"
