"""Pages that make it hard: nothing is lost, and errors say what to do."""
# ruff: noqa: F811 - fixtures are imported, and asked for by their names

import json

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.engine.browsers import BROWSERS
from lantern.core.problems import BadInput
from lantern.core.steps.model import Step
from lantern.core.steps.sentences import sentence
from lantern.station.inspecting import find, learn
from lantern.station.lookup import survey
from lantern.store import files, models, tests
from lantern.store.vault import Vault
from tests.station.conftest import browser_of
from tests.station.test_round_trip import (
    Recording,
    desk,  # noqa: F401 - a fixture
    recording,  # noqa: F401 - a fixture
    until,
)


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
    until(lambda: recording.stage.recording.on, "recording again", 20)
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


def test_a_page_that_answers_for_the_scripts_of_lantern_is_not_believed(running, site):
    """Where they run among those of the page, it can find them."""
    site.put(
        "/",
        """<button onclick="confirm('a\\u2063lantern\\u2063[1')">Ask</button><script>
        setInterval(() => { for (const name of Object.getOwnPropertyNames(window)) {
          try { window[name].drain = () => 'nonsense' } catch {}
          try { if (name[0] === '_') window[name] = null } catch {} } }, 5)</script>""",
    )
    session = browser_of("webkit", running).new_session(BROWSERS["webkit"])
    try:
        page = session.open_page()
        assert page.navigate(f"{site.address}/", 10)[1] == ""
        page.run_script("document.title = 'Kilns'", 5)
        page.drain()
        assert page.title == "Kilns"
        button = page.probe("lookup", {"selector": "button", "clues": [], "aim": False})
        at = page.probe("aim", button["candidates"][0]["handle"], None)
        page.press(at["x"], at["y"])
        told = page.answer_dialog(True)
        assert (told.type, told.message) == ("confirm", "a\u2063lantern\u2063[1")
        page.dialog_opens("a\u2063lantern\u2063[1")
        assert (page.dialog.type, page.dialog.message) == ("alert", "a\u2063lantern\u2063[1")
    finally:
        session.close()


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
