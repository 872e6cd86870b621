"""Many events, and pages that make it hard: nothing is lost, and errors say what to do."""

import json

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.problems import BadInput
from lantern.core.steps.model import Step
from lantern.station.inspecting import find, learn
from lantern.station.looking import survey
from lantern.store import files, tests
from tests.station.test_round_trip import Recording, desk, until  # noqa: F401 - a fixture


@pytest.fixture
def recording(chromium, database, desk):  # noqa: F811
    desk.reset()
    made = Recording(chromium, database, desk)
    yield made
    made.stage.close()


CYCLE = (
    ("wax", "left", 1, "Wax the foot"),
    ("oxidation", "left", 1, "Tick Oxidation"),
    ("litres", "left", 1, ""),
    ("text", "7", 1, "Litres"),
    ("reduction", "left", 1, "Tick Reduction"),
    ("vent", "left", 1, "Press Vent"),
    ("stir", "left", 2, "Press Stir twice"),
    ("finish", "left", 1, ""),
    ("finish Matt", "left", 1, "Choose “Matt” in Finish"),
    ("bucket", "right", 1, "Press Bucket with the right button"),
    ("(#tools option:nth-child(2))", "left", 1, "Choose “Tongs” in Tools"),
    ("(#tools option:nth-child(1))", "left", 1, "Choose “Brush” in Tools"),
)
"""What is done, how, how often, and what the sentence says; "" for what leaves none."""

SHOW = "for (const one of document.querySelectorAll('.context, #finish-list')) one.hidden = {}"


def test_five_hundred_fast_actions_are_five_hundred_sentences(recording):
    """As fast as the page takes them, with no pause between, over widgets of every sort."""
    recording.start()
    hand = recording.hand
    hand.open("/bench")
    until(lambda: len(recording.sentences(0)) == 5, "the bench opened")
    hand.page.call("Runtime.evaluate", expression="scrollTo(0, 0)")
    hand.page.call("Runtime.evaluate", expression=SHOW.format("false"))
    places = {part: at_rest(hand, part) for part, *_ in CYCLE if part != "text"}
    hand.page.call("Runtime.evaluate", expression=SHOW.format("true"))
    said = [words for *_, words in CYCLE if words]
    for _ in range(50):
        for part, button, count, _words in CYCLE:
            if part == "text":
                hand.stage.take({"type": "text", "text": button})
                continue
            for number in range(1, count + 1):
                for kind in ("mousePressed", "mouseReleased"):
                    held = {"left": 1, "right": 2}[button] if kind == "mousePressed" else 0
                    hand.mouse(kind, places[part], button=button, buttons=held, count=number)
    wanted = 50 * len(said)
    assert wanted == 500
    until(lambda: len(recording.sentences(5)) >= wanted, f"{wanted} sentences", 90)
    recording.finish()
    sentences = recording.sentences(5)
    assert len(sentences) == wanted
    for start in range(0, wanted, len(said)):
        for sentence, words in zip(sentences[start : start + len(said)], said, strict=True):
            assert words in sentence, (start, sentences[start : start + len(said)])


def at_rest(hand, part):
    """Where the middle of a part is, without scrolling; what covers it does not matter."""
    selector = part[1:-1] if part.startswith("(") else f'[data-part="{part}"]'
    found = hand.page.call(
        "Runtime.evaluate",
        expression=f"(() => {{ const b = document.querySelector({selector!r})"
        ".getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2] })()",
        returnByValue=True,
    )
    return found["result"]["value"]


def test_a_page_that_rewrites_itself_with_every_press(chromium, database, site):
    """The node that was pressed is gone before the event is looked at by anyone."""
    site.put(
        "/",
        "<main></main><script>let n = 0; const draw = () => document.querySelector('main')"
        ".innerHTML = `<p>${n++}</p><button onclick='draw()'>Fire</button>`; draw()</script>",
    )
    recording = Recording(chromium, database, site)
    recording.stage.take({"type": "record", "on": True})
    recording.hand.open("/")
    for _ in range(20):
        recording.hand.press("(button)")
    until(lambda: len(recording.sentences(1)) == 20, "20 sentences")
    assert set(recording.sentences(1)) == {"Press Fire"}
    recording.finish()


def test_a_file_that_is_too_large_is_refused_and_nothing_kept(database):
    with database.session() as session:
        made = tests.create(session, "With files", 1, None).id
    large = b"0" * (files.LARGEST + 1)
    with database.session() as session, pytest.raises(BadInput, match="up to 25 MB"):
        files.put(session, made, "kiln.iso", large)
    with database.session() as session:
        assert not files.listed(session, made)


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
