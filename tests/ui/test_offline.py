"""A connection that is lost, a sign-in that ends: what was changed waits, and is sent or told."""

from selenium.webdriver.common.keys import Keys
from sqlalchemy import delete

from lantern.core.steps.edits import Change, Remove
from lantern.store import documents, models, tests
from tests.ui.pages import offline, until
from tests.ui.test_conflicts import CUT, PIECE, have_open, piece, shown, theirs, type_piece
from tests.ui.test_tables import with_rows
from tests.ui.test_together import add_line, text_of
from tests.ui.test_work import values


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
        assert lantern.one("[data-step=f2] [data-role=waits]").text == "waits to be switched off"
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


def test_a_name_that_is_typed_without_a_connection_is_marked_and_saved_later(lantern, quote):
    name = "[aria-label='Name of the test']"
    with offline(lantern):
        lantern.fill(name, "A mug for the kiln").send_keys(Keys.ENTER)
        lantern.sees("Lantern does not answer.")
        until(lambda: "unsaved" in lantern.one(name).get_attribute("class"), "marked")

    def named():
        with lantern.stack.database.session() as session:
            return session.get(models.Test, quote).name

    until(lambda: named() == "A mug for the kiln", "saved by itself")
    until(lambda: "unsaved" not in lantern.one(name).get_attribute("class"), "no mark any more")


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
