"""Pictures of pages that show a secret: it can not be read there."""

import io

import pytest
from PIL import Image, ImageStat

from lantern.browser.errors import BrowserError
from lantern.core.elements.facts import Box
from lantern.core.steps.model import Step
from lantern.station.live import Live, RedactionQueue
from lantern.station.lookup import hiding
from lantern.station.redaction import Redactor, blurred
from tests.core.samples import element
from tests.station.desk import until

PAGE = """
<style>* { margin: 0; font: 32px monospace } div, input { height: 40px; width: 400px }</style>
<div>plain words</div>
<div id=shown>the pin is kiln-4711</div>
<input id=field value="kiln-4711">
<input id=secret type=password value="dots">
<iframe srcdoc="<p>kiln-4711</p>" style="width: 400px; height: 80px; border: 0"></iframe>
"""


def sharpness(picture, box):
    """How much the grey of a part varies: letters make edges, a blur has none."""
    image = Image.open(io.BytesIO(picture)).convert("L")
    part = image.crop((int(box.x), int(box.y), int(box.x + box.width), int(box.y + box.height)))
    return ImageStat.Stat(part).stddev[0]


def test_what_shows_a_secret_is_found_in_fields_texts_and_frames(page):
    page.show(PAGE)
    until(lambda: len(hiding(page, ["kiln-4711"])) == 4, "two fields, a text and a frame")
    assert len(hiding(page, ["other"])) == 1


WAYS = {
    "split": "<p data-w><b>kiln</b><i>-47</i>11</p>",
    "split, apart in the source": "<p data-w style='display:flex'><b>kiln</b>\n<i>-4711</i></p>",
    "upper case": "<p data-w>KILN-4711</p>",
    "button": "<input data-w type=button value='Use kiln-4711'>",
    "option": "<select data-w><option>none<option selected>kiln-4711</select>",
    "placeholder": "<input data-w placeholder='such as kiln-4711'>",
    "generated": "<style>#g::after{content:'kiln-4711'}</style><p data-w id=g>Pin: </p>",
    "from an attribute":
        "<style>#g::before{content:attr(data-pin)}</style><p data-w id=g data-pin=kiln-4711>.</p>",
    "shadow root": """<x-pin data-w></x-pin><script>
        document.querySelector('x-pin').attachShadow({mode: 'open'}).innerHTML = 'kiln-4711'
        </script>""",
    "closed shadow root": """<x-pin data-w></x-pin><script>
        document.querySelector('x-pin').attachShadow({mode: 'closed'}).innerHTML = 'kiln-4711'
        </script>""",
    "picture's text": "<img data-w alt='kiln-4711' width=200 height=30>",
}  # fmt: skip


@pytest.mark.parametrize("way", WAYS)
def test_a_secret_is_found_wherever_a_page_shows_it(page, way):
    page.show(f"<style>x-pin {{ display: block }}</style>{WAYS[way]}<p>plain words")
    handle = page.probe("handleAt", "[data-w]", 0)
    whole = page.probe("aim", handle)["box"]
    found = hiding(page, ["kiln-4711"])
    assert found, "nothing was found"
    for box in found:
        assert whole["y"] - 1 <= box.y <= whole["y"] + whole["height"] + 1
    assert max(box.x + box.width for box in found) - min(box.x for box in found) > 40
    assert hiding(page, ["other"]) == []


def test_letters_under_a_blur_are_gone_and_the_rest_stays_sharp(page):
    page.show(PAGE)
    before = page.picture()
    places = hiding(page, ["kiln-4711"])
    after = blurred(before, places, page.viewport[0])
    for box in places:
        if sharpness(before, box) > 20:
            assert sharpness(after, box) < sharpness(before, box) / 2
    plain = Box(0, 0, 400, 40)
    assert abs(sharpness(after, plain) - sharpness(before, plain)) < 3


def test_a_played_picture_hides_the_secrets_of_the_run(play, site):
    site.put("/", PAGE)
    words = element("Words", "text", id="shown")
    check = {"property": "text", "comparison": "contains", "expected": "${secret.pin}"}
    notes = play(
        Step("s1", "check", words.id, check), elements=[words], secrets={"pin": "kiln-4711"}
    )
    assert notes.outcome == "passed"
    plain = play(Step("s1", "check", words.id, check | {"expected": "pin"}), elements=[words])
    shown = Box(0, 40, 400, 40)
    assert sharpness(notes.pictures[-1], shown) < sharpness(plain.pictures[-1], shown) / 2


def test_the_live_picture_hides_secrets_but_not_the_dots_of_a_password(chromium, site):
    site.put("/", PAGE.replace("width: 400px }", "width: 400px; display: block }"))
    shown, field, dots = Box(0, 40, 400, 40), Box(0, 84, 400, 36), Box(4, 132, 390, 30)

    def looks(redactor):
        context = chromium.new_session()
        page = context.open_page()
        page.navigate(site.address + "/", 10)
        live = Live(context, always=True, redactor=redactor)
        until(lambda: live.last and sharpness(live.last, dots) > 5, "a whole picture")
        told = [sharpness(live.last, box) for box in (shown, field, dots)]
        page.call("Runtime.evaluate", expression="shown.textContent = 'the pin is gone'")
        until(lambda: sharpness(live.last, shown) > 20, "what is no secret is shown again")
        live.close()
        context.close()
        return told

    plain, redacted = looks(None), looks(Redactor(lambda: ["kiln-4711"]))
    assert redacted[0] < plain[0] / 2
    assert redacted[1] < plain[1] / 2
    assert abs(redacted[2] - plain[2]) < 3


def test_a_page_that_can_not_say_where_secrets_are_is_not_shown_until_it_can(page):
    page.show(PAGE.replace("width: 400px }", "width: 400px; display: block }"))
    picture = page.picture()
    redactor, shown = Redactor(lambda: ["kiln-4711"]), []
    queue = RedactionQueue(redactor, lambda _, redacted: shown.append(redacted))
    page.post("Runtime.evaluate", expression="alert('The kiln is hot')")
    until(lambda: page.dialog, "the dialog")
    with pytest.raises(BrowserError):
        redactor.over(page, picture)
    queue.take(page, picture)
    assert not shown
    page.answer_dialog(True)
    until(lambda: shown, "shown once the page can answer")
    queue.close()
    secret = Box(0, 40, 400, 40)
    assert sharpness(shown[0], secret) < sharpness(picture, secret) / 2


def test_looking_for_no_secrets_takes_no_closed_root_from_who_looks_for_elements(page):
    """Nodes that may hold one are told of once."""
    page.show("<x-pin style='display:block'></x-pin>")
    hiding(page, [])
    page.probe("handleAt", "x-pin", 0)
    assert page.probe("unsure")
