"""What each action asks of the page, and what it says when that can not be."""

from dataclasses import replace

import pytest

from lantern.core.elements.clues import Clue, Element
from lantern.core.engine import requests as ask
from lantern.core.values.sources import Names
from tests.core.samples import FakeStage, element, node, step

search = node("button", "Search", 1)
piece = node("div", "", 2, text="Tea caddy", role="")
shelf = node("section", "Top shelf", 3, role="region", text="Top shelf")
gap = node("div", "Door gap", 4, role="slider")
finish = node("input", "Finish", 5, role="combobox")
photo = node("input", "Photo", 6, role="", attributes={"type": "file"})


def failure(stage):
    return next(result for result in stage.results if result.outcome == "failed")


@pytest.mark.parametrize(
    ("action", "did"),
    [
        ("go back", ("history", "back")),
        ("go forward", ("history", "forward")),
        ("reload", ("history", "reload")),
    ],
)
def test_the_history_of_the_browser(action, did):
    stage = FakeStage()
    assert stage.play(step(action)) == "passed"
    assert stage.did == [did]


def test_pointing_at_something_moves_the_mouse_there():
    stage, it = FakeStage(search), element("Search")
    assert stage.play(step("hover", it), elements=[it]) == "passed"
    assert stage.did == [("point", 50, 20)]


def test_dragging_goes_from_one_element_to_the_other():
    stage = FakeStage(piece, shelf)
    one = element("Tea caddy", "text", text="Tea caddy")
    other = element("Top shelf", "text")
    sentence = replace(step("drag", one), onto=other.id)
    assert stage.play(sentence, elements=[one, other]) == "passed"
    assert stage.did == [("drag", (50, 20), (50, 20))]
    assert stage.play(step("drag", one), elements=[one, other]) == "failed"
    assert "needs an element to drag to" in failure(stage).message


def test_adding_text_leaves_what_is_in_the_field():
    field = node("input", "Remarks", 9)
    stage, it = FakeStage(field), element("Remarks", "text box")
    assert stage.play(step("add text", it, text=" more"), elements=[it]) == "passed"
    assert stage.did == [("add", " more")]


def test_a_slider_is_pressed_and_then_brought_to_the_value_by_keys():
    stage, it = FakeStage(gap), element("Door gap", "slider")
    stage.values = {("Door gap", "lowest"): "0", ("Door gap", "highest"): "10"}
    stage.slider = 5
    assert stage.play(step("slide", it, value="7"), elements=[it]) == "passed"
    assert stage.did[1:] == [("key", "ArrowRight"), ("key", "ArrowRight")]


@pytest.mark.parametrize(
    ("value", "words"),
    [("11", "goes from 0 to 10"), ("much", "is a number"), ("2.5", "nearest was")],
)
def test_a_slider_that_can_not_be_set_says_why(value, words):
    stage, it = FakeStage(gap), element("Door gap", "slider")
    stage.values = {("Door gap", "lowest"): "0", ("Door gap", "highest"): "10"}
    stage.slider = 2
    assert stage.play(step("slide", it, value=value), elements=[it]) == "failed"
    assert words in failure(stage).message


def test_a_list_of_the_page_is_opened_and_the_option_pressed_when_it_shows():
    option = node("li", "Celadon", 7, role="option")
    stage = FakeStage(finish, option, appears={"Celadon": 0.5})
    it = element("Finish", "choice list")
    assert stage.play(step("choose", it, option="celadon"), elements=[it]) == "passed"
    assert stage.did == [("press", "left", 1), ("press", "left", 1)]


def test_an_option_that_is_not_shown_is_typed_and_then_named_with_what_there_was():
    option = node("li", "Celadon", 7, role="option")
    stage, it = FakeStage(finish, option), element("Finish", "choice list")
    assert stage.play(step("choose", it, option="Celadin"), elements=[it]) == "failed"
    assert ("type", "Celadin") in stage.did
    assert "Did you mean “Celadon”?" in failure(stage).hint


def test_a_shown_list_that_stays_without_the_option_fails_long_before_the_limit():
    option = node("li", "Celadon", 7, role="option")
    stage, it = FakeStage(finish, option), element("Finish", "choice list")
    assert stage.play(step("choose", it, option="Matt", limit=60), elements=[it]) == "failed"
    assert failure(stage).used < 5


def test_files_are_given_even_to_a_field_that_is_not_shown():
    stage = FakeStage(photo, problems={"Photo": "hidden"})
    stage.files = ["jar.png", "bowl.png"]
    it = element("Photo", "file box")
    assert stage.play(step("upload", it, file="jar.png\nbowl.png"), elements=[it]) == "passed"
    assert stage.did == [("files", "jar.png", "bowl.png")]
    assert stage.play(step("upload", it, file="lost.png"), elements=[it]) == "failed"
    assert "keeps no file named “lost.png”" in failure(stage).message


def test_a_download_is_waited_for_kept_and_checked():
    stage = FakeStage()
    stage.downloads = [ask.Download("d1", "prices-7.csv", 12, "done", "shelf,price")]
    take = step("download", name="prices-#.csv")
    check = step("check download", detail="text", comparison="contains", expected="price")
    assert stage.play(take, check) == "passed"
    assert stage.results[0].files == ({"name": "d1", "size": 3, "digest": "d"},)
    wrong = step("check download", detail="size", comparison="is", expected="13")
    assert stage.play(wrong) == "failed"
    assert failure(stage).found == "12"


def test_a_download_that_never_comes_says_which_there_were():
    stage = FakeStage()
    stage.downloads = [ask.Download("d1", "other.csv", 0, "under way")]
    assert stage.play(step("download", name="prices.csv", limit=0.3)) == "failed"
    assert "“other.csv”" in failure(stage).message
    assert stage.play(step("check download", detail="name", comparison="is", expected="x")) == (
        "failed"
    )


def test_the_value_of_a_clue_may_come_from_the_row():
    rows = [
        node("button", "Menu", n, row=(name,), cells={"Piece": name})
        for n, name in enumerate(("Moon jar", "Tea caddy"), 1)
    ]
    menu = Element(
        "m",
        "Menu",
        "button",
        (Clue("name", "is", "Menu"), Clue("cell Piece", "is", "${row.piece}")),
    )
    stage = FakeStage(*rows)
    names = Names(row={"piece": "Tea caddy"})
    assert stage.play(step("press", menu), elements=[menu], names=names) == "passed"
    assert stage.results[0].sentence == "Press Menu in the row where Piece is “${row.piece}”"


def test_a_secret_in_a_clue_is_in_no_evidence():
    button = node("button", "Open kiln-4711", 1)
    it = Element("k", "Kiln", "button", (Clue("name", "is", "Open ${secret.pin}"),))
    stage = FakeStage(button)
    names = Names(secret={"pin": "kiln-4711"})
    assert stage.play(step("press", it), elements=[it], names=names) == "passed"
    missing = replace(it, clues=(Clue("name", "is", "Shut ${secret.pin}"),))
    assert stage.play(step("press", missing), elements=[missing], names=names) == "failed"
    assert "kiln-4711" not in repr(stage.results)


def test_what_weak_clues_lead_to_is_not_pressed_when_it_looks_like_another():
    def row(handle, piece):
        return node("button", "Menu", handle, path="body > button", row=(piece,))

    known, other = row(1, "Moon jar"), row(2, "Tea caddy")
    it = Element(
        "m", "Menu", "button", (Clue("path", "is", "body > button"),), seen=known,
        lookalikes=(other,),
    )  # fmt: skip
    stage = FakeStage(other)
    assert stage.play(step("press", it, limit=0.3), elements=[it]) == "failed"
    assert "looks like another thing" in failure(stage).message
    assert not [one for one in stage.did if one[0] == "press"]


OUTCOME = element("Price", "text", id="price")
REFUSAL = element("Refusal", "text", id="refusal")


@pytest.mark.parametrize(
    ("expected", "there", "outcome"),
    [
        ("€ 5.40", {"Price": "€ 5.40"}, "passed"),
        ("€ 5.40", {"Price": "€ 6.00"}, "failed"),
        ("€ 5.40", {"Refusal": "Raku is never rushed"}, "failed"),
        ("refused", {"Refusal": "Raku is never rushed"}, "passed"),
        ("never rushed", {"Refusal": "Raku is never rushed"}, "passed"),
        ("too many", {"Refusal": "Raku is never rushed"}, "failed"),
        ("refused", {"Price": "€ 5.40"}, "failed"),
        ("refused", {}, "failed"),
    ],
)
def test_an_outcome_is_a_value_or_a_refusal(expected, there, outcome):
    nodes = [
        node("output", name, n, text=text, attributes={"id": name.lower()})
        for n, (name, text) in enumerate(there.items(), 1)
    ]
    values = {(name, "text"): text for name, text in there.items()}
    stage = FakeStage(*nodes, values=values)
    check = replace(step("check outcome", OUTCOME, expected=expected), onto=REFUSAL.id)
    assert stage.play(check, elements=[OUTCOME, REFUSAL]) == outcome
    if outcome == "failed":
        assert f"“{expected}” was expected" in failure(stage).message
