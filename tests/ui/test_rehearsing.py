"""Rehearsing, through the pages: stop where it hurts, look, change, try again, go on."""

from dataclasses import replace

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.model import Step, Taken
from lantern.store import elements, tests
from lantern.store.rows import unpacked
from tests.ui.desk_map import DeskMap
from tests.ui.pages import until
from tests.ui.rehearsals import QUOTE, SIGN_IN, Rehearsal, break_at, make, step


def test_a_wrong_value_and_a_press_that_does_another_thing_are_found_and_mended(lantern):
    rows = [{"piece": "Moon jar", "price": "€ 5.40"}, {"piece": "Bowl", "price": "€ 9.99"}]
    test = make(
        lantern.stack,
        "Asked, looked at, closed",
        *SIGN_IN,
        step("a", "type", "piece", text="${row.piece}"),
        step("b", "press", "ask"),
        step("c", "check", "price", property="text", comparison="is", expected="${row.price}"),
        step("d", "press", "book", title="Close the ticket"),
        step("e", "check", "price", property="text", comparison="starts with", expected="€"),
        rows=rows,
        limit=9,
    )
    lantern.sign_in()
    rehearsal = Rehearsal(lantern, test)
    lantern.press("Limits")
    limit = lantern.fill("[name=limit]", "1")
    limit.send_keys(Keys.TAB)
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "failed", "the run's end", 60)
    run = next(a for a in lantern.all("a") if a.text.startswith("Open run ")).text.split()[-1]
    lantern.select("[aria-label='Which rows to run']", f"failed in run {run}")
    lantern.press("Run")
    until(
        lambda: (
            f"Open run {int(run) + 1}" in lantern.driver.page_source
            and lantern.one("[data-role=run-state]").text == "failed"
        ),
        "the failed ones again",
        60,
    )

    # Play to the sentence in question, in the row that is wrong, and see what it finds.
    lantern.press("How to rehearse")
    lantern.fill("[aria-label='Row to rehearse']", "2")
    lantern.sees("Bowl · € 9.99")
    lantern.press("From its start, held at the first sentence")
    rehearsal.held("1 · Open")
    lantern.choose(7)
    ActionChains(lantern.driver).send_keys("t").perform()
    rehearsal.held("Check that the text of Price is “€ 9.99”")
    rehearsal.do("over")
    assert "expected “€ 9.99”, found “€ 5.40”" in rehearsal.trouble

    # The table is corrected, and the sentence tried again goes by it at once.
    lantern.press("Rows (2)")
    lantern.fill_cell(1, 1, "€ 5.40")
    rehearsal.do("again")
    until(lambda: lantern.one("[data-role=contrary]"), "the mark of the press")
    assert "It says “Close the ticket”" in lantern.one("[data-role=contrary]").text
    assert "“Book this firing”" in lantern.one("[data-role=contrary]").text
    rehearsal.held("Check that the text of Price starts with")

    # The press is switched off; its row is played once more from its start.
    lantern.choose(8)
    lantern.tool("Switch on or off")
    lantern.sees("switched off")
    lantern.press_one("[data-role=rehearsal] button", "More")
    lantern.press("Play this row from its start")
    rehearsal.over("it went well")
    lantern.select("[aria-label='Which rows to run']", "all")
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "a green run", 60)


def test_breakpoints_in_a_flow_called_twice_stop_by_a_column_and_values_are_changed(lantern):
    flow = make(
        lantern.stack,
        "Ask for a price of it",
        step("f1", "type", "piece", text="${input.piece}"),
        step("f2", "press", "ask"),
        kind="flow",
        takes=[Taken("piece", "text", "Bowl")],
    )
    call = Step("c1", "flow", flow=str(flow), inputs={"piece": "${row.piece}"}, page=QUOTE)
    test = make(
        lantern.stack,
        "Asked twice",
        *SIGN_IN,
        call,
        replace(call, id="c2"),
        step("k", "keep", "price", property="text", name="price"),
        rows=[{"piece": "Moon jar"}],
    )
    lantern.sign_in()
    rehearsal = Rehearsal(lantern, test)
    break_at(lantern, 5)
    rehearsal.begin()
    rehearsal.held("at a breakpoint")

    # Into the flow, which opens in place; a breakpoint inside it stops both calls.
    rehearsal.do("into")
    rehearsal.held("Type “Moon jar” into Piece name")
    assert rehearsal.within() == ["Ask for a price of it"]
    inside = "[data-role=flow-in-place]"
    lantern.one(f"{inside} [aria-label='Breakpoint at sentence 2']").click()
    until(lambda: lantern.all(f"{inside} [data-role=breakpoint]"), "the breakpoint in the flow")
    rehearsal.do("out")
    rehearsal.held("Press Get a quote")  # what is in the flow stops it on the way out
    # A sentence inside the open flow is gone back to, with the stage as it is.
    lantern.one(f"{inside} li[data-step=f1]").click()
    until(lambda: lantern.all(f"{inside} li[aria-current=true]"), "the sentence chosen in the flow")
    before = rehearsal.state("moment")
    ActionChains(lantern.driver).send_keys("h").perform()
    until(lambda: rehearsal.state("moment") != before, "gone back")
    rehearsal.held("Press Get a quote")
    assert rehearsal.within() == ["Ask for a price of it"]
    rehearsal.do("over")
    rehearsal.held("6 ·")
    assert not lantern.all(inside), "the flow is closed behind it"
    rehearsal.do("over")
    rehearsal.held("Press Get a quote")

    # Only where a column says so; and the value of the column is changed for this rehearsal.
    rehearsal.part("Breakpoints")
    lantern.nth("[data-role=breakpoints] [data-point=f2] button", 1).click()
    lantern.fill("[aria-label='Value of the condition']", "${row.piece}").send_keys(Keys.TAB)
    lantern.fill("[aria-label='Expected by the condition']", "Tea caddy").send_keys(Keys.TAB)
    until(lambda: "if ${row.piece} is Tea caddy" in lantern.one("[data-point=f2]").text, "its when")
    lantern.press_one("[data-role=rehearsal] button", "More")
    lantern.press("Play this row from its start")
    rehearsal.held("5 ·")
    rehearsal.part("Values")
    lantern.one("[data-value='row.piece'] button").click()
    lantern.fill("[aria-label='Value of piece']", "Tea caddy").send_keys(Keys.ENTER)
    until(lambda: "changed" in lantern.one("[data-value='row.piece']").text, "the change told")
    rehearsal.do("play")
    rehearsal.held("Press Get a quote")

    # All off without losing them: it goes to its end.
    rehearsal.part("Breakpoints")
    lantern.one("[data-role=all-off]").click()
    until(lambda: lantern.one("[data-role=all-off]").is_selected(), "all off")
    rehearsal.do("play")
    rehearsal.over("it went well")
    lantern.go(f"/tests/{test}")
    lantern.press("Rehearsal")
    rehearsal.part("Breakpoints")
    until(lambda: len(lantern.all("[data-point]")) == 2, "both are still there")
    lantern.one("[data-role=all-off]").click()
    for _ in range(2):
        lantern.press_one("[data-point] button[aria-label^='Take out']")
    until(lambda: not lantern.all("[data-point]"), "none left")


def test_what_is_gone_is_held_searched_picked_again_and_kept(lantern):
    with lantern.stack.database.session() as session:
        clues = (Clue("name", "is", "Ask the kiln master"),)
        elements.save(session, Element("lost-ask", "Get a quote", "button", clues, page=QUOTE))
    test = make(
        lantern.stack,
        "Asks for what is gone",
        *SIGN_IN,
        step("a", "type", "piece", text="Moon jar"),
        Step("b", "press", "lost-ask", page=QUOTE),
        step("c", "check", "price", property="text", comparison="starts with", expected="€"),
        limit=1,
    )
    lantern.sign_in()
    desk = DeskMap(lantern)
    rehearsal = Rehearsal(lantern, test)
    rehearsal.begin()
    rehearsal.held("Press Get a quote")
    assert "was not on the page" in rehearsal.trouble
    lantern.press("Why was it not found?")
    lantern.one("[data-role=search-now]").click()
    until(lambda: lantern.one("[data-role=search]").get_attribute("data-state") == "done", "an end")
    lantern.one("[data-cause=gone]")

    lantern.press("Which one is it?")
    lantern.press("Edit the element, or pick it again")
    lantern.press("Pick again")
    lantern.click_stage(*desk["ask"])
    lantern.press("Save")
    lantern.sees("“Get a quote” is changed in 1 test.")
    rehearsal.do("again")
    rehearsal.over("it went well")
    rehearsal.part("Changed")
    until(lambda: lantern.all("[data-role=changes] li"), "what was changed")
    lantern.press("Keep")
    lantern.sees("All that you changed is kept.")


def test_a_repeat_that_fails_in_its_third_round_is_stopped_there_and_gets_a_check(lantern):
    test = make(
        lantern.stack,
        "Pieces by the dozen",
        *SIGN_IN,
        step("r", "repeat", times="4"),
        step("n", "type", "count", depth=1, text="${each.number}"),
        step("w", "check", "count", depth=1, property="value", comparison="is not", expected="3"),
        limit=1,
    )
    lantern.sign_in()
    rehearsal = Rehearsal(lantern, test)
    break_at(lantern, 7)
    lantern.press("Rehearsal")
    rehearsal.part("Breakpoints")
    lantern.press_one("[data-point=w] button", "When…")
    lantern.fill("[aria-label='From which time on']", "3").send_keys(Keys.TAB)
    until(lambda: "from time 3 on" in lantern.one("[data-point=w]").text, "its when")
    rehearsal.begin()
    rehearsal.held("7 ·")
    assert rehearsal.within() == ["round 3 of 4"]
    assert lantern.one("[data-role=story] [data-role=round]").text == "round 3 of 4"

    # On the spot: what is in the field now? The check is kept in the story.
    rehearsal.part("On the spot")
    lantern.select("[aria-label='Element of the sentence on the spot']", "Number of pieces")
    lantern.select("[aria-label='property on the spot']", "value")
    lantern.fill("[aria-label='expected on the spot']", "${each.number}")
    lantern.one("[data-role=do-on-the-spot]").click()
    until(lambda: "passed" in lantern.one("[data-role=spot-result]").text, "its result")
    lantern.one("[data-role=keep-spot]").click()
    until(lambda: len(lantern.sentences()) == 8, "it stands in the story")
    assert "Check that the value of Number of pieces is number" in lantern.sentences()[6]

    rehearsal.do("over")
    assert "was “3”" in rehearsal.trouble
    rehearsal.do("skip")
    rehearsal.held("6 ·")
    with lantern.stack.database.session() as session:
        steps = unpacked(tests.get(session, test)).steps
    assert [(one.action, one.depth) for one in steps[4:]] == [
        ("repeat", 0),
        ("type", 1),
        ("check", 1),
        ("check", 1),
    ]
    rehearsal.do("end")
    rehearsal.over("Ended by hand")


def test_what_is_recorded_and_pointed_at_while_it_is_held_is_kept_or_forgotten(lantern):
    lantern.sign_in()
    desk = DeskMap(lantern)
    test = make(
        lantern.stack, "Tried on the spot", *SIGN_IN, step("a", "type", "piece", text="Bowl")
    )
    rehearsal = Rehearsal(lantern, test)
    break_at(lantern, 5)
    rehearsal.begin()
    rehearsal.held("5 ·")
    rehearsal.part("On the spot")
    lantern.one("[data-role=record-on-the-spot]").click()
    lantern.one("[aria-label=Stage][data-recording=true]")
    lantern.click_stage(*desk["rush"])
    until(lambda: "Tick Rush" in lantern.sentences(), "what was recorded, before where it is held")
    assert lantern.sentences().index("Tick Rush") == 4
    lantern.one("[data-role=record-on-the-spot]").click()
    lantern.press("Forget them")
    until(lambda: "Tick Rush" not in lantern.sentences(), "forgotten")

    lantern.select("[aria-label='What to do on the spot']", "Press")
    lantern.one("[data-role=point-for-spot]").click()
    lantern.click_stage(*desk["ask"])
    until(lambda: "Get a quote (pointed at)" in lantern.driver.page_source, "what was pointed at")
    lantern.one("[data-role=do-on-the-spot]").click()
    until(lambda: "passed" in lantern.one("[data-role=spot-result]").text, "its result")
    lantern.press("Forget it")
    assert len(lantern.sentences()) == 5

    # Nothing else is played on this stage meanwhile, and that is said.
    lantern.choose(5)
    lantern.tool("Record on")
    lantern.sees("A rehearsal is under way on this stage. End it first.")
    until(lambda: lantern.one("[data-role=still-button]").is_enabled(), "nothing is busy")
    lantern.tool("Play to here")
    rehearsal.held("5 ·")
    rehearsal.do("end")


def test_a_failed_sentence_of_a_run_says_why_and_is_mended_from_there(lantern):
    with lantern.stack.database.session() as session:
        clues = (Clue("name", "is", "Book that firing"),)
        elements.save(session, Element("why-book", "Book it", "button", clues, page=QUOTE))
    test = make(
        lantern.stack,
        "Why it failed",
        *SIGN_IN,
        step("a", "type", "piece", text="Bowl"),
        step("b", "press", "ask", title="Cancel the booking"),
        Step("c", "press", "why-book", page=QUOTE),
        limit=2,
    )
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.press("Run")
    lantern.one("[data-role=offer]", 60)
    lantern.press("Let it fail")
    until(lambda: lantern.one("[data-role=run-state]").text == "failed", "its end", 60)
    next(a for a in lantern.all("a") if a.text.startswith("Open run ")).click()
    lantern.press_one("[data-role=step]", "Cancel the booking")
    assert "Get a quote" in lantern.one("article [data-role=contrary]").text
    lantern.press_one("[data-role=step]", "Press Book it")
    lantern.one("[data-role=search-result]").click()
    lantern.one("[data-role=why-result] [data-act='use clues']").click()
    lantern.sees("Done in the test. Run it once more to see.")
    with lantern.stack.database.session() as session:
        assert elements.load(session, ["why-book"])["why-book"].clues != clues
