"""Proving what was recorded, through the pages: offered, played, told where it differs."""

from tests.ui.desk_map import DeskMap
from tests.ui.pages import until
from tests.ui.test_pointing import keep


def ask_for_a_price(lantern, desk):
    lantern.record()
    lantern.sign_in_on_stage(desk)
    lantern.click_stage(*desk["piece"])
    lantern.type_stage("Moon jar")
    lantern.story_has("Type Moon jar into Piece name")
    lantern.click_stage(*desk["ask"])
    lantern.story_has("Press Get a quote")
    lantern.press("Stop")


def take_out_the_piece(lantern):
    number = next(
        n for n, said in enumerate(lantern.sentences(), 1) if said.startswith("Type Moon jar")
    )
    lantern.choose(number)
    lantern.tool("Delete")
    until(lambda: len(lantern.sentences()) == number, "one sentence less")


def test_a_recording_is_offered_to_be_proved_and_what_differs_is_told(lantern):
    lantern.sign_in()
    desk = DeskMap(lantern)
    lantern.new_test("A price, proved")
    ask_for_a_price(lantern, desk)
    lantern.sees("Recorded, but not played yet.")
    keep(lantern, "prove-offered")
    lantern.tool("Prove it")
    lantern.sees("Proved: after every sentence the page was as it was while recording.", 60)
    until(lambda: not lantern.all("[data-role=proof]"), "nothing more to prove")

    # Without its piece the quote is refused, though every sentence that is left can be played.
    take_out_the_piece(lantern)
    lantern.tool("Prove it")
    lantern.sees("One sentence did something else than while recording.", 60)
    told = lantern.one("[data-role=proof]").text
    assert "Press Get a quote" in told
    assert "did not appear" in told
    keep(lantern, "prove-differs")

    lines = len(lantern.all("[data-role=proof] li"))
    lantern.press("Set aside")
    until(lambda: len(lantern.all("[data-role=proof] li")) < lines, "one difference less")


def test_a_green_run_that_did_something_else_is_no_baseline(lantern):
    lantern.sign_in()
    desk = DeskMap(lantern)
    lantern.new_test("A price, run at once")
    ask_for_a_price(lantern, desk)
    take_out_the_piece(lantern)
    lantern.press("Run")
    until(lambda: lantern.one("[data-role=run-state]").text == "passed", "a green run", 60)
    panel = "[aria-label=Drawer]"
    until(lambda: "Green, but not as recorded" in lantern.one(panel).text, "the warning")
    assert not lantern.all("[data-role=offer-baseline]")
    assert "Press Get a quote" in lantern.one("[data-role=proof]").text
