"""Many events, and pages that make it hard: nothing is lost, and errors say what to do."""

import json

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.problems import BadInput
from lantern.core.steps.model import Step
from lantern.core.steps.sentences import sentence
from lantern.station.inspecting import find, learn
from lantern.station.lookup import survey
from lantern.store import files, models, tests
from lantern.store.vault import Vault
from tests.station.test_round_trip import (
    CASES,
    Recording,
    desk,  # noqa: F401 - a fixture
    until,
)


@pytest.fixture
def recording(running, database, desk):  # noqa: F811
    desk.reset()
    made = Recording(running, database, desk)
    yield made
    made.stage.close()


BENCH = (
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

CONES = [(f"use {cone}", "left", 1, f"Use cone {cone}") for cone in ("10", "6", "1", "04")]
MIX = "Press Mix in the row where Recipe is “{}”"
MIXES = [
    (f"mix {name}", "left", 1, MIX.format(name))
    for name in ("Snow shino", "Iron tenmoku", "Pine ash", "Copper oribe")
]
MENUS = [
    (f"menu of {name}", "left", 1, f"Press Menu in the row where Piece is “{name}”")
    for name in ("Moon jar", "Tea caddy", "Tea caddy", "Moon jar")
]
CARRIED = [
    ("witness cone", "Back peephole", 0, "Drag Witness cone to Back peephole"),
    ("witness cone", "Front peephole", 0, "Drag Witness cone to Front peephole"),
]
TAKES = "a row's menu"
PLACES = {
    "/bench": (20, BENCH),
    "/chart": (15, [*CONES, ("curve", "left", 1, "Press Firing curve")]),
    "/recipes": (15, [*MIXES, ("order frit", "left", 1, "Press Order frit")]),
    "/board": (10, MENUS),
    "/shelves": (10, CARRIED),
}
"""By page: how many rounds, and what is done in each; frames and shadow roots among them."""


def test_five_hundred_fast_actions_are_five_hundred_sentences(recording):
    """As fast as the pages take them, with no pause between, over every widget of the desk.

    What a page must first show (dialogs, windows, new pages) is waited for, as anyone has to.
    """
    recording.start()
    wanted = []
    for path, (rounds, acts) in PLACES.items():
        opened(recording, path, wanted)
        many(recording.hand, acts, rounds)
        wanted += [words for *_, words in acts if words] * rounds
        arrived(recording, wanted)
    # The case that takes a firing away comes last: others use that firing.
    for _name, (path, acts, sentences) in sorted(CASES.items(), key=lambda one: TAKES in one[0]):
        opened(recording, path, wanted)
        for act in acts:
            act(recording.hand)
        wanted += sentences
        arrived(recording, wanted)
    assert len(wanted) >= 500
    recording.finish()
    sentences = recording.sentences()
    for number, (told, words) in enumerate(zip(sentences, wanted, strict=False)):
        assert words in told, (number, sentences[number - 3 : number + 3])
    assert len(sentences) == len(wanted), sentences[len(wanted) :]


def opened(recording, path, wanted):
    recording.hand.open(path)
    wanted.append(f"Open “{path}”")
    arrived(recording, wanted)
    recording.hand.page.quiet(0.2, 5)


def arrived(recording, wanted):
    """Wait until as many sentences are there; say which came at the end when they do not."""
    done = 4 + len(wanted)
    until(
        lambda: recording.count() >= done,
        lambda: (done, wanted[-6:], recording.sentences(0)[-8:]),
        240,
    )


def many(hand, acts, rounds):
    """Do everything again and again, without waiting for anything."""
    hand.page.call("Runtime.evaluate", expression=SHOW.format("false"))
    parts = {part for part, *_ in acts if part != "text"}
    places = {part: at_rest(hand, part) for part in parts}
    hand.page.call("Runtime.evaluate", expression=SHOW.format("true"))
    for _ in range(rounds):
        fast(hand, acts, places)


def fast(hand, acts, places):
    """Do everything once: press so often with a button, type, or carry something there."""
    for part, how, count, _words in acts:
        if part == "text":
            hand.stage.take({"type": "text", "text": how})
        elif not count:
            hand.rest()  # it lies elsewhere once the page has answered
            carry(hand, at_rest(hand, part), at_rest(hand, how))
        for number in range(1, count + 1 if part != "text" else 1):
            for kind in ("down", "up"):
                held = {"left": 1, "right": 2}[how] if kind == "down" else 0
                hand.mouse(kind, places[part], button=how, buttons=held, count=number)


def carry(hand, start, end):
    hand.mouse("move", start)
    hand.mouse("down", start, button="left", buttons=1, count=1)
    for share in (0.1, 0.5, 1):
        at = [a + (b - a) * share for a, b in zip(start, end, strict=True)]
        hand.mouse("move", at, button="left", buttons=1)
    hand.mouse("up", end, button="left", count=1)


def at_rest(hand, part):
    """Where the middle of a part is, without scrolling; what covers it does not matter."""
    selector = part[1:-1] if part.startswith("(") else f'[data-part="{part}"]'
    page = hand.page
    for frame in page.frames():
        handle = page.probe("handleAt", selector, 0, frame=frame)
        if handle:
            box = page.probe("describe", handle, frame=frame)["facts"]["box"]
            dx, dy = page.frame_offset(frame)
            return box["x"] + box["width"] / 2 + dx, box["y"] + box["height"] / 2 + dy
    raise AssertionError(f"no {part} on the page")


def test_a_page_that_rewrites_itself_with_every_press(running, database, site):
    """The node that was pressed is gone before the event is looked at by anyone."""
    site.put(
        "/",
        "<main></main><script>let n = 0; const draw = () => document.querySelector('main')"
        ".innerHTML = `<p>${n++}</p><button onclick='draw()'>Fire</button>`; draw()</script>",
    )
    recording = Recording(running, database, site)
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


PLAIN = """
<button data-part=idle>Nothing</button>
<button data-part=load onclick="document.body.append('done')">Load</button>
"""


def test_a_press_that_did_nothing_is_marked_and_one_that_did_is_not(recording, site):
    site.put("/", PLAIN)
    recording.start(member=False)
    hand = recording.hand
    hand.open(site.address)

    def marked():
        document, _ = recording.document()
        return [step.idle for step in document.steps if step.action == "press"][1:]

    hand.press("idle")
    until(lambda: marked() == [True], "the press that did nothing marked")
    hand.press("load")
    until(lambda: len(marked()) == 2, "the second press")
    hand.page.quiet(1.0, 5)
    assert marked() == [True, False]
    recording.finish()


def test_a_page_that_listens_everywhere_is_never_said_to_have_done_nothing(recording):
    """The desk listens at its document: what its script made of a press nobody can see."""
    recording.start()
    hand = recording.hand
    hand.open("/talk")
    hand.press("idle")
    hand.press("load")
    until(lambda: len(recording.sentences(5)) == 2, "both presses")
    hand.page.quiet(1.0, 5)
    document, _ = recording.document()
    assert not any(step.idle for step in document.steps)
    recording.finish()


POLLING = """
<button data-part=nothing>Nothing</button>
<button data-part=ask onclick="fetch('/asked')">Ask</button>
<script>setInterval(() => fetch('/poll').catch(() => 0), 150)</script>
"""


def test_what_a_page_asks_for_by_itself_is_not_the_effect_of_a_press(recording, site):
    site.put("/", POLLING)
    recording.start(member=False)
    hand = recording.hand
    hand.open(site.address)

    def marked():
        document, _ = recording.document()
        return [step.idle for step in document.steps if step.action == "press"][1:]

    asked = site.count("/poll")
    until(lambda: site.count("/poll") > asked + 20, "the page polling")
    hand.press("nothing")
    until(lambda: marked() == [True], "the press that did nothing marked")
    hand.press("ask")
    until(lambda: site.count("/asked") == 1, "the page asking")
    until(lambda: len(marked()) == 2, "the second press")
    polled = site.count("/poll")
    until(lambda: site.count("/poll") > polled + 8, "a while")
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


def test_pointing_into_a_frame_picks_what_is_in_it(recording):
    recording.start()
    recording.hand.open("/recipes")
    recording.hand.page.quiet(0.2, 5)
    x, y = recording.hand.place("mix Pine ash")
    recording.said.clear()
    recording.stage.take({"type": "pick", "x": x, "y": y})
    picked = next(one for one in recording.said if one["type"] == "picked")
    assert picked["name"] == "Mix"
    assert abs(picked["box"]["x"] + picked["box"]["width"] / 2 - x) < 2
    recording.stage.take({"type": "repick", "x": x, "y": y})
    element = recording.said[-1]["element"]
    recording.stage.take({"type": "try", "element": element})
    assert recording.said[-1]["word"] == "finds it"


def test_a_check_added_after_recording_in_between_stands_at_the_end(recording):
    recording.start()
    document, _ = recording.document()
    recording.stage.take({"type": "record", "on": False})
    recording.stage.take({"type": "record", "on": True, "after": document.steps[0].id})
    recording.hand.press("rush")
    until(lambda: "Tick Rush" in recording.sentences(0), "the sentence in between")
    recording.stage.take({"type": "record", "on": False})
    recording.stage.take({"type": "pick", "x": 640, "y": 40})
    check = {"property": "shown", "comparison": "is", "expected": "yes"}
    until(lambda: recording.keeper.after is None, "recording ended")
    recording.stage.take({"type": "checks", "checks": [check]})
    assert recording.sentences(0)[1] == "Tick Rush"
    assert recording.sentences(0)[-1].endswith("is shown")


def test_what_was_pointed_at_is_kept_and_waited_for(recording):
    """Keep and wait from the panel of checks: names that are free, then played."""
    recording.start()
    hand = recording.hand
    hand.open("/bench")
    x, y = hand.place("stir")
    recording.stage.take({"type": "pick", "x": x, "y": y})
    shown = [{"property": "text", "comparison": "is", "expected": "Stir"}]
    for _ in range(2):
        recording.stage.take({"type": "checks", "checks": shown, "as": "keep"})
    recording.stage.take({"type": "checks", "checks": shown, "as": "wait until"})
    recording.finish()
    document, known = recording.document()
    assert [sentence(step, known) for step in document.steps[5:]] == [
        "Keep the text of Stir as “stir”",
        "Keep the text of Stir as “stir_2”",
        "Wait until the text of Stir is “Stir”",
    ]
    played = recording.play()
    assert played.outcome == "passed"
    assert played.results[5].kept == {"stir": "Stir"}


def test_a_secret_that_the_page_shows_is_kept_nowhere(recording, site, database):
    """A page that says the password aloud: not in elements, saved pages or results."""
    with database.session() as session:
        environment = tests.get(session, recording.test).environment_id
        Vault().put(session, environment, "pin", "kiln-4711")
    site.put("/said", "<button title='kiln-4711'>Pin kiln-4711</button><p>kiln-4711</p>")
    hand = recording.hand
    hand.open("/sign-in")
    recording.stage.take({"type": "record", "on": True})
    hand.open(f"{site.address}/said")
    hand.press("(button)")
    until(lambda: len(recording.sentences(0)) == 2, "the press")
    recording.stage.take({"type": "still"})
    recording.finish()
    with database.session() as session:
        kept = [row.body for row in session.query(models.Element)]
        kept += [page.nodes for page in session.query(models.SavedPage)]
        kept += [version.body for version in session.query(models.Version)]
    assert "kiln-4711" not in json.dumps(kept)
    assert recording.play().outcome == "passed"


def test_a_download_that_would_fill_the_disk_is_broken_off(play, site, monkeypatch):
    monkeypatch.setattr("lantern.browser.files.LARGEST_DOWNLOAD", 100_000)
    site.put("/big", "x" * 30_000_000)
    site.put("/", "<a href=/big download=big.txt>Take it</a>")
    it = Element("e", "Take it", "link", (Clue("name", "is", "Take it"),))
    played = play(
        Step("a", "press", "e"),
        Step("b", "download", "", {"name": "big.txt"}),
        elements=[it],
        limit=8,
    )
    assert played.outcome == "failed"
    assert "failed" in played.results[-1].message
