"""The stage: what no picture shows, what is recorded of it, and what survives."""

import http.server
import os
import signal
import threading

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from lantern.store import tests
from lantern.store.models import Environment
from tests.ui.desk_map import DeskMap
from tests.ui.pages import until

MENU = "Press Menu in the row where Piece is “Breakfast bowls”"


def test_menus_dialogs_and_new_windows_are_recorded_and_play_again(lantern):
    """Lantern's own controls serve where the picture shows nothing; then it all plays again."""
    lantern.sign_in()
    desk = DeskMap(lantern)
    lantern.new_test("Ticket and delete")
    lantern.record()
    lantern.sign_in_on_stage(desk)
    lantern.open_on_stage("/board")
    lantern.story_has("Open /board")

    # A row is known by what it says, not by its place.
    lantern.click_stage(*desk["[data-opens=menu-2]"])
    lantern.story_has("Open /board", MENU)
    lantern.click_stage(*desk["menu-2 a"])
    lantern.story_has(MENU, "Press Open ticket in the row where Piece is “Breakfast bowls”")

    # The ticket opens in a window of its own; its title's number stays open.
    until(lambda: len(lantern.all("[aria-label=Windows] [aria-current]")) == 2, "2 tabs")
    until(lambda: "Firing no. 2" in lantern.one("[aria-label=Windows]").text, "the tab's title")
    lantern.press("Check")
    lantern.at(640, 90).perform()
    lantern.click_stage(120, 110)
    lantern.one("[data-role=check-panel]")
    lantern.press("Close")
    lantern.click_stage(110, 470)
    until(lambda: "Go to the window Firing no. #" in lantern.sentences(), "the window's sentence")
    tabs = lantern.all("[aria-label=Windows] [aria-current]")
    tabs[0].click()
    lantern.stage_at("/board", desk["[data-opens=menu-2]"])

    # Deleting asks; the question is answered by Lantern's own dialog.
    lantern.click_stage(*desk["[data-opens=menu-2]"])
    until(lambda: lantern.sentences()[-1] == MENU, "the menu again")
    lantern.click_stage(*desk["menu-2 button"])
    dialog = lantern.one("[role=alertdialog]")
    assert "Delete the firing of Breakfast bowls?" in dialog.text
    lantern.press("OK")
    until(lambda: lantern.sentences()[-1] == "Answer the dialog with OK", "the answer")
    lantern.press("Stop")

    lantern.stack.reset_desk()
    lantern.press("Run")
    state = until(
        lambda: (s := lantern.one("[data-role=run-state]").text) in ("passed", "failed") and s,
        "the run's end",
        60,
    )
    assert state == "passed", lantern.driver.find_element(By.TAG_NAME, "body").text


def test_sentences_are_deleted_and_undone_at_once_while_recording(lantern):
    lantern.sign_in()
    desk = DeskMap(lantern)
    lantern.new_test("Undo while recording")
    lantern.record()
    lantern.sign_in_on_stage(desk)
    lantern.choose(2)
    lantern.tool("Delete")
    until(lambda: len(lantern.sentences()) == 3, "one sentence less")
    lantern.press("Undo")
    until(lambda: len(lantern.sentences()) == 4, "all sentences again")

    # What is done in a pause is not recorded; then it goes on.
    lantern.press("Pause")
    lantern.one("[aria-label=Stage][data-recording=false]")
    lantern.click_stage(*desk["rush"])
    lantern.press("Resume")
    lantern.one("[aria-label=Stage][data-recording=true]")
    lantern.click_stage(*desk["rush"])
    until(lambda: lantern.sentences()[-1] == "Untick Rush", "the second click only")
    assert len(lantern.sentences()) == 5

    # Order, switching off and copying, by keyboard.
    lantern.choose(5)
    focused = lantern.driver.switch_to.active_element
    focused.send_keys(Keys.ALT, Keys.ARROW_UP)
    until(lambda: lantern.sentences()[3] == "Untick Rush", "moved up")
    lantern.tool("Switch on or off")
    until(lambda: "switched off" in lantern.sentences()[3], "switched off")
    lantern.tool("Copy")
    until(lambda: len(lantern.sentences()) == 6, "a copy")


def test_killing_the_web_process_loses_nothing_that_was_recorded(lantern):
    lantern.sign_in()
    desk = DeskMap(lantern)
    lantern.new_test("Recorded before the crash")
    lantern.record()
    lantern.sign_in_on_stage(desk)
    web = lantern.stack.web
    os.killpg(web.pid, signal.SIGKILL)
    web.process.wait(10)
    try:
        lantern.sees("What was recorded is safe")
    finally:
        web.start()
    until(lantern.stack.healthy, "the web process again", 60)

    # The page takes its stage up again, in the same place, still recording.
    lantern.one("[aria-label=Stage][data-phase=open][data-recording=true]", 30)
    lantern.click_stage(*desk["rush"])
    lantern.story_has("Press Sign in", "Tick Rush")
    lantern.driver.refresh()
    until(lambda: lantern.sentences()[-1:] == ["Tick Rush"], "everything after a reload")
    assert len(lantern.sentences()) == 5


PAGE = """<!doctype html><title>Glaze</title><meta charset=utf-8>
<style>body { margin: 0 } input, p { position: absolute; left: 100px; width: 300px }</style>
<input type=file id=file style="top: 100px"><input id=note aria-label=Note style="top: 200px">
<p id=out style="top: 300px">nothing yet</p><p style="top: 400px">
&lt;img src=x onerror="parent.document.title='owned'"&gt;</p>
<script>
file.onchange = async () => {
  out.textContent = file.files[0].name + ': ' + await file.files[0].text()
}
</script>"""


@pytest.fixture
def glaze_page(stack):
    """A page that takes a file, as an environment of its own."""

    class Handler(http.server.BaseHTTPRequestHandler):
        def do_GET(self):
            self.send_response(200)
            self.send_header("Content-Type", "text/html")
            self.end_headers()
            self.wfile.write(PAGE.encode())

        def log_message(self, *_):
            pass

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    with stack.database.session() as session:
        address = f"http://127.0.0.1:{server.server_port}"
        environment = Environment(name=f"Glaze {server.server_port}", address=address)
        session.add(environment)
        session.flush()
        test = tests.create(session, f"Glaze {server.server_port}", environment.id, None)
    yield test.id
    server.shutdown()


def test_files_paste_and_hostile_text(lantern, glaze_page, tmp_path):
    """A file goes through Lantern's own chooser; text of the page never runs in Lantern."""
    file = tmp_path / "recipe.txt"
    file.write_text("ash white")
    lantern.sign_in()
    lantern.go(f"/tests/{glaze_page}")
    lantern.one("[data-role=open-start]", 40).click()
    until(lambda: not lantern.all("[data-role=open-start]"), "the page")
    lantern.record()
    lantern.click_stage(150, 110)
    chooser = lantern.one("[data-role=picture] input[type=file]")
    chooser.send_keys(str(file))
    until(lambda: not lantern.all("[data-role=picture] input[type=file]"), "the file given")

    lantern.click_stage(150, 210)
    lantern.driver.execute_script(
        """const data = new DataTransfer(); data.setData('text/plain', 'Möja — 釉')
        document.activeElement.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data}))"""
    )
    lantern.story_has("Type Möja — 釉 into Note")

    # The page got the file: point at what it says of it.
    lantern.press("Check")
    lantern.click_stage(150, 325)
    expected = lantern.one("[aria-label='Expected text']")
    until(lambda: expected.get_property("value") == "recipe.txt: ash white", "what the page says")
    lantern.press("Add the check")
    until(lambda: "recipe.txt" in lantern.sentences()[-1], "the check")

    lantern.press("Check")
    lantern.click_stage(150, 425)
    hostile = until(
        lambda: "onerror" in lantern.one("[aria-label='Expected text']").get_property("value"),
        "the hostile text",
    )
    assert hostile
    lantern.press("Add the check")
    until(lambda: "onerror" in lantern.sentences()[-1], "the hostile text as a value")
    assert lantern.driver.title == "Lantern"
    assert not lantern.all("[data-role=story] img[src=x]")
