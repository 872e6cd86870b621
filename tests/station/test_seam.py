"""Every engine keeps what the seam promises, and so does the fake that stands in for one."""

import io
import os
import signal
from dataclasses import replace

import pytest
from PIL import Image

from lantern.browser.engines import ENGINES
from lantern.browser.errors import BrowserError, BrowserGone, DialogOpen
from lantern.core.engine.browsers import BROWSERS, USUAL
from lantern.core.engine.browsers import ENGINES as KNOWN
from lantern.core.engine.interpreter import Script
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.values.sources import Names
from lantern.station.player import Player
from tests.core.samples import element, step
from tests.station.conftest import Notes, browser_of
from tests.station.desk import until
from tests.station.fake import FakeEngine, Shown, Thing

HELD = BROWSERS[USUAL]


class Ground:
    """An engine with a session and a window in it, and pages in both of their forms."""

    def __init__(self, kind, running, site):
        self.kind, self.site = kind, site
        self.engine = FakeEngine() if kind == "fake" else browser_of(kind, running)
        self.address = "http://fake" if kind == "fake" else site.address
        self.new_session()

    def new_session(self):
        self.session = self.engine.new_session(HELD)
        self.page = self.session.open_page()
        return self.session

    def put(self, path, html, *things, title="Test page", status=200):
        """A page: as HTML for a browser, as things for the fake."""
        if self.kind == "fake":
            self.engine.site[path] = lambda: Shown(title, status, list(things))
        self.site.put(path, html, status)
        self.site.pages[path] = (
            status,
            self.site.pages[path][1].replace("Test page", title),
        )

    def go(self, path="/"):
        return self.page.navigate(self.address + path, 10)

    def press(self, place=0):
        """Press the n-th button of the page."""
        found = self.page.probe("lookup", {"selector": "button,a", "clues": [], "aim": False})
        at = self.page.probe("aim", found["candidates"][place]["handle"], None)
        self.page.press(at["x"], at["y"])

    def title(self):
        return self.page.probe("page")["title"]


@pytest.fixture(params=[*ENGINES, "fake"])
def ground(request, running, site):
    ground = Ground(request.param, running, site)
    yield ground
    ground.session.close()


def test_an_address_is_opened_with_its_status_or_the_reason_why_not(ground):
    ground.put("/", "<h1>Kilns</h1>", title="Kilns")
    ground.put("/lost", "<h1>Nothing here</h1>", status=404)
    told = ground.kind == "fake" or KNOWN[ground.kind].tells
    assert ground.go() == (200 if told else 0, "")
    assert ground.title() == "Kilns"
    assert ground.page.address == ground.address + "/"
    assert ground.go("/lost")[0] == (404 if told else 0)
    if ground.kind == "fake":
        ground.engine.site.clear()
    status, why = ground.page.navigate("http://127.0.0.1:9/", 10)
    assert status == 0
    assert why


def test_back_and_forward_lead_through_what_was_opened(ground):
    for name in ("kilns", "glazes"):
        ground.put(f"/{name}", "<h1>here</h1>", title=name)
        ground.go(f"/{name}")
    ground.page.history("back", 10)
    until(lambda: ground.title() == "kilns", "the first page")
    ground.page.history("back", 10)  # the empty page that a window begins with, or nothing
    ground.go("/kilns")
    ground.go("/glazes")
    ground.page.history("back", 10)
    ground.page.history("forward", 10)
    until(lambda: ground.title() == "glazes", "the second page again")
    ground.page.history("reload", 10)
    assert ground.title() == "glazes"


def ask(window):
    def then(page, accept, text):
        page.shown.title = f"{accept} {text}".strip()

    window.ask("prompt", "Name?", then)


@pytest.mark.parametrize(("accept", "title"), [(True, "Moon jar"), (False, "null")])
def test_a_dialog_holds_the_page_until_it_is_answered(ground, accept, title):
    html = "<button onclick=\"document.title = String(prompt('Name?'))\">Ask</button>"
    ground.put("/", html, Thing("button", "Ask", ask))
    ground.go()
    before = ground.session.happened
    ground.press()
    until(lambda: ground.page.dialog, "the dialog")
    assert ground.page.dialog.message == "Name?"
    with pytest.raises(DialogOpen):
        ground.page.probe("page")
    assert ground.page.answer_dialog(accept, "Moon jar").type == "prompt"
    assert ground.page.answer_dialog(True) is None
    wanted = f"{accept} Moon jar" if ground.kind == "fake" else title
    until(lambda: ground.title() == wanted, wanted)
    assert ground.session.happened >= before


def open_ticket(window):
    window.session.open_page().navigate("http://fake/ticket", 1)


def test_a_new_window_is_told_switched_to_and_closed(ground):
    html = '<a href="/ticket" target="_blank">Ticket</a>'
    ground.put("/", html, Thing("a", "Ticket", open_ticket))
    ground.put("/ticket", "<h1>Ticket</h1>", title="Ticket")
    told = []
    ground.session.on_page = told.append
    ground.go()
    happened = ground.session.happened
    ground.press()
    until(lambda: len(ground.session.pages) == 2, "the new window")
    first, second = ground.session.pages
    assert told == [second]
    assert ground.session.happened > happened
    ground.session.switch(second)
    assert ground.session.current is second
    until(lambda: second.probe("page")["title"] == "Ticket", "its page")
    ground.session.close_page(second)
    until(lambda: second.gone.is_set(), "gone")
    assert ground.session.current is first
    with pytest.raises(BrowserError):
        second.probe("page")


def test_a_picture_is_a_jpeg_of_the_whole_viewport(ground):
    ground.put("/", "<h1>Kilns</h1>")
    ground.go()
    picture = Image.open(io.BytesIO(ground.page.picture()))
    assert (picture.format, picture.size) == ("JPEG", HELD.viewport)


def test_a_field_is_given_files(ground):
    html = "<input type=file onchange='document.title = this.files[0].name'>"
    field = Thing("input", "Photo", type="file")
    ground.put("/", html, field)
    ground.go()
    path = ground.session.files.put("moon-jar.png", b"a picture")
    query = {"selector": "input", "clues": [], "aim": False}
    handle = ground.page.probe("lookup", query)["candidates"][0]["handle"]
    ground.page.give_files(handle, [path])
    if ground.kind == "fake":
        assert field.value == "moon-jar.png"
    else:
        until(lambda: ground.title() == "moon-jar.png", "the file's name")


def test_a_story_is_played_and_a_check_that_differs_says_what_there_is(ground):
    html = "<label>Piece <input></label><h1>Kilns</h1>"
    ground.put("/", html, Thing("input", "Piece"), Thing("h1", "Kilns"))
    piece, heading = element("Piece", "text box"), element("Kilns", "heading")
    steps = (
        Step("open", "open", inputs={"address": "/"}),
        step("type", piece, key="2", text="Moon jar"),
        step("check", piece, key="3", property="value", comparison="is", expected="Moon jar"),
        step("check", heading, key="4", property="text", comparison="is", expected="Glazes"),
    )
    notes = Notes()
    differs = replace(steps[3], limit=0.5)
    document = Document((*steps[:3], differs), settings=Settings(30))
    known = {one.id: one for one in (piece, heading)}
    player = Player(ground.session, notes)
    assert player.play(Script(document, known, Names(), ground.address)) == "failed"
    assert [one.outcome for one in notes.results] == ["passed", "passed", "passed", "failed"]
    assert notes.results[3].reason == "check differed"
    assert notes.results[3].found == "Kilns"


def test_a_closed_session_leaves_nothing(ground):
    ground.put("/", "<h1>Kilns</h1>")
    ground.go()
    ground.session.files.put("moon-jar.txt", b"x")
    ground.session.close()
    until(lambda: ground.page.gone.is_set(), "the window gone")
    assert list(ground.engine.folder.glob("files-*")) == []
    with pytest.raises(BrowserError):
        ground.page.probe("page")
    ground.new_session()  # the browser lives on
    assert ground.go()[1] == ""


def test_a_browser_that_dies_is_said_so_and_closing_it_raises_nothing(ground):
    engine = ground.engine
    if ground.kind == "fake":
        engine.kill()
    else:
        os.kill(engine.pid, signal.SIGKILL)
    until(lambda: not engine.alive, "the browser dead")
    assert not engine.answers(1)
    with pytest.raises(BrowserGone):
        ground.page.probe("page")
    with pytest.raises(BrowserGone):
        engine.new_session(HELD)
    ground.session.close()
    engine.close()
    assert not engine.folder.exists()
