"""Two people in one test: each takes back what is one's own; drafts."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.edits import Insert, SetCode
from lantern.core.steps.model import Step
from lantern.store import documents, elements, flows, models, tests
from tests.ui.pages import until
from tests.ui.test_conflicts import PIECE, piece, shown, type_piece
from tests.ui.test_tables import with_rows
from tests.ui.test_work import values

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
