"""Feeding tests: kept values, variables, made-up values, pauses that become waits."""

from selenium.webdriver.common.keys import Keys

from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.edits import Change, SetSettings, SetTable
from lantern.core.steps.model import Row, Step
from lantern.demo.data import quote_test
from lantern.store import elements, tests
from tests.ui.pages import until
from tests.ui.test_work import make_test


def a_quote_that_pauses(stack, name="A quote that pauses"):
    """A test that asks for a quote; a fixed pause stands before the price is looked at."""
    with stack.database.session() as session:
        for key, kind in (("piece", "text box"), ("ask", "button"), ("price", "text")):
            # Of a page of its own: what other tests record is not known by these names.
            clue = Clue("id", "is", key)
            element = Element(f"fed-{key}", key.capitalize(), kind, (clue,), page="Fed")
            elements.save(session, element)
    return make_test(
        stack,
        name,
        Step("f1", "open", inputs={"address": "/sign-in"}),
        Step("f2", "type", "demo-member", {"text": "mara"}),
        Step("f3", "type", "demo-password", {"text": "${secret.mara_password}"}),
        Step("f4", "press", "demo-enter"),
        Step("f5", "type", "fed-piece", {"text": "Moon jar"}),
        Step("f6", "press", "fed-ask"),
        Step("f7", "pause", inputs={"seconds": "2"}),
        Step("f8", "keep", "fed-price", {"property": "text", "name": "price"}),
        limit=8,
    )


def test_from_a_constant_to_rows_with_a_result_column(lantern):
    """A column, rows, a pause turned into a wait, and what was kept beside each row."""
    test = a_quote_that_pauses(lantern.stack)
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.story_has("Keep the text of Price as price")

    pieces = until(
        lambda: [e for e in lantern.all("[data-input=text]") if e.text == "Moon jar"], "the value"
    )
    pieces[0].click()
    lantern.fill("[name=column]", "piece").send_keys(Keys.ENTER)
    until(lambda: "Type piece into Piece" in lantern.sentences(), "the column")
    lantern.press("Add a row")
    lantern.fill_cell(1, 0, "Tea caddy")
    lantern.button("Rows (2)")  # two rows

    # What fixed pauses cost is said, and one act makes them waits; undo brings them back.
    until(lambda: "2 s to each row, 4 s to all" in lantern.one("[data-role=pauses]").text, "cost")
    lantern.press("Turn it into a wait")
    until(lambda: not lantern.all("[data-role=pauses]"), "no pause left")
    assert "Wait until Price is shown" in lantern.sentences()
    lantern.one("[aria-label=Undo]").click()
    lantern.one("[data-role=pauses]")
    lantern.one("[aria-label=Redo]").click()
    until(lambda: not lantern.all("[data-role=pauses]"), "no pause left")

    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "the run's end", 60)
    link = next(a for a in lantern.all("a") if a.text.startswith("Open run "))
    link.click()
    until(lambda: len(lantern.all("[data-role=kept]")) == 2, "a kept value beside each row")
    assert all(one.text.startswith("price €") for one in lantern.all("[data-role=kept]"))
    lantern.sees("seed ")


def test_a_variable_is_made_changed_and_deleted(lantern):
    lantern.sign_in("wren")
    lantern.go("/settings")
    lantern.press("Add a variable")
    lantern.fill("[aria-label='Name of the variable']", "my season")
    lantern.fill("[aria-label='Value of the variable']", "spring")
    lantern.press("Save")
    lantern.sees("use letters, digits and underscores")
    lantern.fill("[aria-label='Name of the variable']", "season")
    lantern.press("Save")
    lantern.press("season = spring")
    lantern.fill("[aria-label='Value of the variable']", "summer")
    lantern.press("Save")
    lantern.press("season = summer")
    lantern.press("Delete")
    until(lambda: "season" not in lantern.one("main, body").text, "the variable gone")


def test_pairs_are_designed_with_a_constraint_and_three_ticked_rows_run(lantern):
    """Values from the rows, a constraint, what is covered and forbidden, then the table."""
    test = a_quote_that_pauses(lantern.stack, "Designed")
    with lantern.stack.database.session() as session:
        rows = [
            {"piece": "Moon jar", "clay": "Raku", "rush": "no"},
            {"piece": "Tea caddy", "clay": "Stoneware", "rush": "yes"},
        ]
        change = SetTable(("piece", "clay", "rush"), tuple(Row("", values) for values in rows))
        tests.edit(session, test, change, None)
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.button("Rows (2)")
    lantern.press("Design variations")
    until(
        lambda: (
            lantern.one("[aria-label='Values of clay']").get_property("value") == "Raku\nStoneware"
        ),
        "the values that are known",
    )
    for part, value in (("column", "clay"), ("clay value", "Raku")):
        lantern.select(f"[aria-label='If {part}']", value)
    for part, value in (("column", "rush"), ("rush value", "no")):
        lantern.select(f"[aria-label='Then {part}']", value)
    lantern.press("Add constraint")
    written = "[aria-label='Constraint 1']"
    rule = "if clay = Raku then rush = no"
    until(lambda: lantern.one(written).get_property("value") == rule, "the constraint as text")
    lantern.fill(written, rule.replace("Raku", "Rakku"))
    lantern.press("Design")
    lantern.sees("Did you mean 'Raku'?")
    lantern.fill(written, rule)
    lantern.press("Add a group of columns")
    for column in ("piece", "clay", "rush"):
        lantern.one(f"[aria-label='{column} in group 1']").click()
        lantern.select("[aria-label='What group 1 covers']", "pairs")
    lantern.press("Design")
    until(lambda: "1 forbidden" in lantern.one("[data-role=designed]").text, "one forbidden pair")
    lantern.press("1 forbidden")
    lantern.sees("clay Raku, rush yes")
    lantern.press("Write into the table")
    lantern.button("Rows (5)")  # designed rows beside the two made by hand
    until(lambda: len(lantern.all("[aria-label=designed]")) == 3, "the designed rows marked")
    for number in (3, 4, 5):
        lantern.one(f"[aria-label='Tick row {number}']").click()
    lantern.button("Delete 3 ticked")  # three ticked
    lantern.choose_rows("ticked")
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "the run's end", 60)
    until(lambda: "3 of 3 rows" in lantern.one("[aria-label=Drawer]").text, "all rows told")


def test_a_variable_is_renamed_with_its_places_shown_and_a_limit_holds_for_every_test(lantern):
    test = a_quote_that_pauses(lantern.stack, "Uses a variable")
    with lantern.stack.database.session() as session:
        fields = {"inputs": {"text": "${env.kiln}"}}
        tests.edit(session, test, Change("f5", fields), None)
        tests.edit(session, test, SetSettings({"limit": None}), None)
    lantern.sign_in("wren")
    lantern.go("/settings")
    lantern.press("Add a variable")
    lantern.fill("[aria-label='Name of the variable']", "kiln")
    lantern.fill("[aria-label='Value of the variable']", "Old Bess")
    lantern.press("Save")
    lantern.press("kiln = Old Bess")
    lantern.press("Rename everywhere…")
    until(lambda: "Uses a variable" in lantern.one("[data-role=variable-uses]").text, "its places")
    lantern.fill("[name=variable]", "oven")
    lantern.press("Rename")
    lantern.button("oven = Old Bess")
    limit = lantern.fill("[aria-label='Seconds that every test waits']", "17")
    limit.send_keys(Keys.TAB)
    lantern.sees("It holds for every test")
    lantern.go(f"/tests/{test}")
    until(lambda: "Type oven into Piece" in lantern.sentences(), "the sentence with the new name")
    lantern.choose(5)
    lantern.press("Limits")
    until(
        lambda: "17 s hold now, from the project" in lantern.one("[data-role=limit-from]").text,
        "where the limit comes from",
    )
    lantern.go("/settings")
    lantern.fill("[aria-label='Seconds that every test waits']", "10").send_keys(Keys.TAB)
    lantern.sees("It holds for every test")


def test_what_would_fail_for_certain_is_told_before_any_row_runs(lantern):
    with lantern.stack.database.session() as session:
        made = tests.copy(session, tests.named(session, "Quotes by clay and cone").id, "Odd", None)
        rows = [{"piece": "Moon jar", "clay": "Stonewear", "cone": "6", "pieces": "1"}]
        columns = ("piece", "clay", "cone", "pieces", "price")
        change = SetTable(columns, tuple(Row("", values) for values in rows))
        test = tests.edit(session, made.id, change, None).id
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.button("Rows (1)")
    lantern.press("Run")
    lantern.sees("“Stonewear” is not among the 4 options of Clay")
    lantern.sees("Did you mean “Stoneware”?")
    lantern.press("Do not run")
    until(lambda: not lantern.all("[data-role=data-problems]"), "nothing started")
    assert not lantern.all("[data-role=run-state]")
    lantern.press("Run")
    lantern.press("Run anyway")
    until(lambda: lantern.one("[data-role=run-state]").text == "failed", "the run's end", 60)


def test_mistakes_are_told_while_typing_with_what_would_fit(lantern):
    stack = lantern.stack
    with stack.database.session() as session:
        test = tests.copy(session, tests.named(session, "Quotes by clay and cone").id, "Told", None)
        test = test.id
        change = Change(
            next(s.id for s in quote_test().steps if s.inputs.get("text") == "mara"),
            {"inputs": {"text": "${row.peice}"}},
        )
        tests.edit(session, test, change, None)
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    # In a sentence: what it may have been is one press.
    lantern.sees("There is no column “peice”.")
    lantern.press_one("[data-role=sentence-problem] [data-role=near]", "piece")
    until(lambda: not lantern.all("[data-role=sentence-problem]"), "mended")
    # In a cell, while it is typed.
    field = lantern.fill("[data-cell='0:1']", "Stonewear")
    near = lantern.one("[data-role=wrong] [data-role=near]")
    assert near.rect["y"] + near.rect["height"] <= 800, "in view, however low the row is"
    lantern.press_one("[data-role=wrong] [data-role=near]", "Stoneware")
    until(lambda: field.get_property("value") == "Stoneware", "picked")
    lantern.fill_cell(1, 1, "Raukoo")
    until(lambda: "refused" in lantern.one("[data-cell='1:1']").get_attribute("class"), "marked")
    # Before a run.
    lantern.press("Check the data")
    lantern.press_one("[data-role=fix]", "Use Raku")
    lantern.sees("Every value fits, as far as is known")
    lantern.press("Close")
    until(lambda: lantern.one("[data-cell='1:1']").get_property("value") == "Raku", "corrected")
    # A value of a sentence, while it is typed.
    lantern.one("[data-input=option]").click()
    assert lantern.all(".floating datalist option") or lantern.all(".floating select option")


def test_a_made_up_value_is_picked_in_a_form_and_reads_as_words(lantern):
    test = a_quote_that_pauses(lantern.stack, "Made up in a form")
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    value = "[data-step=f5] [data-input=text]"
    lantern.one(value).click()
    lantern.press("Make it up for each row…")
    lantern.select("[aria-label='Kind of made-up value']", "a whole number")
    lantern.fill("[aria-label=highest]", "12")
    lantern.press("Use it")
    until(lambda: lantern.one(value).text == "a number from 1 to 12", "in words")
    lantern.one(value).click()
    assert lantern.one("[aria-label=highest]").get_property("value") == "12", "as it stands"
    lantern.select("[aria-label='Kind of made-up value']", "one of several")
    lantern.fill("[data-role=made-form] textarea", "matt\ngloss")
    lantern.press("Use it")
    until(lambda: lantern.one(value).text == "matt or gloss", "in words")
