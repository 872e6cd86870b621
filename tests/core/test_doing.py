"""Doing things at a place, by a distance, with keys; pages that go away meanwhile."""

import pytest

from lantern.core.engine import requests as ask
from lantern.core.engine.interpreter import Script, play_row
from lantern.core.problems import BadInput
from lantern.core.steps.actions.pressing import place_in
from lantern.core.steps.model import Document, Settings
from lantern.core.values.sources import Names
from tests.core.samples import FakeStage, element, node, step

PLAN = node("button", "Plan", 1)
ON = element("Plan")


def script_of(*steps):
    document = Document(steps, settings=Settings(limit=2))
    return Script(document, {ON.id: ON}, Names(), "http://desk", {})


def play(stage, *steps):
    """Play steps; gives what was asked for, apart from looking and telling."""
    asked = []
    play = play_row(script_of(*steps))
    answer = None
    while True:
        try:
            request = play.send(answer)
        except StopIteration:
            return asked
        asked.append(request)
        answer = stage.answer(request)


def those(asked, kind):
    return [one for one in asked if isinstance(one, kind)]


def test_a_press_goes_to_the_place_that_the_sentence_names():
    asked = play(FakeStage(PLAN), step("press", ON, at="25% 60%"))
    assert [one.at for one in those(asked, ask.Aim)][-1] == (0.25, 0.6)
    plain = play(FakeStage(PLAN), step("press", ON))
    assert [one.at for one in those(plain, ask.Aim)] == [None]


@pytest.mark.parametrize("text", ["middle", "25%", "120% 3%", "25 60"])
def test_what_is_no_place_is_refused_with_an_example(text):
    with pytest.raises(BadInput) as error:
        place_in(text)
    assert "25% 60%" in error.value.hint


def test_keys_are_pressed_one_after_the_other():
    asked = play(FakeStage(PLAN), step("key", ON, keys="ArrowDown ArrowDown Enter"))
    assert [one.keys for one in those(asked, ask.PressKey)] == ["ArrowDown", "ArrowDown", "Enter"]


def test_a_drag_by_a_distance_begins_in_the_thing():
    (drag,) = those(play(FakeStage(PLAN), step("drag by", ON, right="40", down="-5")), ask.Drag)
    assert (drag.to_x - drag.x, drag.to_y - drag.y) == (40, -5)


@pytest.mark.parametrize(("focus", "presses"), [("yes", 0), ("no", 1)])
def test_typing_goes_on_at_the_caret_and_presses_only_where_the_focus_is_elsewhere(focus, presses):
    stage = FakeStage(PLAN, values={("Plan", "focused"): focus})
    asked = play(stage, step("type on", ON, text="clay"))
    assert len(those(asked, ask.Mouse)) == presses
    assert [one.text for one in those(asked, ask.Letters)] == ["clay"]


class Replaced(FakeStage):
    """A stage whose page goes away over the first requests of some kinds."""

    def __init__(self, *nodes, over, times=2):
        super().__init__(*nodes)
        self.over, self.times, self.did_what = over, times, []

    def lost(self, request):
        if isinstance(request, self.over) and self.times:
            self.times -= 1
            self.did_what.append(type(request).__name__)
            return True
        return False


def played(stage, *steps):
    play, answer, lost = play_row(script_of(*steps)), None, False
    ends = []
    while True:
        try:
            request = play.throw(ask.PageGone("replaced")) if lost else play.send(answer)
        except StopIteration as end:
            return end.value, ends
        lost = stage.lost(request)
        if isinstance(request, ask.StepEnds):
            ends.append(request.result)
        answer = None if lost else stage.answer(request)


def test_a_document_that_is_being_replaced_is_waited_for():
    stage = Replaced(PLAN, over=ask.Lookup)
    outcome, _ = played(stage, step("press", ON))
    assert outcome == "passed"
    assert stage.did_what == ["Lookup", "Lookup"]


def test_what_may_have_been_done_is_not_done_again():
    stage = Replaced(PLAN, over=ask.Mouse, times=5)
    outcome, ends = played(stage, step("press", ON))
    assert outcome == "failed"
    assert stage.did_what == ["Mouse"]
    assert "went away" in ends[-1].message


def test_scrolling_goes_on_until_what_is_looked_for_is_drawn():
    stage = FakeStage(PLAN, appears={"Plan": 1.0})
    asked = play(stage, step("scroll", ON, down="7000"))
    scrolls = those(asked, ask.ScrollOn)
    assert scrolls[0].down == 7000
    assert len(scrolls) > 1
    assert all(one.down is None for one in scrolls[1:])
