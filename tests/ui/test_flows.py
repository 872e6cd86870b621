"""Flows and blocks: made of sentences, called again elsewhere, renamed, put into conditions."""

from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from lantern.core.steps.model import Document, Step
from lantern.store import tests
from tests.ui.pages import until
from tests.ui.test_data import a_quote_that_pauses


def choose_to(lantern, first, last):
    lantern.choose(first)
    number = lantern.nth("li[data-step] > span:nth-child(2)", last - 1)
    ActionChains(lantern.driver).key_down(Keys.SHIFT).click(number).key_up(Keys.SHIFT).perform()
    until(
        lambda: len(lantern.all("li[data-step][aria-current=true]")) == last - first + 1,
        "the range",
    )


def open_call(lantern):
    """The way back, in what opens at a call; a story that is drawn anew meanwhile closes it."""
    back = lantern.all("[data-role=put-back]")
    if not back:
        lantern.one("[data-role=flow]").click()
    return back and back[0]


def test_a_flow_is_made_used_in_a_second_test_and_renamed_with_its_places(lantern):
    first = a_quote_that_pauses(lantern.stack, "The first that signs in")
    second = a_quote_that_pauses(lantern.stack, "The second that signs in")
    lantern.sign_in()
    lantern.go(f"/tests/{first}")
    lantern.story_has("Keep the text of Price as price")
    choose_to(lantern, 1, 4)
    lantern.tool("Make a flow of these")
    lantern.fill("[name=flow]", "Come in")
    lantern.one("[aria-label='mara as an input']").click()
    lantern.fill("[aria-label='Name for mara']", "member")
    lantern.press("Make the flow")
    # The other test has the same sentences; they are offered, and left this time.
    lantern.sees("The second that signs in")
    lantern.press("Leave them")
    until(lambda: lantern.sentences()[:1] == ["Do Come in with member mara"], "the call")

    lantern.go(f"/tests/{second}")
    lantern.story_has("Keep the text of Price as price")
    choose_to(lantern, 1, 4)
    lantern.tool("Delete")
    until(lambda: len(lantern.sentences()) == 4, "the sentences gone")
    lantern.press("Sentence")
    lantern.fill("[aria-label='Find an action or a flow']", "come").send_keys(Keys.ENTER)
    until(lambda: "Do Come in with member mara" in lantern.sentences(), "the flow found and called")
    call = next(n for n, words in enumerate(lantern.sentences(), 1) if words.startswith("Do "))
    for _ in range(call - 1):
        lantern.choose(call)
        lantern.tool("Move up")
        call -= 1
        until(lambda at=call: lantern.sentences()[at - 1].startswith("Do "), "one further up")
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "the run's end", 60)
    next(a for a in lantern.all("a") if a.text.startswith("Open run ")).click()
    until(
        lambda: any("Come in" in s.text for s in lantern.all("[data-role=step]")), "what was in it"
    )

    lantern.go("/flows")
    row = lantern.one("[data-role=flow-row]")
    until(lambda: "The second that signs in" in row.text, "both that call it")
    assert "The first that signs in" in row.text
    row.find_element(By.TAG_NAME, "a").click()
    lantern.sees("The second that signs in")
    lantern.fill("[aria-label='Name of input 1']", "who")
    lantern.press("Save, and change 2 that call it")
    until(lambda: "Type who into Member name" in lantern.sentences(), "the flow's own sentence")
    lantern.fill("[aria-label='Name of the test']", "Enter the studio").send_keys(Keys.TAB)
    lantern.go(f"/tests/{first}")
    until(lambda: lantern.sentences()[:1] == ["Do Enter the studio with who mara"], "the new names")

    until(lambda: open_call(lantern), "what can be done with the call").click()
    until(lambda: lantern.sentences()[:1] == ["Open /sign-in"], "its own sentences again")
    lantern.go("/flows")
    lantern.press("Delete Enter the studio")
    lantern.sees("Its sentences are put back where it is called:")
    lantern.press("Delete the flow")
    lantern.sees("No flow yet")


def test_sentences_are_put_into_a_condition_that_is_played(lantern):
    test = a_quote_that_pauses(lantern.stack, "Only if there is something")
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.story_has("Keep the text of Price as price")
    choose_to(lantern, 7, 8)
    lantern.tool("If")
    until(lambda: "If Price is shown up to 1 s" in " ".join(lantern.sentences()), "the condition")
    assert lantern.one("li[data-depth='1']").get_attribute("data-action") == "pause"
    lantern.choose(9)
    lantern.tool("Out of the block")
    until(lambda: len(lantern.all("li[data-depth='1']")) == 1, "one out of the block")
    lantern.tool("Into the block above")
    until(lambda: len(lantern.all("li[data-depth='1']")) == 2, "and in again")
    lantern.choose(7)
    lantern.one("[role=tablist]")
    lantern.press("Limits")
    until(
        lambda: "1 s hold now, from every “If”" in lantern.one("[data-role=limit-from]").text, "why"
    )
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "the run's end", 60)


def test_a_constant_becomes_a_column_and_the_column_gets_another_name(lantern):
    test = a_quote_that_pauses(lantern.stack, "Constants everywhere")
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.press("Constants")
    lantern.press("Replace “Moon jar”")
    lantern.fill("[aria-label='Its name']", "my piece")
    lantern.press("Replace")
    lantern.sees("use letters, digits and underscores")
    lantern.fill("[aria-label='Its name']", "piece")
    lantern.press("Replace")
    until(lambda: "Type piece into Piece" in lantern.sentences(), "the column")
    lantern.press("Rows (1)")
    lantern.press("Column piece")
    lantern.sees("Type “${row.piece}” into Piece")
    lantern.fill("[name=rename]", "what")
    lantern.press("Rename")
    until(lambda: "Type what into Piece" in lantern.sentences(), "the new name in the sentence")


def test_a_clean_run_becomes_the_baseline_and_a_later_failure_is_held_against_it(lantern):
    test = a_quote_that_pauses(lantern.stack, "With a baseline")
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.story_has("Keep the text of Price as price")
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "the first clean run", 60)
    lantern.one("[data-role=offer-baseline]")
    lantern.press("Mark as baseline")
    until(lambda: not lantern.all("[data-role=offer-baseline]"), "the offer taken")
    lantern.choose(6)
    lantern.tool("Delete")
    until(lambda: len(lantern.sentences()) == 7, "one sentence gone")
    lantern.press("Versions")
    until(lambda: "Press Ask" in lantern.one("[data-role=change]").text, "what changed since")
    assert "baseline" in lantern.nth("[data-role=version]", -1).text
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "failed", "the failure", 60)
    until(lambda: lantern.one("[data-outcome=failed]").size["width"] > 0, "the bar shows it")
    assert not any(e.size["width"] for e in lantern.all("[data-outcome=passed]"))
    next(a for a in lantern.all("a") if a.text.startswith("Open run ")).click()
    until(lambda: "Press Ask" in lantern.one("[data-role=suspects]").text, "the likely cause")

    lantern.go(f"/tests/{test}")
    lantern.press("Versions")
    lantern.one("[data-role=version]")
    lantern.nth("[data-role=version]", -1).click()
    lantern.press("Restore")
    until(lambda: len(lantern.sentences()) == 8, "the sentence is back")
    lantern.sees("Nothing has changed since.")
    lantern.press("Run version 1")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "the baseline again", 60)


DROP = """const [from, onto] = arguments
const dataTransfer = new DataTransfer()
const fire = (node, type) => node.dispatchEvent(new DragEvent(type, {bubbles: true, dataTransfer}))
fire(from, 'dragstart'); fire(onto, 'dragover'); fire(onto, 'drop')"""


def test_a_flow_is_dragged_behind_a_sentence(lantern):
    test = a_quote_that_pauses(lantern.stack, "Gets a flow by dragging")
    with lantern.stack.database.session() as session:
        steps = (Step("w1", "reload"),)
        tests.create(session, "Look again", 1, None, Document(steps), kind="flow")
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.story_has("Keep the text of Price as price")
    lantern.press("Sentence")
    lantern.fill("[aria-label='Find an action or a flow']", "look again")
    entry = lantern.button("Look again")
    lantern.driver.execute_script(DROP, entry, lantern.nth("li[data-step]", 4))
    until(lambda: lantern.sentences()[5] == "Do Look again", "the call behind sentence 5")
