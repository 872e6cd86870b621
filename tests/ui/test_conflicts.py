"""Two people in one place: what one has open is never lost to the other, nor the other's to it."""

import pytest
from selenium.webdriver.common.keys import Keys

from lantern.core.steps.edits import RemoveRows, SetCells
from lantern.store import models, tests
from lantern.store.documents import unpacked
from tests.ui.pages import until
from tests.ui.test_data import a_quote_that_pauses
from tests.ui.test_tables import with_rows
from tests.ui.test_work import CUT_OFF, values

CUT = "Page.addScriptToEvaluateOnNewDocument", {"source": CUT_OFF}
PIECE = "[data-step=f5] [data-input=text]"


def piece(stack, test):
    with stack.database.session() as session:
        return unpacked(session.get(models.Test, test)).step("f5").inputs["text"]


def have_open(test, *people):
    for person in people:
        person.go(f"/tests/{test}")
        person.one(PIECE)


def type_piece(person, text):
    person.one(PIECE).click()
    return person.fill("[data-step=f5] .floating input", text)


def shown(person, text):
    until(lambda: person.one(PIECE).text == text, f"“{text}” in the sentence")


def theirs(person, text):
    until(lambda: person.one("[data-role=theirs]").text == text, f"asked about “{text}”")


def test_a_value_that_somebody_changed_while_one_had_it_open_is_asked_about(lantern, other, quote):
    field = type_piece(lantern, "Mug")
    type_piece(other, "Vase").send_keys(Keys.ENTER)
    until(lambda: lantern.one(PIECE).text == "Vase", "the other's value beside what is typed")
    assert field.get_property("value") == "Mug"
    field.send_keys(Keys.ENTER)
    theirs(lantern, "Vase")
    assert lantern.one("[data-role=conflict] textarea").get_property("value") == "Mug"
    lantern.driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    theirs(lantern, "Vase")  # neither is given up by a slip
    lantern.fill("[data-role=conflict] textarea", "Vase and mug")
    lantern.press("Save yours")
    until(lambda: piece(lantern.stack, quote) == "Vase and mug", "both, by hand")
    until(lambda: other.one(PIECE).text == "Vase and mug", "the other has it as well")

    field = type_piece(other, "Bowl")
    type_piece(lantern, "Moon jar").send_keys(Keys.ENTER)
    until(lambda: other.one(PIECE).text == "Moon jar", "the value beside what is typed")
    field.send_keys(Keys.ENTER)
    theirs(other, "Moon jar")
    other.press("Keep theirs")
    until(lambda: not other.all("[data-role=conflict]"), "settled")
    assert piece(lantern.stack, quote) == "Moon jar"


def test_a_field_that_was_only_looked_at_changes_nothing(lantern, other, quote):
    lantern.one(PIECE).click()
    field = lantern.one("[data-step=f5] .floating input")
    field.click()
    type_piece(other, "Vase").send_keys(Keys.ENTER)
    until(lambda: lantern.one(PIECE).text == "Vase", "the other's value")
    field.send_keys(Keys.ENTER)
    until(lambda: not lantern.all("[data-step=f5] .floating"), "closed")
    assert not lantern.all("[data-role=conflict]")
    assert piece(lantern.stack, quote) == "Vase"


def test_different_parts_of_one_sentence_are_both_kept(lantern, other, quote):
    lantern.driver.execute_cdp_cmd(*CUT)
    have_open(quote, lantern)
    other.choose(5)
    other.tool("Title and comment")
    other.fill("[aria-label='Title of the sentence']", "What it is").send_keys(Keys.ENTER)
    other.sees("What it is")
    type_piece(lantern, "Mug").send_keys(Keys.ENTER)
    until(lambda: piece(lantern.stack, quote) == "Mug", "one's own value")
    with lantern.stack.database.session() as session:
        assert unpacked(session.get(models.Test, quote)).step("f5").title == "What it is"
    assert not lantern.all("[data-role=conflict]")


@pytest.mark.parametrize("cut_off", [False, True])
def test_a_cell_that_somebody_changed_while_one_typed_into_it_is_asked_about(lantern, cut_off):
    """Also where the page has not heard of it yet, and the server says so."""
    stack = lantern.stack
    test = with_rows(stack, f"Cells of two, {cut_off}", ("piece",), ("Moon jar",), ("Tile",))
    if cut_off:
        lantern.driver.execute_cdp_cmd(*CUT)
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    cell = lantern.one("[data-cell='0:0']")
    cell.click()
    cell.send_keys(Keys.CONTROL, "a")
    cell.send_keys("Mug")
    with stack.database.session() as session:
        rows = [row.id for row in unpacked(session.get(models.Test, test)).rows]
        theirs_now = {rows[0]: {"piece": "Vase"}, rows[1]: {"piece": "Dish"}}
        tests.edit(session, test, SetCells(theirs_now), None)
    if not cut_off:
        below = "[data-cell='1:0']"
        until(lambda: lantern.one(below).get_property("value") == "Dish", "their other cell")
    cell.send_keys(Keys.TAB)
    theirs(lantern, "Vase")
    lantern.press("Save yours")
    until(lambda: values(stack, test) == [["Mug"], ["Dish"]], "one's own, and their other cell")


def test_what_is_typed_into_a_row_that_somebody_deletes_is_told(lantern):
    stack = lantern.stack
    test = with_rows(stack, "A row that goes", ("piece",), ("Moon jar",), ("Tile",))
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    cell = lantern.one("[data-cell='0:0']")
    cell.click()
    cell.send_keys("Mug")
    with stack.database.session() as session:
        first = unpacked(session.get(models.Test, test)).rows[0].id
        tests.edit(session, test, RemoveRows((first,)), None)
    lantern.sees("in which you had typed “Moon jarMug”")


@pytest.mark.parametrize("cut_off", [False, True])
def test_what_two_write_about_a_defect_is_asked_about(lantern, other, cut_off):
    stack = lantern.stack
    with stack.database.session() as session:
        texts = dict.fromkeys("steps expected found environment browser release".split(), "-")
        defect = models.Defect(title="Glaze runs", severity="major", fingerprint="f", **texts)
        session.add(defect)
        session.flush()
        number = defect.id
    if cut_off:
        lantern.driver.execute_cdp_cmd(*CUT)
    lantern.sign_in()
    for person in (lantern, other):
        person.go(f"/defects/{number}")
    field = lantern.fill("[aria-label=Notes]", "Seen at noon.")
    other.fill("[aria-label=Notes]", "Seen at dawn.").send_keys(Keys.TAB)
    other.sees("Saved.")
    other.fill("[aria-label=Title]", "Glaze runs down").send_keys(Keys.TAB)
    if not cut_off:
        title = lantern.one("[aria-label=Title]")
        until(lambda: title.get_property("value") == "Glaze runs down", "their other change")
    else:
        until(lambda: defect_of(stack, number)[0] == "Glaze runs down", "their other change")
    field.send_keys(Keys.TAB)
    theirs(lantern, "Seen at dawn.")
    lantern.press("Save yours")
    told = ("Glaze runs down", "Seen at noon.")
    until(lambda: defect_of(stack, number) == told, "one's own, and their title")


def defect_of(stack, number):
    with stack.database.session() as session:
        found = session.get_one(models.Defect, number)
        return found.title, found.notes


@pytest.mark.parametrize("cut_off", [False, True])
def test_a_path_that_two_set_is_asked_about(lantern, other, cut_off):
    if cut_off:
        lantern.driver.execute_cdp_cmd(*CUT)
    lantern.sign_in("wren")
    for person in (lantern, other):
        person.go("/settings")
    field = lantern.fill("[aria-label='Path that sets the application back']", "/mine")
    theirs_field = other.fill("[aria-label='Path that sets the application back']", "/theirs")
    theirs_field.send_keys(Keys.TAB)
    other.sees("Saved.")
    other.fill("[aria-label='Name']", "Kiln Desk 2").send_keys(Keys.TAB)
    name = lantern.one("[aria-label='Name']")
    if not cut_off:
        until(lambda: name.get_property("value") == "Kiln Desk 2", "their other change")
    field.send_keys(Keys.TAB)
    theirs(lantern, "/theirs")
    lantern.press("Keep theirs")
    until(lambda: field.get_property("value") == "/theirs", "theirs")
    emptied = other.fill("[aria-label='Path that sets the application back']", Keys.BACKSPACE)
    emptied.send_keys(Keys.TAB)
    other.fill("[aria-label='Name']", "Kiln Desk").send_keys(Keys.TAB)
    until(lambda: kiln_desk(lantern.stack) == ("Kiln Desk", ""), "as it was")


def kiln_desk(stack):
    with stack.database.session() as session:
        found = session.get_one(models.Environment, 1)
        return found.name, found.reset or ""


def test_names_that_two_give_are_asked_about_though_the_page_has_not_heard(lantern, other):
    stack = lantern.stack
    test = a_quote_that_pauses(stack, "Named by two")
    lantern.driver.execute_cdp_cmd(*CUT)
    lantern.sign_in()
    have_open(test, lantern, other)
    other.fill("[aria-label='Name of the test']", "Theirs").send_keys(Keys.ENTER)
    until(lambda: name_of(stack, test) == "Theirs", "their name")
    lantern.fill("[aria-label='Name of the test']", "Mine").send_keys(Keys.ENTER)
    theirs(lantern, "Theirs")
    lantern.press("Keep theirs")
    until(lambda: not lantern.all("[data-role=conflict]"), "settled")
    assert name_of(stack, test) == "Theirs"


def test_what_is_saved_after_one_has_left_goes_where_it_was_typed(lantern, other):
    stack = lantern.stack
    first, second = (a_quote_that_pauses(stack, f"Typed here {n}") for n in (1, 2))
    lantern.sign_in()
    lantern.go(f"/tests/{second}")
    lantern.one(PIECE)
    lantern.press("Tests")
    lantern.press("Typed here 1")
    field = lantern.fill("[aria-label='Name of the test']", "Mine too")
    other.go(f"/tests/{first}")
    other.fill("[aria-label='Name of the test']", "Theirs too").send_keys(Keys.ENTER)
    until(lambda: name_of(stack, first) == "Theirs too", "their name")
    type_piece(other, "Vase").send_keys(Keys.ENTER)
    until(lambda: lantern.one(PIECE).text == "Vase", "the news of both")
    field.send_keys(Keys.TAB)
    theirs(lantern, "Theirs too")
    lantern.driver.back()
    lantern.driver.back()
    until(lambda: lantern.driver.current_url.endswith(f"/tests/{second}"), "the other test")
    lantern.press("Save yours")
    until(lambda: name_of(stack, first) == "Mine too", "saved where it was typed")
    assert name_of(stack, second) == "Typed here 2"


def name_of(stack, test):
    with stack.database.session() as session:
        return session.get_one(models.Test, test).name


def settings_of(stack, test):
    with stack.database.session() as session:
        return unpacked(session.get(models.Test, test)).settings


def test_a_limit_that_somebody_set_meanwhile_is_asked_about_and_others_are_not(lantern, other):
    stack = lantern.stack
    test = a_quote_that_pauses(stack, "Limits of two")
    lantern.driver.execute_cdp_cmd(*CUT)
    lantern.sign_in()
    have_open(test, lantern, other)
    for person in (lantern, other):
        person.press("Limits")
    other.fill("[name=limit]", "7").send_keys(Keys.TAB)
    until(lambda: settings_of(stack, test).limit == 7, "theirs")
    lantern.fill("[name=retries]", "2").send_keys(Keys.TAB)
    until(lambda: settings_of(stack, test).retries == 2, "another setting is in nobody's way")
    assert not lantern.all("[data-role=question]")
    other.fill("[name=limit]", "6").send_keys(Keys.TAB)
    until(lambda: settings_of(stack, test).limit == 6, "theirs again")
    lantern.fill("[name=limit]", "9").send_keys(Keys.TAB)
    lantern.sees("theirs is “6”, yours is “9”")
    lantern.press("Save yours")
    until(lambda: settings_of(stack, test).limit == 9, "one's own, since that was said")


def test_a_sentence_that_somebody_changed_is_asked_about_before_it_is_deleted(lantern, other):
    test = a_quote_that_pauses(lantern.stack, "Deleted by one, changed by the other")
    lantern.driver.execute_cdp_cmd(*CUT)
    lantern.sign_in()
    have_open(test, lantern, other)
    for value, answer, left in (("Vase", "Keep it", 8), ("Bowl", "Delete it all the same", 7)):
        type_piece(other, value).send_keys(Keys.ENTER)
        until(lambda value=value: piece(lantern.stack, test) == value, "what the other typed")
        lantern.choose(5)
        lantern.tool("Delete")
        until(lambda value=value: value in lantern.one("[data-role=question]").text, "asked")
        lantern.press(answer)
        until(lambda left=left: len(steps_of(lantern.stack, test)) == left, "what was said is done")
        until(lambda left=left: len(lantern.sentences()) == left, "and shown")
        assert not lantern.all("[data-role=question]")


def steps_of(stack, test):
    with stack.database.session() as session:
        return unpacked(session.get(models.Test, test)).steps
