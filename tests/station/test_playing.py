"""Playing on real pages: input that arrives, waiting, and failures that say why."""

import json
import os
import signal
import threading

import pytest

from lantern.browser import keys
from lantern.browser.engines import ENGINES
from lantern.browser.errors import CommandFailed
from lantern.core.engine.browsers import BROWSERS, USUAL, browser_named
from lantern.core.engine.browsers import ENGINES as ENGINES_DO
from lantern.core.engine.interpreter import Script
from lantern.core.steps.model import Document, Step
from lantern.core.values.sources import Names
from lantern.station.player import Cancelled, Player, Watcher
from tests.core.samples import element, step
from tests.station.conftest import browser_of
from tests.station.desk import until

SAVE = element("Save")
FIELD = element("Piece", "text box", label="Piece")
OUT = element("Out", "text", id="out")
LIST = element("Clay", "choice list", label="Clay")
TELL = "onclick=\"out.textContent = 'pressed ' + event.isTrusted\""


def check(expected, on=OUT, prop="text"):
    return step("check", on, property=prop, comparison="is", expected=expected)


def failure(notes):
    assert notes.outcome == "failed", notes.results
    return next(result for result in notes.results if result.outcome == "failed")


def test_a_press_is_a_trusted_one(play, site):
    site.put("/", f"<button {TELL}>Save</button><p id=out>-</p>")
    notes = play(step("press", SAVE), check("pressed true"), elements=[SAVE, OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]


def test_typing_replaces_what_was_there_and_sends_keys(play, site):
    site.put(
        "/",
        """<label>Piece <input value="old"></label><p id=out></p><script>
        let keys = 0; document.onkeydown = () => keys++
        document.querySelector('input').oninput = (e) => out.textContent = e.target.value + keys
        </script>""",
    )
    notes = play(step("type", FIELD, text="Möja x"), check("Möja x0"), elements=[FIELD, OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]
    notes = play(step("type", FIELD, text="Moja"), check("Moja4"), elements=[FIELD, OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]
    notes = play(step("type", FIELD, text=""), check("", FIELD, "value"), elements=[FIELD, OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]


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


@pytest.mark.parametrize("engine", ["firefox"])  # Chromium does not tell
def test_a_text_that_nothing_takes_is_no_text_that_was_typed(engine, running, site):
    site.put("/", "<p>nothing to type into</p>")
    context = browser_of(engine, running).new_session(BROWSERS[USUAL])
    page = context.open_page()
    page.navigate(site.address + "/", 30)
    with pytest.raises(CommandFailed, match="takes a text"):
        page.type_text("Möja")
    context.close()


def test_a_drag_out_of_the_window_does_not_count_as_done(play, site):
    site.put("/", "<button style='width: 90px'>Save</button>")
    drag = step("drag by", SAVE, right="3000", down="0")
    notes = play(drag, elements=[SAVE])
    if play.engine == "firefox":
        assert "outside of the window" in failure(notes).message
    else:
        assert notes.outcome == "passed"


@pytest.mark.parametrize("option", ["Earthenware", "Stoneware", "Raku"])
def test_choosing_fires_one_trusted_change(play, site, option):
    site.put(
        "/",
        """<label>Clay <select><option>Earthenware<option selected>Stoneware<option disabled>None
        <option>Raku</select></label><p id=out>Stoneware 0</p><script>
        let n = 0; document.querySelector('select').onchange = (e) =>
          out.textContent = `${e.target.value} ${++n} ${e.isTrusted}`</script>""",
    )
    expected = "Stoneware 0" if option == "Stoneware" else f"{option} 1 true"
    notes = play(step("choose", LIST, option=option), check(expected), elements=[LIST, OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]


def test_a_tick_box_drawn_by_its_label_is_ticked_there(play, site):
    site.put(
        "/",
        """<style>input { position: absolute; width: 0; height: 0; opacity: 0 }</style>
        <input type=checkbox id=rush><label for=rush>Rush</label>""",
    )
    rush = element("Rush", "tick box", label="Rush")
    notes = play(step("tick", rush), check("yes", rush, "ticked"), elements=[rush])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]


def test_what_comes_late_is_waited_for(play, site):
    site.put(
        "/",
        f"""<button onclick="begin()">Begin</button><p id=out>-</p><script>function begin() {{
        setTimeout(() => document.body.insertAdjacentHTML('beforeend',
          `<button id=late disabled {TELL}>Save</button>`), 500)
        setTimeout(() => late.disabled = false, 1500) }}</script>""",
    )
    begin = element("Begin")
    steps = step("press", begin), step("press", SAVE), check("pressed true")
    notes = play(*steps, elements=[begin, SAVE, OUT], limit=5)
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]
    assert notes.results[2].used > 0.5


def test_an_element_that_moves_is_pressed_where_it_comes_to_rest(play, site):
    site.put(
        "/",
        f"""<style>button {{ position: absolute; animation: go .6s linear }}
        @keyframes go {{ from {{ left: 0 }} to {{ left: 700px }} }}</style>
        <button {TELL}>Save</button><p id=out>-</p>""",
    )
    notes = play(step("press", SAVE), check("pressed true"), elements=[SAVE, OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]


@pytest.mark.parametrize("where", ["page", "frame"])
def test_what_late_styles_move_is_pressed_where_they_put_it(play, site, where):
    """A browser lays a page out before its styles are there; a press would meet nothing."""
    tell = "out.textContent = `pressed ${event.isTrusted} ${room.clientHeight}`"
    moved = f"""<link rel=stylesheet href=/late.css><div id=room></div>
        <button onclick="{tell}">Save</button><p id=out>-</p>"""
    site.pages["/late.css"] = (200, "#room { height: 200px }")
    site.late["/late.css"] = 0.6
    site.put("/inner", moved)
    site.put("/", moved if where == "page" else "<iframe src=/inner width=600 height=400></iframe>")
    notes = play(step("press", SAVE), check("pressed true 200"), elements=[SAVE, OUT])
    assert notes.outcome == "passed", [(one.reason, one.message) for one in notes.results]


def test_what_a_late_script_of_a_frame_does_is_waited_for(play, site):
    tell = "document.querySelector('button').onclick = () => out.textContent = 'pressed true'"
    site.put("/", "<iframe src=/inner width=600 height=400></iframe>")
    inner = "<script defer src=/late.js></script><button>Save</button><p id=out>-</p>"
    site.put("/inner", inner)
    site.pages["/late.js"] = (200, tell)
    site.late["/late.js"] = 0.6
    notes = play(step("press", SAVE), check("pressed true"), elements=[SAVE, OUT])
    assert notes.outcome == "passed", [(one.reason, one.message) for one in notes.results]


def test_something_far_down_is_scrolled_to(play, site):
    site.put("/", f"<p id=out>-</p><div style='height:4000px'></div><button {TELL}>Save</button>")
    notes = play(step("press", SAVE), check("pressed true"), elements=[SAVE, OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]


@pytest.mark.parametrize(
    ("html", "reason", "words"),
    [
        ("<button>Saves</button>", "not found", "nearest thing there is “Saves”"),
        ("<button>Save</button><button>Save</button>", "found several", "found 2 times"),
        ("<button disabled>Save</button>", "not ready", "disabled"),
        ("<button style='visibility:hidden'>Save</button>", "not ready", "not shown"),
        (
            "<button>Save</button><div id=veil style='position:fixed;inset:0'>Please wait</div>",
            "not ready",
            "covered by div “Please wait”",
        ),
    ],
)
def test_a_failure_says_why(play, site, html, reason, words):
    site.put("/", html)
    failed = failure(play(step("press", SAVE), elements=[SAVE], limit=0.6))
    assert failed.reason == reason
    assert words in failed.message
    assert failed.picture


def test_the_pages_own_errors_and_failed_requests_are_kept(play, site):
    site.put("/", "<button>Save</button><script>console.error('kiln is cold'); oops()</script>"
                  "<img src=/lost.png>")  # fmt: skip
    notes = play(step("press", SAVE), elements=[SAVE])
    console = [line for lines, _ in notes.noise for line in lines]
    requests = [line for _, lines in notes.noise for line in lines]
    assert any("kiln is cold" in line for line in console)
    assert any("oops is not defined" in line for line in console)
    assert any(line.startswith("404 ") and "lost.png" in line for line in requests)


def test_a_cut_emoji_in_what_a_page_says_is_kept_as_unreadable(play, site):
    script = "const cut = 'glaze \\ud83d\\0'; out.textContent = cut; console.error(cut)"
    site.put("/", f"<button>Save</button><p id=out></p><script>{script}</script>")
    notes = play(step("press", SAVE), check("shino"), elements=[SAVE, OUT])
    said = [failure(notes).message, *(line for lines, _ in notes.noise for line in lines)]
    assert len(said) == 2
    assert all("glaze \ufffd" in one for one in said), said
    "".join(said).encode()
    assert "\0" not in "".join(said)


def test_an_error_page_fails_the_opening(play, site):
    site.put("/", "<h1>Broken</h1>", status=500)
    assert failure(play()).message.endswith("answered with the error 500.")


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


@pytest.mark.parametrize(
    ("script", "answer", "text", "expected"),
    [
        ("confirm('Delete?')", "OK", "", "true"),
        ("confirm('Delete?')", "Cancel", "", "false"),
        ("prompt('Name?', 'x')", "OK", "Moon jar", "Moon jar"),
        ("prompt('Name?')", "Cancel", "", "null"),
        ("alert('Done')", "OK", "", "undefined"),
    ],
)
def test_browser_dialogs_are_answered(play, site, script, answer, text, expected):
    site.put("/", f"<button onclick=\"out.textContent = '' + {script}\">Save</button><p id=out>-")
    dialog = step("dialog", answer=answer, text=text)
    notes = play(step("press", SAVE), dialog, check(expected), elements=[SAVE, OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]
    assert notes.results[2].found in ("Delete?", "Name?", "Done")


def test_an_unanswered_dialog_is_said_by_the_next_step(play, site):
    site.put("/", "<button onclick=\"confirm('Delete?')\">Save</button>")
    failed = failure(play(step("press", SAVE), step("press", SAVE), elements=[SAVE]))
    assert "The page asks “Delete?”" in failed.message


def test_new_windows_are_gone_to_by_an_open_number_and_closed_again(play, site):
    site.put("/", "<a href=/ticket target=_blank>Save</a><button>Back</button>")
    site.put("/ticket", "<title>Firing no. 12</title><h1>Ticket</h1>")
    site.pages["/ticket"] = (200, site.pages["/ticket"][1].replace("<title>Test page</title>", ""))
    link, heading, back = element("Save", "link"), element("Ticket", "heading"), element("Back")
    notes = play(
        step("press", link),
        step("window", window="Firing no. #"),
        check("yes", heading, "shown"),
        step("close window", window="Firing no. #"),
        step("press", back),
        elements=[link, heading, back],
    )
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]


def test_elements_in_frames_and_shadow_roots_are_reached(play, site):
    site.put(
        "/",
        """<iframe src=/inner style="margin: 60px; width: 500px; height: 200px"></iframe>
        <div id=host></div><script>
        host.attachShadow({mode: 'open'}).innerHTML =
          '<button onclick="this.textContent = `Kept`">Keep</button>'</script>""",
    )
    site.put("/inner", f"<button {TELL}>Save</button><p id=out>-</p>")
    keep, kept = element("Keep"), element("Kept")
    notes = play(
        step("press", SAVE),
        check("pressed true"),
        step("press", keep),
        check("yes", kept, "shown"),
        elements=[SAVE, OUT, keep, kept],
    )
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]


def test_what_is_in_a_frame_is_pressed_only_where_input_reaches_it(play, site):
    """A frame knows neither that it is out of view nor that something lies over it."""
    site.put("/inner", "<button onclick=\"parent.out.textContent = 'kept'\">Keep</button>")
    frame = "<iframe src=/inner style='width: 300px; height: 200px'></iframe>"
    far = f"<p id=out>-</p><div style='height: 2000px'></div>{frame}<div style='height: 2000px'>"
    keep = element("Keep")
    site.put("/", far)
    for scrolled in ("", "<script>onload = () => scrollTo(0, 4000)</script>"):
        site.put("/", far + scrolled)
        notes = play(step("press", keep), check("kept"), elements=[keep, OUT])
        assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]
    over = "<div style='position: fixed; inset: 0; background: #ccc'>Please wait</div>"
    site.put("/", f"<p id=out>-</p>{frame}{over}")
    notes = play(step("press", keep), elements=[keep, OUT], limit=0.6)
    assert "is covered" in failure(notes).message


def test_a_drag_whose_ends_are_never_seen_together_is_told(play, site):
    """Looking for the rack scrolls the jar away: what would be carried is something else."""
    far = "<div style='height: 3000px'></div>"
    carried = "onmousedown=\"out.textContent = 'carried'\""
    site.put(
        "/", f"<p id=out>-</p><div id=jar {carried}>Jar</div>{far}<div id=rack>Rack</div>{far}"
    )
    jar, rack = element("jar", "text", id="jar"), element("rack", "text", id="rack")
    carry = Step("s1", "drag", jar.id, onto=rack.id)
    notes = play(carry, elements=[jar, rack, OUT])
    assert "do not fit into the window together" in failure(notes).message
    assert notes.context.current.run_script("return out.textContent", 5).gave["value"] == "-"


def test_a_number_that_is_not_there_yet_is_waited_for(play, site):
    """An empty price is no number; what nothing can be compared with is told at once."""
    site.put("/", "<p id=out></p><script>setTimeout(() => out.textContent = '7.30', 400)</script>")
    more = {"property": "text", "comparison": "is at least"}
    notes = play(step("check", OUT, expected="7", **more), elements=[OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]
    notes = play(step("check", OUT, expected="much", limit=60.0, **more), elements=[OUT])
    assert "no number in “much”" in failure(notes).message


def test_a_page_that_overrides_built_ins_and_forbids_scripts_is_played_all_the_same(play, site):
    site.put(
        "/",
        """<meta http-equiv="Content-Security-Policy" content="default-src 'none'; script-src
        'unsafe-inline'"><script>JSON.stringify = () => 'no'; Array.prototype.map = () => 'no'
        Element.prototype.querySelectorAll = () => []; window.Set = null</script>
        <button>Save</button>""",
    )
    notes = play(step("press", SAVE), elements=[SAVE])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]


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
    site.put("/", "<button onclick=\"document.title='pressed'\">Press</button>")
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
