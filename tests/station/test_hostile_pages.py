"""Many events, and pages that make it hard: nothing is lost, and errors say what to do."""

import json

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.model import Step
from lantern.station.inspecting import find, learn
from lantern.station.looking import survey
from tests.station.test_round_trip import Recording, desk, until  # noqa: F401 - a fixture


@pytest.fixture
def recording(chromium, database, desk):  # noqa: F811
    desk.reset()
    made = Recording(chromium, database, desk)
    yield made
    made.stage.close()


def test_five_hundred_fast_actions_are_five_hundred_sentences(recording):
    """As fast as the page takes them, with no pause between: ticks, radios, presses, typing."""
    recording.start()
    hand = recording.hand
    hand.open("/bench")
    until(lambda: len(recording.sentences(0)) == 5, "the bench opened")
    parts = ("wax", "oxidation", "wax", "reduction", "vent")
    places = {part: hand.place(part) for part in parts}
    for number in range(500):
        at = places[parts[number % len(parts)]]
        for kind, held in (("mousePressed", 1), ("mouseReleased", 0)):
            hand.mouse(kind, at, button="left", buttons=held, count=1)
    until(lambda: len(recording.sentences(5)) >= 500, "500 sentences", 60)
    recording.finish()
    sentences = recording.sentences(5)
    assert len(sentences) == 500
    for start in range(0, 500, 5):
        wax = "Tick Wax the foot", "Untick Wax the foot"
        assert sentences[start : start + 5] == [
            wax[0], "Tick Oxidation", wax[1], "Tick Reduction", "Press Vent",
        ]  # fmt: skip


BREAKERS = """<script>
Array.prototype.map = () => { throw new Error('no map') }
Array.prototype.push = function () { return 0 }
JSON.stringify = () => 'hostile'
Element.prototype.getAttribute = () => 'hostile'
window.lantern = { lookup: () => 'mine' }
Object.defineProperty(window, 'lanternReport', { value: () => {}, writable: false })
</script>"""


def test_a_page_that_overrides_built_ins_is_recognised_all_the_same(page):
    page.show(f"{BREAKERS}<button id=save>Save</button><a href=/x>Leave</a>")
    names = [facts.name for facts in survey(page) if facts.name]
    assert names == ["Save", "Leave"]
    assert learn(page, "//button").element.clues[0].value == "Save"


def test_a_strict_content_security_policy_does_not_keep_the_probe_out(page):
    policy = "<meta http-equiv=Content-Security-Policy content=\"default-src 'none'\">"
    page.show(f"{policy}<button>Save</button>")
    assert [facts.name for facts in survey(page)] == ["Save"]


def test_text_of_the_page_is_never_taken_for_anything_but_text(play, site):
    text = "</script><img src=x onerror=alert(1)>${secret.x} “quoted” \\u0000 ]]>"
    site.put("/", f"<button aria-label='{text.replace(chr(39), '')}'>x</button>")
    it = Element("e", "It", "button", (Clue("name", "starts with", "</script>"),))
    played = play(Step("a", "press", "e"), elements=[it])
    assert played.outcome == "passed", played.results


def test_a_list_of_five_thousand_options(play, site):
    options = "".join(f"<option>Glaze {n}</option>" for n in range(5000))
    site.put("/", f"<label>Glaze <select>{options}</select></label>")
    it = Element("e", "Glaze", "choice list", (Clue("label", "is", "Glaze"),))
    steps = [
        Step("a", "choose", "e", {"option": "Glaze 4321"}),
        Step("b", "check", "e", {"property": "selected option", "comparison": "is",
                                 "expected": "Glaze 4321"}),
    ]  # fmt: skip
    assert play(*steps, elements=[it], limit=5).outcome == "passed"


def test_a_page_of_twenty_megabytes(page):
    page.show(f"<main>{'<p>clay and cone</p>' * 900}</main><pre>{'x' * 20_000_000}</pre>"
              "<button>Save</button>")  # fmt: skip
    page.quiet(0.2, 20)
    nodes = survey(page)
    assert nodes[-1].name == "Save"
    assert max(len(facts.text) for facts in nodes) <= 400


def test_an_element_of_a_frame_that_vanished_is_not_found(page):
    page.show("<iframe srcdoc='<button>Mix</button>'></iframe><button>Save</button>")
    page.quiet(0.2, 5)
    it = Element("e", "Mix", "button", (Clue("name", "is", "Mix"),))
    assert find(page, it, 3, repair=False).verdict.word == "finds it"
    page.call("Runtime.evaluate", expression="document.querySelector('iframe').remove()")
    found = find(page, it, 1, repair=True)
    assert found.verdict.word == "finds nothing"
    assert not any(one.high for one in found.proposals)


def test_a_page_that_navigates_in_the_middle_of_a_pick(recording):
    hand = recording.hand
    hand.open("/sign-in")
    recording.said.clear()
    hand.page.post("Page.reload")
    for _ in range(20):
        recording.stage.take({"type": "pick", "x": 640, "y": 300})
        recording.stage.take({"type": "repick", "x": 640, "y": 300})
    hand.page.quiet(0.2, 5)
    recording.stage.take({"type": "pick", "x": 640, "y": 300})
    assert recording.said[-1]["type"] in ("picked", "error", "state")
    json.dumps(recording.said)


def test_a_press_that_did_nothing_is_marked_and_one_that_did_is_not(recording):
    recording.start()
    hand = recording.hand
    hand.open("/talk")

    def marked():
        document, _ = recording.document()
        return [step.idle for step in document.steps[5:]]

    hand.press("idle")
    until(lambda: marked() == [True], "the press that did nothing marked")
    hand.press("load")
    until(lambda: len(marked()) == 2, "the second press")
    hand.page.quiet(1.0, 5)
    assert marked() == [True, False]
    recording.finish()


def test_recording_goes_on_behind_the_sentence_that_was_played_up_to(recording):
    recording.start()
    recording.hand.open("/board")
    until(lambda: len(recording.sentences(0)) == 5, "five sentences")
    recording.stage.take({"type": "record", "on": False})
    document, _ = recording.document()
    recording.stage.take({"type": "play to", "step": document.steps[3].id, "record": True})
    until(lambda: recording.stage.recording, "recording again", 20)
    assert recording.hand.page.address.endswith("/quote")
    recording.hand.press("rush")
    recording.hand.press("ask")
    until(lambda: len(recording.sentences(0)) == 7, "two more")
    recording.finish()
    assert recording.sentences() == ["Tick Rush", "Press Get a quote", "Open “/board”"]
