"""What comes late, moves or is still being made is waited for while a test is played."""

import pytest

from tests.core.samples import element, step
from tests.station.samples import OUT, SAVE, TELL, check, failure


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


FLEES = """<style>button { position: absolute; left: 20px; top: 60px }</style>
    <button onclick="out.textContent = 'deleted'">Delete</button><button id=save>Save</button>
    <p id=out>-</p><script>
    addEventListener('pointermove', () => { save.style.left = '500px' })</script>"""


def test_a_press_that_met_something_else_is_no_passed_sentence(play, site):
    """What was aimed at went away under the pointer: what lay below it was pressed."""
    site.put("/", FLEES)
    failed = failure(play(step("press", SAVE), elements=[SAVE, OUT]))
    assert failed.reason == "not ready"
    assert "The press on “Save” went to button “Delete”" in failed.message


def test_what_comes_over_a_thing_when_it_is_pointed_at_is_no_miss(play, site):
    site.put(
        "/",
        f"""<style>#card {{ position: relative; width: 300px }} #shade {{ display: none;
        position: absolute; inset: 0 }} #card:hover #shade {{ display: block }}</style>
        <div id=card {TELL}><h2>Save</h2><div id=shade></div></div><p id=out>-</p>""",
    )
    card = element("Save", "heading")
    notes = play(step("press", card), check("pressed true"), elements=[card, OUT])
    assert notes.outcome == "passed", [(one.reason, one.message) for one in notes.results]


def test_what_only_changes_its_looks_is_not_waited_for(play, site):
    site.put(
        "/",
        f"""<style>button {{ animation: glow 2s 1, turn 40s infinite }}
        @keyframes glow {{ from {{ opacity: .5 }} to {{ opacity: 1 }} }}
        @keyframes turn {{ from {{ color: red }} to {{ color: blue }} }}</style>
        <button {TELL}>Save</button><p id=out>-</p>""",
    )
    notes = play(step("press", SAVE), check("pressed true"), elements=[SAVE, OUT], limit=1.5)
    assert notes.outcome == "passed", [(one.reason, one.message) for one in notes.results]


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


def test_a_number_that_is_not_there_yet_is_waited_for(play, site):
    """An empty price is no number; what nothing can be compared with is told at once."""
    site.put("/", "<p id=out></p><script>setTimeout(() => out.textContent = '7.30', 400)</script>")
    more = {"property": "text", "comparison": "is at least"}
    notes = play(step("check", OUT, expected="7", **more), elements=[OUT])
    assert notes.outcome == "passed", [(r.sentence, r.reason, r.message) for r in notes.results]
    notes = play(step("check", OUT, expected="much", limit=60.0, **more), elements=[OUT])
    assert "no number in “much”" in failure(notes).message
