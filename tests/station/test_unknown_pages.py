"""What recording makes of pages that do things their own way, and what the stage shows of them."""

import threading

import pytest

from lantern.core.engine.browsers import ENGINES
from tests.station.desk import until
from tests.station.test_round_trip import Recording


@pytest.fixture
def recording(running, database, site):
    class Here:
        address = site.address

    made = Recording(running, database, Here)
    made.stage.take({"type": "record", "on": True})
    made.hand.open("/")
    yield made
    if made.stage.recording._thread.is_alive():
        made.finish()


def opened(recording, site, html):
    site.put("/", html)
    recording.hand.open("/")
    return recording.hand


def said(recording, *wanted):
    until(lambda: recording.sentences(2) == [*wanted], lambda: recording.sentences(2))


SWAPPED = """
<div data-part=open id=box style="width:200px;height:40px;background:#eee">Pick a clay</div>
<p id=out></p>
<script>
box.onmousedown = () => {
  box.outerHTML = '<ul id=list style="margin-top:90px"><li data-part=raku>Raku<li>Grog</ul>'
  list.onmouseup = (e) => { out.textContent = e.target.textContent; list.innerHTML = '' } }
</script>
"""


def test_nodes_that_are_swapped_between_press_and_release_are_pressed_as_they_were(recording, site):
    """No click ever reaches anything that lasts: the press is told by where it began."""
    hand = opened(recording, site, SWAPPED)
    at = hand.place("open")
    hand.mouse("move", at)
    hand.mouse("down", at, button="left", buttons=1, count=1)
    hand.rest()
    hand.mouse("up", at, button="left", count=1)
    hand.rest()
    hand.press("raku")
    said(recording, "Press Pick a clay", "Press Raku")


PICKER = """
<label>Fired on <input data-part=day id=day readonly></label>
<div id=cal hidden><button>15</button></div>
<label>Plain <input data-part=plain></label>
<button data-part=end onclick="this.textContent='done'">End</button>
<script>day.onfocus = () => cal.hidden = false</script>
"""


def test_the_focus_that_opens_something_is_an_act_and_one_that_does_not_is_none(recording, site):
    hand = opened(recording, site, PICKER)
    hand.press("day")
    hand.press("plain")
    hand.press("end")
    said(recording, "Press Fired on", "Press End")


COUNTING = """
<button data-part=quiet>Quiet</button>
<button data-part=counts onclick="window.n = (window.n || 0) + 1">Counts</button>
"""


def test_a_press_that_a_script_listens_to_is_never_said_to_have_done_nothing(recording, site):
    """The page only counts in a variable: nobody can see that, so it is not certain."""
    hand = opened(recording, site, COUNTING)
    hand.press("counts")
    hand.press("quiet")

    def idle():
        document, _ = recording.document()
        return [step.idle for step in document.steps[2:]]

    until(lambda: idle() == [False, True], idle)


CLOSED = """
<p>Welcome</p><cookie-note></cookie-note>
<script>
customElements.define('cookie-note', class extends HTMLElement {
  connectedCallback() {
    const root = this.attachShadow({ mode: 'closed' })
    root.innerHTML = '<button style="position:fixed;left:40px;top:200px">Only needed ones</button>'
    root.firstChild.onclick = () => this.remove()
  }
})
</script>
"""


def test_a_notice_in_a_closed_shadow_root_is_recorded_and_played(recording, site):
    hand = opened(recording, site, CLOSED)
    page = hand.page
    until(lambda: page.probe("at", 60, 210, "button")["tag"] == "button", "the root handed over")
    hand.mouse("move", (60, 210))
    for kind, held in (("down", 1), ("up", 0)):
        hand.mouse(kind, (60, 210), button="left", buttons=held, count=1)
    hand.rest()
    said(recording, "Press Only needed ones")
    recording.finish()
    for engine, does in ENGINES.items():
        notes = recording.outcome(engine=engine)
        apart = any("closed shadow roots" in lack for lack in does.lacks)
        assert (notes.outcome == "failed") == apart, engine


WINDOW = """<button data-part=open onclick="window.open('/plan')">Plan in a window</button>"""


def test_a_check_in_a_window_that_came_up_by_itself_goes_there_first(recording, site):
    site.put("/plan", "<title>Kiln plan</title><h1 data-part=head>Top shelf is free</h1>")
    hand = opened(recording, site, WINDOW)
    hand.press("open")
    until(lambda: len(recording.stage.context.pages) == 2, "the window")
    x, y = hand.place("head")
    recording.stage.take({"type": "pick", "x": x, "y": y})
    check = {"property": "shown", "comparison": "is", "expected": "yes"}
    recording.stage.take({"type": "checks", "checks": [check]})
    until(lambda: len(recording.sentences(2)) == 3, lambda: recording.sentences(2))
    pressed, went, checked = recording.sentences(2)
    assert pressed == "Press Plan in a window"
    assert went.startswith("Go to the window")
    assert "is shown" in checked or "shown" in checked
    recording.finish()
    recording.play()


def test_what_is_done_in_a_titled_frame_is_done_on_the_page_that_it_is_in(recording, site):
    """The window is gone to by its own title, and its tab has that as soon as it is known."""
    titled = "<script>document.title = '{}'</script>{}"
    site.put("/pay", titled.format("Pay", "<button data-part=pay>Pay now</button>"))
    site.put("/plan", titled.format("Kiln plan", "<iframe src=/pay></iframe>"))
    hand = opened(recording, site, WINDOW)
    hand.press("open")
    until(lambda: len(recording.stage.context.pages) == 2, "the window")
    until(
        lambda: recording.stage.live.state()["windows"][1]["title"] == "Kiln plan",
        lambda: recording.stage.live.state(),
    )
    hand.press("pay")
    said(recording, "Press Plan in a window", "Go to the window “Kiln plan”", "Press Pay now")
    assert recording.stage.live.state()["windows"][1]["title"] == "Kiln plan"
    recording.finish()
    recording.play()


TAKEN = """
<label>Password <input type=password data-part=pin></label><output id=out></output>
<label>Code <input data-part=code></label>
<script>
for (const field of document.querySelectorAll('input')) field.onkeydown = (event) => {
  if (event.key.length > 1) return
  event.preventDefault()
  field.value += event.key
}
</script>
"""


def test_letters_that_a_page_takes_itself_are_keys_but_never_those_of_a_password(recording, site):
    hand = opened(recording, site, TAKEN)
    hand.press("pin")
    for letter in "kiln":
        hand.key(letter, text=letter)
    hand.press("code")
    for letter in "07":
        hand.key(letter, text=letter)
    said(recording, "Press the key 0 7 in Code")


RENAMED = """
<input type=checkbox data-part=tick id=tick aria-label="Select row">
<p id=out></p>
<script>
tick.onclick = () => {
  const end = performance.now() + 800
  while (performance.now() < end);
  tick.ariaLabel = tick.checked ? 'Unselect row' : 'Select row'
  out.textContent = tick.checked }
</script>
"""


def test_a_box_that_is_renamed_by_its_press_is_known_by_the_name_it_had(recording, site):
    """However long the page takes over the press, and by keys as well."""
    hand = opened(recording, site, RENAMED)
    hand.press("tick")
    until(lambda: "Tick Select row" in recording.sentences(2), lambda: recording.sentences(2))
    hand.key(" ", text=" ")
    said(recording, "Tick Select row", "Untick Unselect row")


TABLE = """
<section aria-label=Firings><table><tr><th>Piece<th>Count<tr><td data-part=cell>Tea caddy<td>4
<tr><td>Bowl<td>2</table></section>
"""


def test_pointing_takes_in_more_around_a_thing_step_by_step(recording, site):
    hand = opened(recording, site, TABLE)
    x, y = hand.place("cell")
    tags = [hand.page.probe("at", x, y, "button", up)["tag"] for up in range(5)]
    assert tags[:3] == ["td", "tr", "table"] or tags[:4] == ["td", "tr", "tbody", "table"]
    assert "section" in tags


def test_the_stage_shows_a_last_change_that_the_browser_sent_no_picture_of(recording, site):
    """A busy browser leaves pictures out; then what the page shows in the end is asked for."""
    hand = opened(recording, site, "<body style='background:#fff'>")
    live, page = recording.stage.live, hand.page
    until(lambda: live.last, "a first picture")
    page.on_picture = lambda picture: None  # from now on none comes by itself
    before = live.last
    shown = threading.Event()
    show = live._show

    def noted(which, picture):
        show(which, picture)
        if picture != before:
            shown.set()

    live._show = live._redacting._show = noted
    page.call("Runtime.evaluate", expression="document.body.style.background = '#a63'; 1")
    assert shown.wait(5)


EDITOR = """
<div contenteditable data-part=letter aria-label=Letter style="min-height:60px;width:400px"></div>
<button data-part=send onclick="out.textContent = letter.innerText">Send</button>
<output id=out></output>
<script>const letter = document.querySelector('[contenteditable]')</script>
"""


def test_lines_written_in_an_editor_are_played_as_lines(recording, site):
    hand = opened(recording, site, EDITOR)
    hand.press("letter")
    hand.text("Dear members")
    hand.key("Enter")
    hand.text("Kiln is hot")
    hand.press("send")
    said(
        recording,
        "Type “Dear members” into Letter",
        "Press the key Enter in Letter",
        "Go on typing “Kiln is hot” in Letter",
        "Press Send",
    )
    recording.finish()
    recording.play()


MENU = """
<style>body{margin:0;min-height:1600px}</style>
<button data-part=open onclick="menu.hidden=false">Options</button>
<div id=menu hidden style="position:absolute;left:200px;top:0"><a href=#>Edit</a></div>
<p id=out>open</p>
<script>
addEventListener('pointerdown', (e) => {
  if (menu.hidden || menu.contains(e.target)) return
  menu.hidden = true
  out.textContent = 'closed' })
</script>
"""


def beside(recording, site):
    hand = opened(recording, site, MENU)
    hand.press("open")
    at = (640.0, 500.0)
    hand.mouse("move", at)
    hand.mouse("down", at, button="left", buttons=1, count=1)
    hand.mouse("up", at, button="left", count=1)
    said(recording, "Press Options", "Press the page at 50% 62.5%")
    return recording


def test_a_press_on_nothing_that_closes_a_menu_is_one_on_the_page(recording, site):
    """It is known by being the page, not by all the words that the page shows at that moment."""
    beside(recording, site).finish()
    site.put("/", MENU.replace("<p id=out>", "<h1>New week</h1><button>More</button><p id=out>"))
    recording.play()


def test_a_press_on_nothing_is_not_made_where_something_is_by_now(recording, site):
    beside(recording, site).finish()
    place = "position:fixed;left:500px;top:400px;width:300px;height:200px"
    taken = f'<button style="{place}">Pay</button>'
    site.put("/", MENU.replace("<p id=out>", taken + "<p id=out>"))
    assert "Pay" in recording.failure()


OPENS_AT_ONCE = """
<button data-part=open id=trigger>Options</button><p id=out></p>
<script>
trigger.onpointerdown = () => { if (document.getElementById('menu')) return
  const menu = document.createElement('div')
  menu.id = 'menu'
  menu.style = 'position:absolute;left:300px;top:100px;padding:20px'
  menu.innerHTML = '<button data-part=edit>Edit</button>'
  menu.onclick = () => { out.textContent = 'edited'; menu.remove() }
  document.body.append(menu) }
</script>
"""


def test_a_menu_that_opens_as_soon_as_it_is_pressed_needs_no_pointing(recording, site):
    hand = opened(recording, site, OPENS_AT_ONCE)
    old = {"expression": "performance.now() > 1700", "returnByValue": True}
    until(lambda: hand.page.call("Runtime.evaluate", **old)["result"]["value"], "loaded long ago")
    hand.press("open")
    hand.press("edit")
    said(recording, "Press Options", "Press Edit")
