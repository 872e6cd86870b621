"""The text of a test and the picture of its shape, in step with the sentences."""

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.ui.pages import until
from tests.ui.test_data import a_quote_that_pauses


def write_over(lantern, line_begin, text):
    """Put another text in the place of the line that begins so."""
    lines = until(lambda: lantern.all(".cm-line"), "the text")
    line = next(one for one in lines if one.text.strip().startswith(line_begin))
    lantern.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", line)
    line.click()
    chain = ActionChains(lantern.driver)
    chain.send_keys(Keys.END).key_down(Keys.SHIFT).send_keys(Keys.HOME).key_up(Keys.SHIFT)
    chain.send_keys(text, Keys.ESCAPE).perform()


def test_what_is_written_as_text_is_seen_in_the_sentences_and_the_other_way(lantern):
    test = a_quote_that_pauses(lantern.stack, "Written")
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.story_has("Keep the text of Price as price")
    lantern.press("Text")
    lantern.one(".cm-line")

    write_over(lantern, "with: {text: Moon jar", "with: {txt: Moon jar}")
    until(lambda: "text" in lantern.one("[data-role=trouble]").text, "what is wrong, and where")
    assert lantern.one("[data-role=trouble]").text.startswith("Line ")
    assert lantern.button("Put it in place").get_attribute("disabled")
    assert "Type Moon jar into Piece" in lantern.sentences()

    write_over(lantern, "with: {txt:", "with: {text: Vase}")
    until(lambda: not lantern.all("[data-role=trouble]"), "nothing wrong any more")
    lantern.press("Put it in place")
    until(lambda: "Type Vase into Piece" in lantern.sentences(), "the sentence")

    lantern.choose(7)
    lantern.tool("Delete")
    until(lambda: "do: pause" not in lantern.one(".cm-content").text, "the text without it")
    lantern.one("[aria-label=Undo]").click()
    until(lambda: "do: pause" in lantern.one(".cm-content").text, "the text with it again")


def test_the_shape_of_a_test_leads_to_its_sentences(lantern):
    test = a_quote_that_pauses(lantern.stack, "Has a shape")
    lantern.sign_in()
    lantern.go(f"/tests/{test}")
    lantern.story_has("Keep the text of Price as price")
    lantern.choose(5)
    lantern.tool("Repeat")
    until(lambda: any(s.startswith("Repeat") for s in lantern.sentences()), "a repeat")
    lantern.press("Shape")
    boxes = until(lambda: lantern.all("[data-role=box]"), "the boxes")
    repeat = next(box for box in boxes if "Repeat 2 times" in box.text)
    assert "again" in lantern.one("[data-role=shape]").text
    repeat.click()
    until(lambda: "Repeat" in lantern.one("li[data-step][aria-current=true]").text, "its sentence")


def test_a_step_in_python_is_written_called_with_a_form_and_says_where_it_fails(lantern):
    test = a_quote_that_pauses(lantern.stack, "Calls Python")
    lantern.sign_in()
    lantern.go("/flows")
    lantern.press("New flow")
    lantern.fill("form input.field", "Shout")
    lantern.one("[name=python]").click()
    lantern.press("Make it")
    lantern.one(".cm-line")
    write_over(lantern, "def work_out", "def work_out(text: str, count: lst = 1):")
    lantern.press("Save")
    until(lambda: "Line 1" in lantern.one("[data-role=trouble]").text, "the line of the error")
    write_over(lantern, "def work_out", "def work_out(text: str, count: int = 2):")
    lantern.press("Save")
    until(lambda: "2 unless given" in lantern.one("[data-role=takes]").text, "the new input")

    lantern.fill("[aria-label='text for the trial']", "Hot!")
    lantern.press("Run it once")
    until(lambda: "Hot! Hot!" in lantern.one("[data-role=tried]").text, "what it gave, unsaved")
    lantern.fill("[aria-label='count for the trial']", "many")
    lantern.press("Run it once")
    lantern.sees("count is 'many', which is no int")

    lantern.go(f"/tests/{test}")
    lantern.story_has("Keep the text of Price as price")
    lantern.press("Sentence")
    lantern.fill("[aria-label='Find an action or a flow']", "shout").send_keys(Keys.ENTER)
    called = "Do Shout with text (empty) , count 2"
    until(lambda: any(s.startswith("Do Shout") for s in lantern.sentences()), called)
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "the run's end", 60)
