"""Tables: a spreadsheet attached and refreshed, cells filled down, rows shared between tests."""

import io

import openpyxl
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lantern.core.data.table import Trait
from lantern.core.engine.browsers import BROWSERS
from lantern.core.steps.edits import SetColumn, SetTable
from lantern.core.steps.model import Row
from lantern.store import tests
from lantern.store.models import Cast, Picture, Result, Run
from tests.ui.pages import until
from tests.ui.test_data import a_quote_that_pauses
from tests.ui.test_work import take_in, values


def workbook(path, *rows):
    book = openpyxl.Workbook()
    book.active.title = "Notes"
    book.active.append(["Not these"])
    sheet = book.create_sheet("Firings")
    for row in rows:
        sheet.append(row)
    book.save(path)
    return path


def with_rows(stack, name, columns, *rows):
    test = a_quote_that_pauses(stack, name)
    with stack.database.session() as session:
        made = tuple(Row("", dict(zip(columns, row, strict=True))) for row in rows)
        tests.edit(session, test, SetTable(columns, made), None)
    return test


def test_a_workbook_is_attached_looked_at_and_refreshed(lantern, tmp_path):
    stack = lantern.stack
    test = with_rows(stack, "From a workbook", ("piece",), ("Moon jar",))
    path = workbook(
        tmp_path / "firings.xlsx", ["Piece", "Cone"], ["Moon jar", "06"], ["Vase", "10"]
    )
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    take_in(lantern, path)
    sheet = lantern.one("[data-role=preview]") and lantern.one("form select")
    sheet.send_keys("Firings")
    until(lambda: "06" in lantern.one("[data-role=preview]").text, "the other sheet, zeros kept")
    assert "2 rows" in lantern.one("[data-role=would-change]").text
    lantern.one("[name=attach]").click()
    lantern.press("Take it in")
    until(lambda: len(values(stack, test)) == 2, "the rows of the workbook")

    workbook(path, ["Piece", "Cone"], ["Vase", "04"], ["Roof finial", "1"])
    lantern.press("Files")
    lantern.one("[data-role=files], [aria-label=Drawer]")
    lantern.press("Rows (2)")
    lantern.press("Tables in and out")
    until(lambda: lantern.button("Refresh from firings.xlsx…").click() or True, "refreshing")
    lantern.one("[data-role=would-change]")
    lantern.nth("[name=spreadsheet]", 0).send_keys(str(path))
    lantern.sees("2 rows: 1 added, 1 changed, 1 removed.")
    lantern.press("Take it in")
    wanted = [["Vase", "04"], ["Roof finial", "1"]]
    until(lambda: [row[:2] for row in values(stack, test)] == wanted, "the refreshed rows")
    lantern.press("Undo in the table")
    until(lambda: values(stack, test)[0][0] == "Moon jar", "the rows as they were")


def test_which_rows_are_the_same_is_shown_and_can_be_said_otherwise(lantern, tmp_path):
    stack = lantern.stack
    columns = ("piece", "pieces", "price")
    rows = [("Bowl", "12", "€ 30"), ("Mug", "4", "€ 12"), ("Vase", "1", "")]
    test = with_rows(stack, "Held against", columns, *rows)
    with stack.database.session() as session:
        tests.edit(session, test, SetColumn("price", Trait(role="expected")), None)
    path = workbook(
        tmp_path / "order.xlsx",
        ["Piece", "Pieces"],
        ["Mug", "5"],
        ["Breakfast bowls", "12"],
        ["Vase", "1"],
    )
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    take_in(lantern, path)
    lantern.select("form select", "Firings")
    lantern.sees("3 rows: 1 added, 1 changed, 1 removed.")
    assert lantern.one("[aria-label='piece tells which row it is']").is_selected()
    lantern.sees("as proposed")

    def told():
        return ["".join(e.text.split()) for e in lantern.all("[data-role=row-change]")]

    wanted = [
        "changed row 1 pieces 4 5 price stays “€ 12” made by hand, expected values",
        "new row 2 piece Breakfast bowls pieces 12",
        "goes row 1 piece Bowl pieces 12 price € 30 made by hand, expected values",
    ]
    assert told() == [line.replace(" ", "") for line in wanted]
    lantern.select("[aria-label='When is a row the same']", "when it stands in the same place")
    lantern.sees("3 rows: 0 added, 2 changed, 0 removed.")
    lantern.select("[aria-label='When is a row the same']", "never: all rows are new")
    lantern.sees("3 rows: 3 added, 0 changed, 3 removed.")
    lantern.select("[aria-label='When is a row the same']", "when these columns agree")
    lantern.one("[aria-label='pieces tells which row it is']").click()
    lantern.sees("3 rows: 2 added, 0 changed, 2 removed.")
    lantern.one("[aria-label='pieces tells which row it is']").click()
    lantern.sees("3 rows: 1 added, 1 changed, 1 removed.")
    lantern.press("Take it in")
    wanted = [["Mug", "5", "€ 12"], ["Breakfast bowls", "12", ""], ["Vase", "1", ""]]
    until(lambda: values(stack, test) == wanted, "nobody else's price")


def test_cells_are_filled_down_filtered_and_what_does_not_fit_is_shown(lantern):
    stack = lantern.stack
    rows = [("Moon jar", "3"), ("Tea caddy", ""), ("Vase", ""), ("Garden lantern", "")]
    test = with_rows(stack, "Filled down", ("piece", "pieces"), *rows)
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.one("[data-cell='0:1']").click()
    ActionChains(lantern.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN).key_up(
        Keys.SHIFT
    ).perform()
    lantern.press("Fill down")
    until(lambda: [row[1] for row in values(stack, test)] == ["3", "3", "", ""], "one filled")
    lantern.press("Undo in the table")
    until(lambda: [row[1] for row in values(stack, test)] == ["3", "", "", ""], "taken back")

    lantern.press("Column pieces")
    lantern.select("[aria-label='Type of the column']", "number")
    lantern.driver.find_element("tag name", "body").send_keys(Keys.ESCAPE)
    lantern.fill_cell(2, 1, "several")
    until(lambda: values(stack, test)[2][1] == "several", "the value")
    lantern.press("Check the data")
    lantern.sees("“several” is not a number")
    lantern.one("[data-role=data-problems] button").click()
    until(
        lambda: lantern.driver.switch_to.active_element.get_attribute("data-cell") == "2:1",
        "the cell that is meant",
    )
    lantern.fill("[aria-label='Filter rows']", "moon")
    until(lambda: "1 of 4 rows" in lantern.one("[data-role=row-count]").text, "the rows left")
    assert len(lantern.all("[data-role=data-row]")) == 1


def test_rows_are_shared_and_what_one_test_changes_the_other_has(lantern):
    stack = lantern.stack
    first = with_rows(stack, "Has the rows", ("piece",), ("Moon jar",))
    second = a_quote_that_pauses(stack, "Uses them too")
    lantern.sign_in()
    lantern.go(f"/tests/{first}")
    lantern.one("[data-role=data-row]")
    lantern.press("Tables in and out")
    lantern.press("Share these rows with other tests")
    lantern.one("[data-role=shared]")
    lantern.go(f"/tests/{second}")
    lantern.press("Tables in and out")
    lantern.press("Use the rows of “Rows of Has the rows”")
    lantern.one("[data-role=shared]")
    lantern.fill_cell(0, 0, "Vase")
    lantern.press("Add a row")
    lantern.button("Rows (2)")  # two rows
    lantern.go("/data")
    until(
        lambda: "Has the rows, Uses them too" in lantern.one("[data-role=shared-table]").text,
        "what uses it",
    )
    lantern.press("Delete Rows of Has the rows")
    lantern.sees("is used by")
    lantern.go(f"/tests/{first}")
    until(lambda: lantern.one("[data-cell='0:0']").get_property("value") == "Vase", "the change")


def test_a_table_wider_than_the_screen_is_walked_through_with_the_keyboard(lantern):
    """Only what is in view is drawn; Tab and Shift+Tab lead to what is not, from row to row."""
    columns = tuple(f"column_{n}" for n in range(40))
    rows = [[f"{row}:{n}" for n in range(40)] for row in range(60)]
    test = with_rows(lantern.stack, "Wide", columns, *rows)
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.one("[data-cell='0:0']").click()
    assert len(lantern.all("[data-cell^='0:']")) < 15

    def in_cell(words):
        active = lantern.driver.switch_to.active_element
        return active.get_attribute("aria-label") == words

    for n in range(1, 40):
        lantern.driver.switch_to.active_element.send_keys(Keys.TAB)
        until(lambda n=n: in_cell(f"column_{n} of row 1"), f"column {n}")
    lantern.driver.switch_to.active_element.send_keys(" fired", Keys.TAB)
    until(lambda: in_cell("column_0 of row 2"), "the first cell of the next row")
    until(lambda: values(lantern.stack, test)[0][39] == "0:39 fired", "the value kept")
    back = ActionChains(lantern.driver).key_down(Keys.SHIFT).send_keys(Keys.TAB)
    back.key_up(Keys.SHIFT).perform()
    until(lambda: in_cell("column_39 of row 1"), "back in the row above")


def test_rows_are_run_in_the_browsers_that_are_picked(lantern):
    stack = lantern.stack
    test = with_rows(stack, "In two browsers", ("piece",), ("Moon jar",), ("Vase",))
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    until(lambda: lantern.one("[data-role=browsers]").text == "Chromium", "the usual browser")
    lantern.one("[data-role=browsers]").click()
    for name in ("firefox", "chromium"):
        lantern.one(f"[data-browser={name}]").click()
    lantern.driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    until(lambda: lantern.one("[data-role=browsers]").text == "2 browsers", "both picked")
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "the run's end", 90)
    with stack.database.session() as session:
        run = session.query(Run).filter_by(test_id=test).order_by(Run.id.desc()).first()
        played = [(one.number, one.browser, one.version.split()[0]) for one in run.casts]
    wanted = [("chromium", "Chromium"), ("firefox", "Firefox")]
    assert played == [(number, *one) for number in (1, 2) for one in wanted]


def test_a_column_says_which_browser_runs_a_row(lantern):
    stack = lantern.stack
    rows = [("Moon jar", ""), ("Tea caddy", "Chromium phone"), ("Vase", "kilnzilla")]
    test = with_rows(stack, "By browser", ("piece", "where"), *rows)
    with stack.database.session() as session:
        edit = SetColumn.read({"column": "where", "role": "browser"})
        tests.edit(session, test, edit, None)
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    offered = "datalist[id='choices of where'] option"
    until(lambda: len(lantern.all(offered)) == len(BROWSERS), "the browsers that a cell can name")
    lantern.press("Run")
    lantern.sees("There is no browser “kilnzilla”.")
    lantern.sees("chromium phone, chromium tablet")
    lantern.press("Do not run")
    lantern.choose_rows("1-2")
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "the run's end", 60)
    with stack.database.session() as session:
        run = session.query(Run).filter_by(test_id=test).order_by(Run.id.desc()).first()
        found = session.query(Result).join(Cast).filter(Cast.run_id == run.id)
        digests = {one.cast.number: one.picture for one in found if one.picture}
        pictures = {
            number: Image.open(io.BytesIO(session.get(Picture, digest).content)).size
            for number, digest in digests.items()
        }
    # A phone shows a page that says nothing of its width as wide as a desk does, and whole.
    assert pictures == {1: (1280, 800), 2: (980, round(980 * 844 / 390))}
