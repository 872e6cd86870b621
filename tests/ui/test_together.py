"""Two people in one test: each takes back what is one's own; drafts and lost connections."""

from contextlib import contextmanager

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from sqlalchemy import delete

from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.edits import Change, Insert, Remove, SetCode
from lantern.core.steps.model import Step
from lantern.store import documents, elements, flows, models, tests
from tests.ui.pages import until
from tests.ui.test_conflicts import CUT, PIECE, have_open, piece, theirs, type_piece
from tests.ui.test_data import a_quote_that_pauses
from tests.ui.test_tables import with_rows
from tests.ui.test_work import values


def shown(person, text):
    until(lambda: person.one(PIECE).text == text, f"“{text}” in the sentence")


@contextmanager
def offline(person):
    """While nothing the page asks for gets through."""
    conditions = {"latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
    person.driver.execute_cdp_cmd("Network.enable", {})
    person.driver.execute_cdp_cmd(
        "Network.emulateNetworkConditions", conditions | {"offline": True}
    )
    try:
        yield
    finally:
        person.driver.execute_cdp_cmd(
            "Network.emulateNetworkConditions", conditions | {"offline": False}
        )


# -- undo ----------------------------------------------------------------------------------------


def test_undo_is_ones_own_and_asks_where_somebody_went_on_from_it(lantern, other, quote):
    before = piece(lantern.stack, quote)
    type_piece(lantern, "Mug").send_keys(Keys.ENTER)
    shown(other, "Mug")
    other.choose(1)
    other.tool("Switch on or off")
    other.sees("switched off")
    lantern.sees("switched off")
    lantern.press("Undo")
    shown(lantern, before)
    shown(other, before)
    assert "switched off" in other.one("[data-role=story]").text, "theirs stays"
    lantern.press("Redo")
    shown(other, "Mug")
    type_piece(other, "Vase").send_keys(Keys.ENTER)
    shown(lantern, "Vase")
    lantern.press("Undo")
    lantern.sees("Somebody went on from there")
    lantern.sees("(by Wren Halloway)")
    lantern.press("Leave it")
    until(lambda: not lantern.all("[data-role=question]"), "closed")
    assert piece(lantern.stack, quote) == "Vase"
    lantern.press("Undo")
    lantern.press("Take it back all the same")
    shown(other, before)


def test_switching_several_sentences_is_one_act_that_is_told(lantern, quote):
    lantern.choose(1)
    third = lantern.nth("li[data-step] > span:nth-child(2)", 2)
    held = ActionChains(lantern.driver).key_down(Keys.SHIFT).click(third).key_up(Keys.SHIFT)
    held.perform()
    lantern.tool("Switch on or off")
    until(lambda: lantern.one("[data-role=story]").text.count("switched off") >= 3, "three off")
    with lantern.stack.database.session() as session:
        newest = documents.versions(session, quote, None, 2)
        assert len(newest) == 2
        assert newest[0].summary.startswith("3 sentences changed")
    lantern.press("Undo")
    until(lambda: "switched off" not in lantern.one("[data-role=story]").text, "all on")


def test_comparing_versions_marks_what_differs_inside_a_sentence(lantern, quote):
    type_piece(lantern, "Moon jar, tall").send_keys(Keys.ENTER)
    until(lambda: piece(lantern.stack, quote) == "Moon jar, tall", "kept")
    lantern.press("Versions")
    until(lambda: len(lantern.all("[data-role=version]")) == 2, "both versions")
    first = lantern.nth("[data-role=version]", 0).text
    assert "Type “Moon jar” into Piece → Type “Moon jar, tall” into Piece" in first
    lantern.nth("[data-role=version]", -1).click()
    marks = "[data-role=change] [data-role=differs-here]"
    until(
        lambda: [e.text.strip() for e in lantern.all(marks)] == ["jar”", "jar, tall”"],
        "what differs",
    )
    assert "Type “Moon jar, tall” into Piece" in lantern.one("[data-role=change]").text


# -- elements ------------------------------------------------------------------------------------


@pytest.fixture
def asks(request, lantern):
    """The number of a test that uses the element of its name."""
    key = f"e-{abs(hash(request.node.name)) % 10**8}"
    with lantern.stack.database.session() as session:
        clue = Clue("id", "is", "ask")
        elements.save(session, Element(key, f"Ask {key}", "button", (clue,), page="Quote"))
        made = tests.create(session, request.node.name, 1, None).id
        tests.edit(session, made, Insert((Step("a", "press", key),)), None)
    return made, key


def edit_element(person, test):
    person.go(f"/tests/{test}")
    person.press_one("[data-step=a] button", "Ask")
    person.press("Edit how it is recognised")
    return person.one("[aria-label='Value of id']")


def clue_of(stack, key):
    with stack.database.session() as session:
        return elements.get(session, key).body["clues"][0]["value"]


def test_an_element_is_undone_in_the_workbench_and_has_a_history(lantern, asks):
    test, key = asks
    lantern.sign_in()
    edit_element(lantern, test)
    lantern.fill("[aria-label='Value of id']", "wrong")
    lantern.press("Save")
    until(lambda: clue_of(lantern.stack, key) == "wrong", "saved")
    lantern.choose(1)
    lantern.press("Undo")
    until(lambda: clue_of(lantern.stack, key) == "ask", "the element is what it was")
    until(lambda: lantern.one("[aria-label='Value of id']").get_property("value") == "ask", "shown")
    lantern.press("Redo")
    until(lambda: clue_of(lantern.stack, key) == "wrong", "done again")
    lantern.press("What it was")
    told = ("clue added: id is “ask”", "clue taken out: id is “wrong”")

    def tells():
        return any(
            all(line in one.get_property("textContent") for line in told)
            for one in lantern.all("[data-role=element-version]")
        )

    until(tells, "who changed what")
    oldest = lantern.nth("[data-role=element-version]", -1)
    oldest.find_element("css selector", "button").click()
    until(lambda: clue_of(lantern.stack, key) == "ask", "restored")


def test_an_element_that_two_change_is_asked_about_and_a_draft_of_it_is_kept(lantern, other, asks):
    test, key = asks
    lantern.sign_in()
    edit_element(lantern, test)
    lantern.fill("[aria-label='Value of id']", "mine")
    lantern.one("[data-role=unsaved]")
    lantern.press("Constants")
    lantern.press("Element")
    field = lantern.one("[aria-label='Value of id']")
    assert field.get_property("value") == "mine", "another part of the drawer drops nothing"
    lantern.driver.refresh()
    edit_element(lantern, test)
    until(lambda: lantern.one("[aria-label='Value of id']").get_property("value") == "mine", "kept")
    edit_element(other, test)
    other.fill("[aria-label='Value of id']", "theirs")
    other.press("Save")
    until(lambda: clue_of(lantern.stack, key) == "theirs", "saved by the other")
    lantern.one("[data-role=element-conflict]")
    lantern.sees("id is “theirs”")
    assert not lantern.button("Save").is_enabled()
    lantern.press("Save mine")
    until(lambda: clue_of(lantern.stack, key) == "mine", "one's own, since that was said")


# -- drafts --------------------------------------------------------------------------------------


def test_a_value_that_is_being_typed_survives_a_reload(lantern, quote):
    type_piece(lantern, "Moon jar, tall")
    lantern.driver.refresh()
    shown(lantern, "Moon jar, tall")
    assert lantern.one(PIECE).get_attribute("data-unsaved")
    assert piece(lantern.stack, quote) != "Moon jar, tall"
    lantern.one(PIECE).click()
    lantern.one("[data-step=f5] .floating input").send_keys(Keys.ENTER)
    until(lambda: piece(lantern.stack, quote) == "Moon jar, tall", "saved now")
    until(lambda: not lantern.one(PIECE).get_attribute("data-unsaved"), "no mark any more")


def test_a_cell_that_is_being_typed_survives_a_reload(lantern):
    test = with_rows(lantern.stack, "A cell left", ("piece",), ("Moon jar",))
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.fill("[data-cell='0:0']", "Mug")
    lantern.driver.refresh()
    cell = lantern.one("[data-cell='0:0']")
    until(lambda: "unsaved" in lantern.one("[data-cell='0:0']").get_attribute("class"), "marked")
    assert cell.get_property("value") == "Mug"
    cell.click()
    cell.send_keys(Keys.TAB)
    until(lambda: values(lantern.stack, test) == [["Mug"]], "saved")


def test_what_is_written_about_a_defect_or_a_sentence_survives_a_reload(lantern, quote):
    with lantern.stack.database.session() as session:
        texts = dict.fromkeys("steps expected found environment browser release".split(), "-")
        defect = models.Defect(title="Glaze runs", severity="major", fingerprint="g", **texts)
        session.add(defect)
        session.flush()
        number = defect.id
    lantern.choose(5)
    lantern.tool("Title and comment")
    lantern.fill("[aria-label='Comment on the sentence']", "Ask the glaze bench.")
    lantern.go(f"/defects/{number}")
    lantern.fill("[aria-label=Notes]", "Seen at dawn.")
    lantern.driver.refresh()
    until(
        lambda: lantern.one("[aria-label=Notes]").get_property("value") == "Seen at dawn.", "kept"
    )
    assert "unsaved" in lantern.one("[aria-label=Notes]").get_attribute("class")
    lantern.go(f"/tests/{quote}")
    lantern.choose(5)
    lantern.tool("Title and comment")
    comment = "[aria-label='Comment on the sentence']"
    told = "Ask the glaze bench."
    until(lambda: lantern.one(comment).get_property("value") == told, "the comment kept")


def text_of(person):
    return person.driver.execute_script(
        "return document.querySelector('.cm-content')?.innerText ?? ''"
    )


def add_line(person, words):
    person.one(".cm-content").click()
    person.driver.switch_to.active_element.send_keys(Keys.CONTROL, Keys.HOME)
    person.driver.switch_to.active_element.send_keys(words, Keys.ENTER)


def test_a_text_that_is_being_changed_survives_reloads_and_what_others_do(lantern, other, quote):
    lantern.press("Text")
    until(lambda: "do: " in text_of(lantern), "the text")
    add_line(lantern, "# seen by Odo")
    lantern.sees("it stays at this desk")
    lantern.go("/tests")
    lantern.go(f"/tests/{quote}")
    lantern.press("Text")
    until(lambda: "# seen by Odo" in text_of(lantern), "taken up again")
    type_piece(other, "Vase").send_keys(Keys.ENTER)
    lantern.one("[data-role=behind]")
    lantern.press("See both and decide")
    assert "Vase" in lantern.one("[data-role=theirs]").text
    lantern.press("Keep theirs")
    until(lambda: "# seen by Odo" not in text_of(lantern), "theirs")
    lantern.sees("The same as the sentences")


def test_code_that_two_write_is_asked_about_and_survives_a_reload(lantern, other):
    stack = lantern.stack
    with stack.database.session() as session:
        made = tests.create(session, "Glaze of two", 1, None, kind="flow").id
        tests.edit(session, made, SetCode("def run() -> dict:\n    return {}\n"), None)
    lantern.sign_in()
    lantern.go(f"/code/{made}")
    until(lambda: "def run" in text_of(lantern), "the code")
    add_line(lantern, "# mine")
    lantern.one("[data-role=unsaved]")
    lantern.driver.refresh()
    until(lambda: "# mine" in text_of(lantern), "taken up again")
    with stack.database.session() as session:
        tests.edit(session, made, SetCode("def run() -> dict:\n    return {'a': 1}\n"), None)
    lantern.one("[data-role=behind]")
    lantern.press("See both and decide")
    assert "'a': 1" in lantern.one("[data-role=theirs]").text
    lantern.fill("[data-role=conflict] textarea", "def run() -> dict:\n    return {'both': 1}\n")
    lantern.press("Save yours")

    def code():
        with stack.database.session() as session:
            return session.get_one(models.Test, made).body["code"]

    until(lambda: "both" in code(), "both, by hand")
    with stack.database.session() as session:
        flows.delete(session, made, None)  # other stories count the flows


# -- without a connection ------------------------------------------------------------------------


def test_what_is_changed_without_a_connection_waits_in_order_and_is_sent(lantern, quote):
    stack = lantern.stack
    with offline(lantern):
        type_piece(lantern, "Mug").send_keys(Keys.ENTER)
        lantern.sees("Lantern does not answer.")
        until(lambda: lantern.one(PIECE).get_attribute("data-unsaved"), "marked")
        shown(lantern, "Mug")
        lantern.choose(2)
        lantern.tool("Switch on or off")
        lantern.sees("2 changes wait to be saved")
        type_piece(lantern, "Mug, tall").send_keys(Keys.ENTER)
        lantern.sees("3 changes wait to be saved")
        assert piece(stack, quote) != "Mug"
    until(lambda: piece(stack, quote) == "Mug, tall", "sent by itself")
    until(lambda: not lantern.all("[data-role=offline]"), "it answers again")
    assert not lantern.all("[data-role=conflict]"), "one's own changes are no conflict"
    with stack.database.session() as session:
        newest = documents.versions(session, quote, None, 3)
        assert [one.author_id for one in newest] == [newest[0].author_id] * 3
        assert "switched off" in newest[1].summary


def test_what_somebody_did_meanwhile_is_a_conflict_when_it_answers(lantern, quote):
    stack = lantern.stack
    with offline(lantern):
        type_piece(lantern, "Mug").send_keys(Keys.ENTER)
        lantern.sees("One change waits to be saved")
        with stack.database.session() as session:
            tests.edit(session, quote, Change("f5", {"inputs": {"text": "Vase"}}), None)
    theirs(lantern, "Vase")
    lantern.press("Save yours")
    until(lambda: piece(stack, quote) == "Mug", "since that was said")


def test_what_waits_is_undone_at_the_desk(lantern, quote):
    with offline(lantern):
        type_piece(lantern, "Mug").send_keys(Keys.ENTER)
        lantern.sees("One change waits to be saved")
        type_piece(lantern, "Vase").send_keys(Keys.ENTER)
        lantern.sees("2 changes wait to be saved")
        lantern.press("Undo")
        lantern.sees("One change waits to be saved")
        shown(lantern, "Mug")
    until(lambda: piece(lantern.stack, quote) == "Mug", "what was left is sent")
    until(lambda: not lantern.all("[data-role=offline]"), "it answers again")
    with lantern.stack.database.session() as session:
        newest = documents.versions(session, quote, None, 2)
        assert all("Vase" not in one.summary for one in newest)


def test_what_waits_survives_a_reload(lantern, quote):
    lantern.driver.execute_cdp_cmd(*CUT)
    with offline(lantern):
        type_piece(lantern, "Mug").send_keys(Keys.ENTER)
        lantern.sees("One change waits to be saved")
        lantern.driver.execute_script("window.stop(); location.href = 'about:blank'")
    lantern.go(f"/tests/{quote}")
    until(lambda: piece(lantern.stack, quote) == "Mug", "sent when it was opened again")


def test_a_cell_typed_without_a_connection_is_marked_until_it_is_kept(lantern):
    test = with_rows(lantern.stack, "Cells apart", ("piece",), ("Moon jar",), ("Tile",))
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.one("[data-cell='0:0']")
    with offline(lantern):
        lantern.fill_cell(0, 0, "Mug")
        lantern.fill_cell(1, 0, "Dish")
        marked = "[data-role=rows] input.unsaved"
        until(lambda: len(lantern.all(marked)) == 2, "both cells are marked")
        assert values(lantern.stack, test) == [["Moon jar"], ["Tile"]]
    until(lambda: values(lantern.stack, test) == [["Mug"], ["Dish"]], "both are kept")
    until(lambda: not lantern.all(marked), "no mark any more")


# -- who else is here ----------------------------------------------------------------------------


def told(person):
    """Who else is here, as the page says it."""
    return [one.get_attribute("aria-label") for one in person.all("[data-role=others] button")]


def test_who_else_is_here_is_shown_where_and_until_they_leave(lantern, other, quote):
    until(lambda: told(lantern) == ["Wren Halloway"], "the other", 3)
    until(lambda: told(other) == ["Odo Fennick"], "one's own page, there", 3)
    other.choose(3)
    until(lambda: told(lantern) == ["Wren Halloway, at sentence 3"], "where", 2)
    third = lantern.nth("li[data-step]", 2)
    assert (
        third.find_element("css selector", "[data-role=other-here]").text == "Wren Halloway is here"
    )
    other.record()
    until(lambda: told(lantern) == ["Wren Halloway, recording, at sentence 3"], "doing what", 2)
    other.go("/tests")
    until(lambda: told(lantern) == [], "gone at once", 3)
    have_open(quote, other)
    until(lambda: told(other) == ["Odo Fennick"], "who was there before", 2)
    until(lambda: len(told(lantern)) == 1, "there again", 3)


def test_ones_own_other_window_is_told_as_such(lantern):
    test = a_quote_that_pauses(lantern.stack, "In two windows")
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    first = lantern.driver.current_window_handle
    lantern.driver.switch_to.new_window("tab")
    lantern.go(f"/tests/{test}")
    until(lambda: told(lantern) == ["You, in another window"], "the other window", 3)
    lantern.driver.close()
    lantern.driver.switch_to.window(first)
    until(lambda: told(lantern) == [], "closed", 5)


# -- what could be lost --------------------------------------------------------------------------

NO_ROOM = (
    "Storage.prototype.setItem = () => { throw new DOMException('full', 'QuotaExceededError') }"
)


def test_leaving_asks_where_the_desk_has_no_room_for_what_was_typed(lantern, quote):
    lantern.driver.execute_script(NO_ROOM)
    lantern.press("Text")
    until(lambda: "do: " in text_of(lantern), "the text")
    add_line(lantern, "# seen by Odo")
    lantern.press("Defects")
    lantern.sees("What you typed is not saved")
    lantern.press("Stay here")
    until(lambda: not lantern.all("[data-role=question]"), "closed")
    assert "# seen by Odo" in text_of(lantern)
    lantern.press("Defects")
    lantern.press("Leave all the same")
    until(lambda: lantern.driver.current_url.endswith("/defects"), "left")


def test_what_was_typed_into_a_sentence_that_somebody_deletes_is_told(lantern, quote):
    lantern.driver.execute_cdp_cmd(*CUT)
    have_open(quote, lantern)
    field = type_piece(lantern, "A tall moon jar")
    with lantern.stack.database.session() as session:
        tests.edit(session, quote, Remove(("f5",)), None)
    field.send_keys(Keys.ENTER)
    lantern.sees("text “A tall moon jar”")


def test_what_is_saved_when_the_sign_in_has_ended_is_sent_when_one_is_back(lantern, quote):
    with lantern.stack.database.session() as session:
        session.execute(delete(models.SignIn).where(models.SignIn.account.has(username="odo")))
    type_piece(lantern, "Mug").send_keys(Keys.ENTER)
    until(lambda: "/sign-in" in lantern.driver.current_url, "asked who it is")
    assert piece(lantern.stack, quote) != "Mug"
    lantern.sign_in()
    lantern.go(f"/tests/{quote}")
    until(lambda: piece(lantern.stack, quote) == "Mug", "sent")
