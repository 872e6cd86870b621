"""Chromium as on a phone: real mobile viewports, presses that are touches, pictures that fit."""

import io
import json

import pytest
from PIL import Image

from lantern.core.elements.clues import Clue, Element
from lantern.core.engine.browsers import browser_named
from lantern.core.engine.interpreter import Script
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.values.sources import Names
from lantern.station.player import Player
from lantern.station.redaction import safe_picture
from tests.station.conftest import Notes
from tests.station.desk import until

MOBILE = '<meta name=viewport content="width=device-width, initial-scale=1">'
TOUCHED = """<style>body { margin: 0 } button { position: absolute; left: %s; top: 400px }</style>
<button>Fire</button><div id=n></div><script>
const said = (what) => { document.title += ' ' + what }
const one = document.querySelector('button')
for (const kind of ['touchstart', 'touchend', 'click', 'dblclick', 'contextmenu'])
  one.addEventListener(kind, () => said(kind))
</script>"""


@pytest.fixture
def phone(chromium, site):
    session = chromium.new_session(browser_named("chromium phone"))
    page = session.open_page()

    def opened(html):
        site.put("/", html)
        assert page.navigate(site.address + "/", 20) == (200, "")
        return page

    yield opened
    session.close()


def told(page, script):
    return json.loads(page.run_script(f"return JSON.stringify({script})", 5).gave["value"])


def press(page, **how):
    aimed = page.probe("aim", page.probe("handleAt", "button", 0))
    page.press(aimed["x"], aimed["y"], **how)


@pytest.mark.parametrize(
    ("html", "left", "wide"),
    [
        (MOBILE, "100px", range(390, 391)),
        ("", "700px", range(980, 981)),  # says nothing of its width: laid out as on a desk
        (MOBILE, "700px", range(701, 800)),  # too wide for the device
    ],
)
def test_a_page_is_laid_out_and_touched_as_on_a_phone(phone, html, left, wide):
    page = phone(html + TOUCHED % left)
    press(page)
    until(lambda: "click" in told(page, "document.title"), "its click", 5)
    assert told(page, "document.title").split()[-3:] == ["touchstart", "touchend", "click"]
    picture = Image.open(io.BytesIO(page.picture()))
    assert page.viewport[0] in wide
    inner = told(page, "[innerWidth, innerHeight]")
    assert all(abs(a - b) <= 1 for a, b in zip(page.viewport, inner, strict=True))
    assert picture.size == page.viewport, "a pixel of it is one of CSS"


def test_two_presses_are_not_a_double_one_and_a_double_one_is(phone):
    page = phone(MOBILE + TOUCHED % "100px")
    press(page)
    press(page)
    assert told(page, "document.title").split().count("click") == 2
    assert "dblclick" not in told(page, "document.title")
    press(page, count=2)
    until(lambda: "dblclick" in told(page, "document.title"), "the double one", 5)
    press(page, button="right")
    until(lambda: "contextmenu" in told(page, "document.title"), "the menu", 5)


def test_what_hears_touches_alone_is_pressed_by_a_sentence(chromium, site):
    site.put("/", MOBILE + "<button id=b ontouchend=\"this.textContent = 'Fired'\">Fire</button>")
    session = chromium.new_session(browser_named("chromium phone"))
    session.open_page()
    notes = Notes()
    fire = Element("fire", "Fire", "button", (Clue("id", "is", "b"),))
    shown = {"property": "text", "comparison": "is", "expected": "Fired"}
    steps = (
        Step("o", "open", inputs={"address": "/"}),
        Step("p", "press", "fire"),
        Step("c", "check", "fire", inputs=shown),
    )
    document = Document(steps, settings=Settings(3))
    Player(session, notes).play(Script(document, {"fire": fire}, Names(), site.address))
    session.close()
    assert [one.outcome for one in notes.results] == ["passed"] * 3, notes.results


@pytest.mark.parametrize("html", ["", MOBILE])
def test_a_secret_is_hidden_where_a_picture_of_a_phone_shows_it(phone, html):
    """On a page that is wider than the device, where it lies to the right."""
    place = "position:absolute;left:600px;top:300px;font:40px monospace"
    page = phone(f"{html}<body style='margin:0;background:#fff'><b style='{place}'>less-iron</b>")
    plain = Image.open(io.BytesIO(page.picture())).convert("L")
    hidden = Image.open(io.BytesIO(safe_picture(page, ["less-iron"]))).convert("L")
    assert hidden.size == plain.size
    part = (600, 300, min(810, plain.width), 345)

    def contrast(image):
        low, high = image.crop(part).getextrema()
        return high - low

    assert contrast(plain) > 150, "it could be read"
    assert contrast(hidden) < 100, "and can not any more"


def test_live_pictures_show_a_page_whole_or_not_at_all(phone):
    page = phone(MOBILE + TOUCHED % "100px")
    seen = []
    page.start_pictures(lambda content: seen.append(Image.open(io.BytesIO(content)).size))
    page.run_script("document.body.append('fired')", 5)
    until(lambda: seen, "a picture", 10)
    wide = "document.querySelector('button').style.left = '700px'; scrollTo(300, 0)"
    page.run_script(wide, 5)
    page.settled(5)
    seen.clear()
    page.run_script("document.body.append('again')", 5)
    until(lambda: seen, "a picture of all of it", 10)
    assert page.viewport[0] >= 740
    page.stop_pictures()
