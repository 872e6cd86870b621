"""Browsers: alike to pages, apart from each other, and how they and what they do come to an end."""

import json
import os
import signal
import threading

import pytest

from lantern.browser import keys
from lantern.browser.engines import ENGINES
from lantern.core.engine.browsers import BROWSERS, USUAL, browser_named
from lantern.core.engine.browsers import ENGINES as ENGINES_DO
from lantern.core.engine.interpreter import Script
from lantern.core.steps.model import Document, Step
from lantern.core.values.sources import Names
from lantern.station.guides import Cancelled, Watcher
from lantern.station.player import Player
from tests.core.samples import element, step
from tests.station.conftest import browser_of
from tests.station.desk import until
from tests.station.samples import SAVE

KEYS = [name for name in keys._NAMED if name not in ("F11", "Meta")]


def test_a_key_is_the_same_to_a_page_in_every_browser(window):
    """By its key, its place on the keyboard and the legacy number that pages still read."""
    page = window(
        """<input autofocus><script>window.seen = []; addEventListener('keydown', (e) => {
        seen.push([e.key, e.code, e.keyCode]); e.preventDefault() })</script>"""
    )
    for name in [*KEYS, "a", "Z", "5"]:
        page.press_key(name)
    seen = json.loads(page.run_script("return seen", 5).gave["value"])
    wanted = [keys.key_of(name) for name in [*KEYS, "a", "Z", "5"]]
    assert seen == [[one.key, one.code, one.number] for one in wanted]


def test_frames_are_named_alike_in_every_browser(window, site):
    """By the name or the id of what holds them: what was recorded is looked for in them."""
    site.put("/inner", "<iframe name=deep src=/deep></iframe><p>inner</p>")
    site.put("/deep", "<button>Save</button>")
    page = window("<iframe id=outer src=/inner></iframe><iframe src=/deep?x></iframe>")
    wanted = {(), ("outer",), ("outer", "deep"), ("/deep",)}
    until(lambda: {page.frame_path(one) for one in page.frames()} == wanted, "all frames named")


def test_contexts_share_nothing(browser, site):
    site.put(
        "/", "<script>document.title = document.cookie || 'none'; document.cookie='a=1'</script>"
    )
    titles = []
    for _ in range(2):
        context = browser.new_session(BROWSERS[USUAL])
        page = context.open_page()
        page.navigate(site.address + "/", 10)
        titles.append(page.probe("page")["title"])
        context.close()
    assert titles == ["none", "none"]


def test_cancelling_ends_a_wait_at_once(browser, site):
    site.put("/", "<p>nothing to press</p>")
    context = browser.new_session(BROWSERS[USUAL])
    context.open_page()
    player = Player(context, Watcher())
    steps = (Step("1", "open", inputs={"address": "/"}), step("press", SAVE, limit=60))
    script = Script(Document(steps), {SAVE.id: SAVE}, Names(), site.address)
    ended = []

    def run():
        try:
            player.play(script)
        except Cancelled:
            ended.append("cancelled")

    thread = threading.Thread(target=run)
    thread.start()
    thread.join(0.8)
    player.cancel()
    thread.join(2)
    assert ended == ["cancelled"]


@pytest.mark.parametrize("engine", ENGINES)
def test_a_browser_that_is_killed_is_said_so(engine):
    browser = ENGINES[engine].start()
    context = browser.new_session(BROWSERS[USUAL])
    context.open_page()
    os.kill(browser.pid, signal.SIGKILL)
    until(lambda: not browser.alive, "the browser dead")
    seen = []

    class Notes(Watcher):
        def step_ends(self, result, console, requests):
            seen.append(result)

    steps = (
        Step("1", "open", inputs={"address": "/"}),
        Step("2", "dialog", inputs={"answer": "OK"}),
    )
    outcome = Player(context, Notes()).play(Script(Document(steps), {}, Names(), "http://x"))
    browser.close()
    assert outcome == "failed"
    assert [(r.outcome, r.reason) for r in seen] == [("failed", "browser died"), ("skipped", "")]


@pytest.mark.parametrize("name", BROWSERS)
def test_every_browser_is_as_wide_and_touched_as_its_name_says(name, running, site):
    mobile = '<meta name=viewport content="width=device-width">'
    site.put("/", f"{mobile}<button onclick=\"document.title='pressed'\">Press</button>")
    held = browser_named(f" {name.upper()} ")
    context = browser_of(held.engine, running).new_session(held)
    page = context.open_page()
    page.navigate(site.address + "/", 10)
    look = "return [innerWidth, innerHeight, navigator.maxTouchPoints, navigator.userAgent]"
    width, height, points, agent = json.loads(page.run_script(look, 5).gave["value"])
    assert (width, height, bool(points)) == (held.width, held.height, held.touch)
    assert (" Mobile " in agent) == held.touch
    assert ENGINES_DO[held.engine].touch or not held.touch, "an engine is held for what it can not"
    aimed = page.probe("aim", page.probe("handleAt", "button", 0))
    page.press(aimed["x"], aimed["y"])
    assert page.run_script("return document.title", 5).gave["value"] == "pressed"
    context.close()


def test_what_was_done_last_is_told_to_the_server_before_the_window_is_closed(play, site):
    """A save in two requests, of which a slow server answers the first after a second."""
    save = element("Save")
    site.put(
        "/",
        "<button onclick=\"fetch('/first', {method: 'POST'}).then(() => fetch('/then'))\">Save",
    )
    site.put("/first", "kept")
    site.put("/then", "kept")
    site.late["/first"] = 1.5
    notes = play(step("press", save), elements=[save], pictures="none")
    assert notes.outcome == "passed"
    assert (site.count("/first"), site.count("/then")) == (1, 1)


def test_an_address_where_nothing_listens(browser):
    context = browser.new_session(BROWSERS[USUAL])
    context.open_page()
    seen = []

    class Notes(Watcher):
        def step_ends(self, result, console, requests):
            seen.append(result)

    document = Document((Step("1", "open", inputs={"address": "/"}),))
    Player(context, Notes()).play(Script(document, {}, Names(), "http://127.0.0.1:9"))
    context.close()
    assert seen[0].reason == "page error"
    assert "could not be opened" in seen[0].message
