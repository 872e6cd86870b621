"""Playing on real pages: input that arrives, waiting, and failures that say why."""

import pytest

from lantern.browser.errors import CommandFailed
from lantern.core.engine.browsers import BROWSERS, ENGINES, USUAL
from lantern.core.steps.model import Step
from tests.core.samples import element, step
from tests.station.conftest import browser_of
from tests.station.samples import FIELD, LIST, OUT, SAVE, TELL, check, failure


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
    notes = play(step("type", FIELD, text="moja"), check("moja4"), elements=[FIELD, OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]
    notes = play(step("type", FIELD, text=""), check("", FIELD, "value"), elements=[FIELD, OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]


@pytest.mark.parametrize("engine", ["firefox"])  # Chromium does not tell
def test_a_text_that_nothing_takes_is_no_text_that_was_typed(engine, running, site):
    site.put("/", "<p>nothing to type into</p>")
    context = browser_of(engine, running).new_session(BROWSERS[USUAL])
    page = context.open_page()
    page.navigate(site.address + "/", 30)
    with pytest.raises(CommandFailed, match="takes a text"):
        page.type_text("Möja")
    context.close()


def told(play):
    """Whether the browser tells of what happens in a page from its beginning."""
    return ENGINES[play.engine].tells


def test_a_drag_out_of_the_window_does_not_count_as_done(play, site):
    site.put("/", "<button style='width: 90px'>Save</button>")
    drag = step("drag by", SAVE, right="3000", down="0")
    notes = play(drag, elements=[SAVE])
    if play.engine != "chromium":
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


KEPT_KEYS = "addEventListener('keydown', (e) => e.preventDefault(), true)"
ELSEWHERE = "list.onfocus = () => document.querySelector('input').focus()"
SET_BACK = "list.addEventListener('change', () => setTimeout(() => list.selectedIndex = 0))"
ANEW = """list.onfocus = () => { const other = list.cloneNode(true); other.onchange = list.onchange
    list.replaceWith(other) }"""


@pytest.mark.parametrize("page", [KEPT_KEYS, ELSEWHERE, SET_BACK, ANEW])
def test_an_option_is_chosen_once_also_where_its_key_does_not_reach_the_list(play, site, page):
    """Keys that a page keeps for itself must not leave the list at the option beside it."""
    site.put(
        "/",
        f"""<input><label>Clay <select id=list><option>Pick one<option>Stoneware<option>Raku
        </select></label><p id=out>none</p><script>let n = 0
        document.querySelector('select').onchange = (e) =>
          document.querySelector('p').textContent = `${{e.target.value}} ${{++n}}`
        {page}</script>""",
    )
    notes = play(step("choose", LIST, option="Raku"), check("Raku 1"), elements=[LIST, OUT])
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
    script = "console.error('kiln is cold'); fetch('/lost.png'); oops()"
    late = f'onclick="setTimeout(() => {{ {script} }})"' if not told(play) else ""
    early = f"<script>{script}</script>" if told(play) else ""
    site.put("/", f"<button {late}>Save</button>{early}")
    notes = play(
        step("press", SAVE), Step("q", "quiet", inputs={"milliseconds": "300"}), elements=[SAVE]
    )
    console = [line for lines, _ in notes.noise for line in lines]
    requests = [line for _, lines in notes.noise for line in lines]
    assert any("kiln is cold" in line for line in console)
    assert any("oops" in line for line in console)
    assert any(line.startswith("404 ") and "lost.png" in line for line in requests)


def test_a_cut_emoji_in_what_a_page_says_is_kept_as_unreadable(play, site):
    script = "const cut = 'glaze \\ud83d\\0'; out.textContent = cut; console.error(cut)"
    site.put("/", f'<button onclick="{script}">Save</button><p id=out></p>')
    notes = play(step("press", SAVE), check("shino"), elements=[SAVE, OUT])
    said = [failure(notes).message, *(line for lines, _ in notes.noise for line in lines)]
    assert len(said) == 2
    assert all("glaze \ufffd" in one for one in said), said
    "".join(said).encode()
    assert "\0" not in "".join(said)


def test_an_error_page_fails_the_opening_where_the_browser_tells_of_it(play, site):
    site.put("/", "<h1>Broken</h1>", status=500)
    if not ENGINES[play.engine].tells:
        assert any("error page" in one for one in ENGINES[play.engine].lacks)
        return
    assert failure(play()).message.endswith("answered with the error 500.")


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


def test_a_page_that_overrides_built_ins_and_forbids_scripts_is_played_all_the_same(play, site):
    if not ENGINES[play.engine].apart:
        pytest.skip(f"{play.engine} says that it can not")
    site.put(
        "/",
        """<meta http-equiv="Content-Security-Policy" content="default-src 'none'; script-src
        'unsafe-inline'"><script>JSON.stringify = () => 'no'; Array.prototype.map = () => 'no'
        Element.prototype.querySelectorAll = () => []; window.Set = null</script>
        <button>Save</button>""",
    )
    notes = play(step("press", SAVE), elements=[SAVE])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]
