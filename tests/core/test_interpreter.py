"""Playing a test without a browser: what is asked, how it ends, and what the results say."""

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.engine import requests as ask
from lantern.core.steps.model import Settings
from lantern.core.values.sources import Names
from lantern.core.values.templates import MASK
from tests.core.samples import FakeStage, element, node, step

QUOTE = element("Get a quote")
PRICE = element("Price", "text", id="price")
PIECE = element("Piece name", "text box", label="Piece name")
CLAY = element("Clay", "choice list", label="Clay")
piece_box = node("input", "Piece name", 2, label="Piece name")
clay_list = node("select", "Clay", 3, label="Clay")
price_text = node("output", "Price", 4, role="status", attributes={"id": "price"})


def only(stage):
    assert len(stage.results) == 1
    return stage.results[0]


def test_a_press_waits_until_the_button_comes():
    """A lookup waits for what comes late, and says how much of the limit it took."""
    stage = FakeStage(node(name="Get a quote"), appears={"Get a quote": 1.0})
    assert stage.play(step("press", QUOTE), elements=[QUOTE]) == "passed"
    assert stage.did == [("press", "left", 1)]
    assert 1.0 <= only(stage).used < 1.5
    assert only(stage).limit == 2


def test_what_never_comes_is_not_found_and_the_nearest_thing_is_named():
    stage = FakeStage(node(name="Get quotes"))
    assert stage.play(step("press", QUOTE), elements=[QUOTE]) == "failed"
    result = only(stage)
    assert result.reason == "not found"
    assert "“Get a quote” was not on the page within 2 s" in result.message
    assert "“Get quotes”" in result.message
    assert result.lookups[0]["clues"] == [{"clue": "name is “Get a quote”", "held_by": 0}]


def test_several_that_match_are_not_guessed_at():
    stage = FakeStage(node(name="Get a quote"), node(name="Get a quote", handle=9))
    assert stage.play(step("press", QUOTE), elements=[QUOTE]) == "failed"
    assert only(stage).reason == "found several"
    assert "found 2 times" in only(stage).message
    assert stage.did == []


def test_a_hidden_twin_does_not_count_beside_one_that_is_shown():
    hidden = node(name="Get a quote", handle=9, visible=False)
    stage = FakeStage(hidden, node(name="Get a quote"))
    assert stage.play(step("press", QUOTE), elements=[QUOTE]) == "passed"


@pytest.mark.parametrize(
    ("problem", "words"),
    [
        ("covered", "is covered by div “Notice”"),
        ("disabled", "is shown but disabled"),
        ("hidden", "is on the page but not shown"),
        ("moving", "does not stop moving"),
    ],
)
def test_what_is_there_but_not_ready_says_why(problem, words):
    stage = FakeStage(node(name="Get a quote"), problems={"Get a quote": problem})
    assert stage.play(step("press", QUOTE), elements=[QUOTE]) == "failed"
    assert only(stage).reason == "not ready"
    assert words in only(stage).message


def test_an_open_dialog_is_said_at_once_instead_of_waited_for():
    stage = FakeStage(node(name="Get a quote"))
    stage.dialog = "Delete the firing?"
    assert stage.play(step("press", QUOTE), elements=[QUOTE]) == "failed"
    assert "Delete the firing?" in only(stage).message
    assert only(stage).used < 1


def test_a_dialog_is_answered_and_its_message_kept():
    stage = FakeStage()
    stage.dialog = "Delete the firing?"
    assert stage.play(step("dialog", answer="Cancel")) == "passed"
    assert stage.did == [("dialog", False, "")]
    assert only(stage).found == "Delete the firing?"


def test_a_dialog_that_never_opens_fails():
    stage = FakeStage()
    assert stage.play(step("dialog", answer="OK")) == "failed"
    assert "No browser dialog opened" in only(stage).message


def test_a_check_waits_until_the_value_is_as_expected():
    stage = FakeStage(price_text, values={("Price", "text"): " €  5.40 "})
    check = step("check", PRICE, property="text", comparison="is", expected="€ 5.40")
    assert stage.play(check, elements=[PRICE]) == "passed"
    assert (only(stage).expected, only(stage).found) == ("€ 5.40", "€ 5.40")


def test_a_check_that_differs_says_expected_and_found():
    stage = FakeStage(price_text, values={("Price", "text"): "€ 7.30"})
    check = step("check", PRICE, property="text", comparison="is", expected="€ 5.40")
    assert stage.play(check, elements=[PRICE]) == "failed"
    result = only(stage)
    assert (result.reason, result.expected, result.found) == ("check differed", "€ 5.40", "€ 7.30")
    assert result.used >= 2


def test_a_check_that_something_is_not_shown_passes_when_it_is_gone():
    check = step("check", PRICE, property="shown", comparison="is", expected="no")
    assert FakeStage().play(check, elements=[PRICE]) == "passed"
    assert FakeStage(price_text).play(check, elements=[PRICE]) == "failed"


def test_a_check_of_what_is_not_there_is_not_found():
    stage = FakeStage()
    check = step("check", PRICE, property="text", comparison="is", expected="€ 5.40")
    assert stage.play(check, elements=[PRICE]) == "failed"
    assert only(stage).reason == "not found"
    assert "within 2 s" in only(stage).message


def test_an_option_that_is_not_offered_fails_at_once_with_the_nearest():
    stage = FakeStage(clay_list, options=["Stoneware", "Porcelain"])
    assert stage.play(step("choose", CLAY, option="Stonewear"), elements=[CLAY]) == "failed"
    result = only(stage)
    assert result.message == (
        "“Stonewear” is not among the 2 options of Clay: Stoneware, Porcelain."
    )
    assert result.hint == "Did you mean “Stoneware”?"
    assert result.used < 1


def test_an_option_that_a_script_brings_late_is_waited_for():
    stage = FakeStage(clay_list, options=["Choose…"])
    first = stage.answer

    def answer(request):
        if stage.time > 0.3:
            stage.options = ["Choose…", "Raku"]
        return first(request)

    stage.answer = answer
    assert stage.play(step("choose", CLAY, option="Raku"), elements=[CLAY]) == "passed"


def test_after_a_failure_the_rest_is_skipped_unless_it_should_go_on():
    steps = [step("press", QUOTE), step("type", PIECE, text="Moon jar")]
    stopped, going = FakeStage(piece_box), FakeStage(piece_box)
    assert stopped.play(*steps, elements=[QUOTE, PIECE]) == "failed"
    assert [r.outcome for r in stopped.results] == ["failed", "skipped"]
    settings = Settings(limit=2, on_failure="go on")
    assert going.play(*steps, elements=[QUOTE, PIECE], settings=settings) == "failed"
    assert [r.outcome for r in going.results] == ["failed", "passed"]


def test_a_step_can_overrule_the_limit_and_what_happens_on_failure():
    steps = [step("press", QUOTE, limit=0.3, on_failure="go on"), step("type", PIECE, text="x")]
    stage = FakeStage(piece_box)
    stage.play(*steps, elements=[QUOTE, PIECE])
    assert [r.outcome for r in stage.results] == ["failed", "passed"]
    assert stage.results[0].limit == 0.3
    assert stage.results[0].used < 1


def test_a_step_that_is_switched_off_is_skipped():
    stage = FakeStage(piece_box)
    assert stage.play(step("type", PIECE, text="x", enabled=False), elements=[PIECE]) == "passed"
    assert (only(stage).outcome, stage.did) == ("skipped", [])


def test_values_come_from_the_row_and_secrets_are_masked_in_results():
    names = Names(row={"piece": "Moon jar"}, secret={"pin": "wheel-and-kiln"})
    stage = FakeStage(piece_box)
    stage.play(
        step("type", PIECE, text="${row.piece}"),
        step("type", PIECE, text="${secret.pin}"),
        elements=[PIECE],
        names=names,
    )
    assert stage.did == [("type", "Moon jar"), ("type", "wheel-and-kiln")]
    assert stage.results[0].sentence == "Type “Moon jar” into Piece name"
    assert stage.results[1].sentence == f"Type “{MASK}” into Piece name"


def test_a_secret_that_the_page_shows_is_masked_as_well():
    names = Names(secret={"pin": "wheel-and-kiln"})
    stage = FakeStage(price_text, values={("Price", "text"): "your pin is wheel-and-kiln"})
    check = step("check", PRICE, property="text", comparison="is", expected="x")
    stage.play(check, elements=[PRICE], names=names)
    assert "wheel-and-kiln" not in repr(only(stage))


def test_an_unknown_column_fails_with_the_columns_that_exist():
    stage = FakeStage(piece_box)
    step_ = step("type", PIECE, text="${row.peice}")
    assert stage.play(step_, elements=[PIECE], names=Names(row={"piece": "x"})) == "failed"
    assert only(stage).reason == "bad value"
    assert "Did you mean piece?" in only(stage).hint


def test_a_page_that_answers_with_an_error_is_a_page_error():
    stage = FakeStage()
    stage.opened = ask.Opened(status=500)
    assert stage.play(step("open", address="/quote")) == "failed"
    assert only(stage).reason == "page error"
    assert stage.did == [("open", "http://desk/quote")]


@pytest.mark.parametrize("address", ["file:///etc/passwd", "javascript:alert(1)", "about:blank"])
def test_only_web_addresses_are_opened(address):
    stage = FakeStage()
    assert stage.play(step("open", address=address)) == "failed"
    assert stage.did == []


def test_a_browser_that_dies_ends_the_row_whatever_the_settings():
    stage = FakeStage(node(name="Get a quote"), piece_box)
    stage.dies_at = 4
    settings = Settings(limit=2, on_failure="go on")
    steps = [step("press", QUOTE), step("type", PIECE, text="x")]
    assert stage.play(*steps, elements=[QUOTE, PIECE], settings=settings) == "failed"
    assert stage.results[0].reason == "browser died"
    assert stage.results[1].outcome == "skipped"


def test_pictures_are_taken_as_the_settings_say():
    def pictured(pictures, name):
        stage = FakeStage(node(name=name))
        stage.play(
            step("press", QUOTE), elements=[QUOTE], settings=Settings(limit=1, pictures=pictures)
        )
        return bool(only(stage).picture)

    assert [pictured(p, "Get a quote") for p in ("each step", "failures", "none")] == [
        True,
        False,
        False,
    ]
    assert [pictured(p, "Other") for p in ("each step", "failures", "none")] == [True, True, False]


def test_a_window_is_found_by_a_title_whose_number_is_open():
    stage = FakeStage()
    stage.windows.append(ask.Window("w2", "Firing no. 17", "http://desk/ticket/17"))
    assert stage.play(step("window", window="Firing no. #")) == "passed"
    assert stage.did == [("SwitchTo", "w2")]


def test_a_window_that_never_opens_lists_those_that_are_open():
    stage = FakeStage()
    assert stage.play(step("window", window="Firing no. #")) == "failed"
    assert "“Quote”" in only(stage).message


def test_a_tick_box_is_pressed_only_when_it_is_not_as_wanted():
    box = node("input", "Rush", 5, label="Rush", attributes={"type": "checkbox"})
    rush = element("Rush", "tick box", label="Rush")
    for state, action, presses in [("yes", "tick", 0), ("no", "tick", 1), ("yes", "untick", 1)]:
        stage = FakeStage(box, values={("Rush", "ticked"): state})
        stage.play(step(action, rush), elements=[rush])
        assert len(stage.did) == presses


def test_a_deleted_element_and_an_unknown_action_fail_with_words():
    stage = FakeStage()
    assert stage.play(step("press", QUOTE), step("juggle")) == "failed"
    assert stage.results[0].message == "The element of this sentence was deleted."


def test_position_picks_among_those_that_match():
    clues = (Clue("name", "is", "Menu"), Clue("position", "is", "2"))
    second = Element("e2", "Menu", "button", clues)
    stage = FakeStage(node(name="Menu", handle=1), node(name="Menu", handle=2))
    assert stage.play(step("press", second), elements=[second]) == "passed"
    assert Clue("position", "is", "2").sentence() == "number 2 of those that match"
