"""Elements: recorded wherever they are, picked from a still, edited, repaired after a redesign."""

import json
import urllib.request

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.edits import Insert
from lantern.core.steps.model import Step
from lantern.store import elements, tests
from tests.ui.pages import VIEWPORT, until
from tests.ui.test_pointing import keep
from tests.ui.test_work import make_test

PLACES = """
const [selectors] = arguments
const found = {}
const walk = (root, dx, dy) => {
  for (const selector of selectors) {
    const node = root.querySelector(selector)
    if (!node || found[selector]) continue
    const box = node.getBoundingClientRect()
    if (box.width) found[selector] = [dx + box.x + box.width / 2, dy + box.y + box.height / 2]
  }
  for (const node of root.querySelectorAll('*')) {
    if (node.shadowRoot) walk(node.shadowRoot, dx, dy)
    if (node.tagName !== 'IFRAME') continue
    try {
      const { x, y } = node.getBoundingClientRect()
      walk(node.contentDocument, dx + x + node.clientLeft, dy + y + node.clientTop)
    } catch { }
  }
}
walk(document, 0, 0)
return found
"""


class Map:
    """Where things are on the Kiln Desk's pages, read from a second window, frames included."""

    def __init__(self, lantern):
        self.lantern, self.driver = lantern, lantern.driver
        self.home = self.driver.current_window_handle
        self.driver.switch_to.new_window("window")
        self.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": VIEWPORT[0], "height": VIEWPORT[1], "deviceScaleFactor": 1, "mobile": False},
        )
        self.other = self.driver.current_window_handle
        self.driver.get(f"{lantern.stack.desk_address}/sign-in")
        fields = ["#member", "#password", "#enter"]
        found = self.driver.execute_script(PLACES, fields)
        self.sign_in = [found[one] for one in fields]
        self.driver.find_element(By.ID, "member").send_keys("mara")
        self.driver.find_element(By.ID, "password").send_keys("wheel-and-kiln" + Keys.ENTER)
        until(lambda: self.driver.find_elements(By.ID, "piece"), "the quote form")
        self.back()

    def back(self):
        self.driver.switch_to.window(self.home)

    def places(self, path, *selectors, script=""):
        self.driver.switch_to.window(self.other)
        self.driver.get(self.lantern.stack.desk_address + path)
        self.driver.execute_script(script)
        found = until(
            lambda: (
                len(got := self.driver.execute_script(PLACES, selectors)) == len(selectors) and got
            ),
            f"{selectors} on {path}",
        )
        self.back()
        return [found[one] for one in selectors]


def signed_in_on_stage(lantern, where):
    member, password, enter = where.sign_in
    lantern.open_on_stage("/sign-in")
    lantern.story_has("Open /sign-in")
    lantern.click_stage(*member)
    lantern.type_stage("mara")
    lantern.story_has("Type mara into Member name")
    lantern.click_stage(*password)
    lantern.type_stage("wheel-and-kiln")
    lantern.click_stage(*enter)
    lantern.story_has("Press Sign in")
    lantern.stage_at("/quote")


def desk_state(lantern):
    with urllib.request.urlopen(f"{lantern.stack.desk_address}/state", timeout=5) as answer:
        return json.load(answer)["said"]


PIXEL = """
const [x, y] = arguments
const canvas = document.querySelector('[data-role=picture] canvas')
return [...canvas.getContext('2d').getImageData(x, y, 1, 1).data].slice(0, 3)
"""


def dark(lantern, x, y):
    """Whether the stage shows something dark at a place of the page: a button, not paper."""
    return sum(lantern.driver.execute_script(PIXEL, x, y)) < 300


NEWEST = "return fetch('/api/runs').then((r) => r.json()).then((all) => all.runs[0] ?? {id: 0})"


def run_and_wait(lantern):
    """Run the test that is open; returns how its run ended."""
    before = lantern.driver.execute_script(NEWEST)["id"]
    lantern.press("Run")

    def ended():
        run = lantern.driver.execute_script(NEWEST)
        return run["id"] > before and run["state"] in ("passed", "failed") and run["state"]

    return until(ended, "the run to end", 60)


def test_recording_reaches_frames_shadows_files_menus_and_drags(lantern, tmp_path):
    """Each widget by the mouse on the stage; then all of it plays again on a fresh desk."""
    lantern.sign_in()
    where = Map(lantern)
    mix, note = where.places("/recipes", "tbody tr:nth-child(3) button", "#note")
    (use,) = where.places("/chart", "[data-value='6']")
    piece, shelf = where.places("/shelves", "#p2", "[data-shelf='Top shelf']")
    (top,) = where.places("/bench", ".hovers .top")
    photo, send = where.places("/files", "#photo", "main form .act")
    question, text = where.places("/talk", "[data-talk=question]", "[data-talk=text]")
    lantern.new_test("Every corner")
    lantern.record()
    signed_in_on_stage(lantern, where)

    # A frame, and a frame in it.
    lantern.open_on_stage("/recipes")
    until(lambda: "/recipes" in lantern.sentences()[-1], "the recipes")
    until(lambda: dark(lantern, mix[0] - 24, mix[1] - 10), "the frame on the stage")
    lantern.click_stage(*mix)
    lantern.story_has("Press Mix in the row where Recipe is “Snow shino”")
    lantern.click_stage(*note)
    lantern.type_stage("less iron")
    lantern.story_has("Type less iron into Your note")

    # Nested shadow roots.
    lantern.open_on_stage("/chart")
    until(lambda: "/chart" in lantern.sentences()[-1], "the chart")
    lantern.click_stage(*use)
    lantern.story_has("Open /chart", "Press Use cone 6")

    # Dragging a piece onto a shelf.
    lantern.open_on_stage("/shelves")
    until(lambda: "/shelves" in lantern.sentences()[-1], "the shelves")
    drag(lantern, piece, shelf)
    lantern.story_has("Open /shelves", "Drag Tea caddy to Top shelf")

    # A menu that shows only under the mouse.
    lantern.open_on_stage("/bench")
    until(lambda: "/bench" in lantern.sentences()[-1], "the bench")
    lantern.at(*top).pause(0.3).perform()  # as long as it takes to see the menu
    below = (top[0] + 30, top[1] + 40)
    lantern.at(*below).perform()
    lantern.click_stage(*below)
    lantern.story_has("Open /bench", "Point at Workshop", "Press Book the wheel")

    # A file is given, and kept with the test; a download is taken.
    picture = tmp_path / "moon-jar.png"
    picture.write_bytes(b"a picture of a moon jar")
    lantern.open_on_stage("/files")
    until(lambda: "/files" in lantern.sentences()[-1], "the files")
    lantern.click_stage(*photo)
    field = until(
        lambda: next(
            (e for e in lantern.all("[data-role=picture] input[type=file]") if e.is_displayed()),
            None,
        ),
        "the question for a file",
    )
    field.send_keys(str(picture))
    lantern.story_has("Open /files", "Give the file moon-jar.png to Photo")
    lantern.click_stage(*send)
    lantern.story_has("Give the file moon-jar.png to Photo", "Press Send the photo")
    until(lambda: "file moon-jar.png" in desk_state(lantern), "the file at the desk")
    lantern.open_on_stage("/files?again")
    until(lambda: "again" in lantern.sentences()[-1], "the files again")
    (prices,) = where.places("/files", "main p a")  # below the file that was given
    lantern.click_stage(*prices)
    lantern.story_has("Press Price list (CSV)", "Take the download price-list.csv")

    # Browser dialogs are answered with Lantern's own.
    lantern.open_on_stage("/talk")
    until(lambda: "/talk" in lantern.sentences()[-1], "the talk")
    lantern.click_stage(*question)
    lantern.one("[role=alertdialog]")
    lantern.press("OK")
    lantern.story_has("Press Light the kiln", "Answer the dialog with OK")
    lantern.click_stage(*text)
    lantern.fill("[role=alertdialog] input", "Ember 7")
    lantern.press("OK")
    lantern.story_has("Press Name the firing", "Answer the dialog with OK Ember 7")
    lantern.press("Stop")

    lantern.press("Files")
    assert "moon-jar.png" in lantern.one("[data-role=files]").text
    wanted = desk_state(lantern)
    assert len(wanted) == 7
    lantern.stack.reset_desk()
    assert run_and_wait(lantern) == "passed", lantern.driver.find_element(By.TAG_NAME, "body").text
    until(lambda: desk_state(lantern) == wanted, "the same in the end")


def drag(lantern, start, end):
    lantern.at(*start).click_and_hold().perform()
    for share in (0.1, 0.4, 0.7, 1, 1):
        point = [a + (b - a) * share for a, b in zip(start, end, strict=True)]
        lantern.at(*point).perform()
    ActionChains(lantern.driver).release().perform()


def on_the_board(lantern, name):
    """A test whose stage shows the firing board."""
    steps = [
        Step("s1", "open", inputs={"address": "/sign-in"}),
        Step("s2", "type", "demo-member", {"text": "mara"}, page="Sign in - Kiln Desk"),
        Step(
            "s3",
            "type",
            "demo-password",
            {"text": "${secret.mara_password}"},
            page="Sign in - Kiln Desk",
        ),
        Step("s4", "press", "demo-enter", page="Sign in - Kiln Desk"),
        Step("s5", "open", inputs={"address": "/board"}),
    ]
    test = make_test(lantern.stack, name, *steps)
    lantern.go(f"/tests/{test}")
    lantern.one("[aria-label=Stage][data-phase=open]", 40)
    lantern.choose(5)
    lantern.tool("Play up to here")
    lantern.stage_at("/board")
    until(lambda: lantern.button("Still").is_enabled(), "playing to end")
    return test


def test_a_still_gives_several_checks_and_an_action_at_once(lantern):
    lantern.sign_in()
    on_the_board(lantern, "From a still")
    lantern.press("Still")
    lantern.one("[data-role=still] [role=option]")

    # Filtered by text and kind, each lit on the picture when pointed at.
    lantern.fill("[aria-label='Search this page']", "Moon jar")
    until(lambda: 1 < len(lantern.all("[data-role=still] [data-node]")) < 15, "what is like it")
    options = lantern.all("[data-role=still] [data-node]")
    ActionChains(lantern.driver).move_to_element(options[1]).perform()
    lantern.one("[data-role=lit]")

    # Several at once: one check for each.
    for one in options[1:4]:
        one.click()
    assert len(lantern.all("[data-role=mark]")) == 3
    keep(lantern, "still")
    lantern.press("Add 3 sentences")
    until(lambda: len(lantern.sentences()) == 8, "three more sentences")
    assert all("Check that the text" in one for one in lantern.sentences()[-3:])

    # One thing, done on the stage at once; then the page is frozen anew.
    lantern.fill("[aria-label='Search this page']", "Menu")
    lantern.press_one("[aria-label=Kinds] button", "button")
    until(lambda: len(lantern.all("[data-role=still] [data-node]")) == 4, "the menus")
    lantern.press_one("[data-role=still] [data-node]")
    Select(lantern.one("[aria-label='What to do']")).select_by_visible_text("Press")
    lantern.one("[data-role=still-act] input[type=checkbox]").click()
    before = lantern.nth("[data-role=still] [data-node]", 0).get_attribute("data-node")
    assert before
    lantern.sees("alone on this page")
    before_it = lantern.one("[data-role=picture-of-still]").size["width"]
    lantern.press("Full width")
    until(
        lambda: lantern.one("[data-role=picture-of-still]").size["width"] > before_it * 1.3,
        "a larger picture",
    )
    keep(lantern, "still-large")
    lantern.press("Show the story")
    lantern.fill("[aria-label='Name of the element']", "Row menu")
    lantern.press("Add the sentence")
    lantern.story_has("Press Row menu in the row where Piece is “Moon jar”")
    until(lambda: lantern.button("New still").is_enabled(), "the sentence to be carried out")
    picked = "[data-role=still] [data-node][aria-selected=true]"
    until(lambda: not lantern.all(picked), "the new still")
    lantern.press_one("[aria-label=Kinds] button", "button")
    until(lambda: not lantern.all("[aria-label=Kinds] [aria-pressed=true]"), "all kinds")
    lantern.fill("[aria-label='Search this page']", "Open ticket")
    until(lambda: lantern.all("[data-role=still] [data-node]"), "the open menu in the new still")
    lantern.press("Back to the stage")
    assert run_and_wait(lantern) == "passed"


def clue_row(lantern, place):
    return lantern.nth("[data-role=clue]", place)


def test_the_element_editor_tells_what_each_change_finds(lantern):
    lantern.sign_in()
    stack = lantern.stack
    made = Element(
        "editor-search",
        "Search",
        "button",
        (Clue("name", "is", "Search"),),
        page="Firing board - Kiln Desk",
    )
    with stack.database.session() as session:
        elements.save(session, made)
    on_the_board(lantern, "Editing an element")
    with stack.database.session() as session:
        test = int(lantern.driver.current_url.split("/tests/")[1])
        step = Step("s6", "press", "editor-search", page="Firing board - Kiln Desk")
        tests.edit(session, test, Insert((step,)), None)
    lantern.story_has("Press Search")
    lantern.press("Search")
    lantern.press("Edit how it is recognised")

    def verdict(words):
        until(lambda: lantern.one("[data-role=verdict]").text == words, f"the verdict {words}")

    verdict("finds it")
    value = "[aria-label='Value of name']"
    lantern.fill(value, "Sea")
    verdict("finds nothing")
    Select(clue_row(lantern, 0).find_element(By.CSS_SELECTOR, "select")).select_by_visible_text(
        "starts with"
    )
    verdict("finds it")
    lantern.fill(value, "M")
    verdict("finds 4")
    assert len(lantern.all("[data-role=shone]")) == 4

    # An expression that does not compile says so, and nothing is saved.
    Select(clue_row(lantern, 0).find_element(By.CSS_SELECTOR, "select")).select_by_visible_text(
        "matches"
    )
    lantern.fill(value, "(Sea")
    lantern.sees("does not compile")
    assert not lantern.button("Save").is_enabled()

    # A run saves pages; the change is then tried against them as well.
    lantern.press("Give up")
    verdict("finds it")
    assert run_and_wait(lantern) == "passed"
    lantern.press("Element")
    until(lambda: "found on all" in lantern.one("[data-role=history]").text, "the history")
    lantern.fill(value, "Sign out")
    until(lambda: "lost on" in lantern.one("[data-role=history]").text, "lost in the history")
    lantern.press("Save")
    lantern.sees("another thing is found")
    lantern.press("No")
    lantern.fill(value, "search")
    clue_row(lantern, 0).find_element(By.CSS_SELECTOR, "label input").click()
    verdict("finds it")
    lantern.press("Save")
    lantern.sees("“Search” is changed in 1 test.")
    with stack.database.session() as session:
        kept = elements.load(session, ["editor-search"])["editor-search"]
    assert kept.clues == (Clue("name", "is", "search", loose=True),)


def test_an_element_is_repaired_after_a_redesign(lantern):
    """Plays on spring, breaks on summer; the proposal is accepted by a person, and it plays."""
    lantern.sign_in()
    stack = lantern.stack
    page = "Glaze bench - Kiln Desk"
    made = Element(
        "repair-finish", "Finish", "choice list", (Clue("id", "is", "finish"),), page=page
    )
    with stack.database.session() as session:
        elements.save(session, made)
    steps = [
        Step("s1", "open", inputs={"address": "/sign-in"}),
        Step("s2", "type", "demo-member", {"text": "mara"}),
        Step("s3", "type", "demo-password", {"text": "${secret.mara_password}"}),
        Step("s4", "press", "demo-enter"),
        Step("s5", "open", inputs={"address": "/bench"}),
        Step("s6", "choose", "repair-finish", {"option": "Celadon"}, page=page),
    ]
    test = make_test(stack, "Choosing a finish", *steps, limit=3)
    lantern.go(f"/tests/{test}")
    assert run_and_wait(lantern) == "passed"
    stack.reset_desk("summer")
    assert run_and_wait(lantern) == "failed"
    run = lantern.driver.execute_script(NEWEST)["id"]
    lantern.go(f"/runs/{run}")
    proposal = lantern.one("[data-role=proposal]")
    assert "Surface finish" in proposal.text
    assert "likely" in proposal.text
    assert len(lantern.all("section[aria-label=Repair] [data-role=lit]")) == 2
    lantern.one("[data-role=accept-repair]").click()
    lantern.sees("is repaired in “Choosing a finish”")
    lantern.go(f"/tests/{test}")
    assert run_and_wait(lantern) == "passed"


def test_titles_comments_and_what_did_nothing(lantern):
    lantern.sign_in()
    test = make_test(
        lantern.stack,
        "Tidied",
        Step("o", "open", inputs={"address": "/sign-in"}),
        Step("a", "press", "demo-enter", page="Sign in - Kiln Desk"),
        Step("b", "press", "demo-enter", page="Sign in - Kiln Desk", idle=True),
    )
    lantern.go(f"/tests/{test}")
    lantern.story_has("Open /sign-in", "Press Sign in", "Press Sign in did nothing")
    lantern.choose(2)
    lantern.tool("Title and comment")
    lantern.fill("[aria-label='Title of the sentence']", "Choose a glaze").send_keys(Keys.ENTER)
    lantern.sees("The title says “Choose a glaze”, but the sentence acts on “Sign in”.")
    lantern.fill("[aria-label='Comment on the sentence']", "As a member").send_keys(Keys.TAB)
    lantern.sees("As a member")
    lantern.sees("did nothing")
    lantern.press("Sweep 1")
    lantern.sees("3 · Press Sign in")  # what would be taken out, before it is
    lantern.one("[aria-label=Stage][data-phase=open]", 40)
    lantern.press("Play the rest first")
    lantern.sees("The rest plays without them.", 40)
    assert len(lantern.sentences()) == 3
    lantern.press("Take it out")
    until(lambda: len(lantern.sentences()) == 2, "it swept out")
