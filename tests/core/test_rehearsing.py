"""Rehearsing: where it stops, what is done while it is held, and where it begins."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.engine import requests as ask
from lantern.core.problems import BadInput, Missing, UnknownName
from lantern.core.rehearsing.beginning import Needs, missing, needs
from lantern.core.rehearsing.breakpoints import Breakpoint, Condition
from lantern.core.steps.model import Document, Step
from tests.core.rehearsed import BOOK, FLOW, SAVE, TEST, Rehearsed, block, key, save
from tests.core.samples import FakeStage, node

WAYS = st.sampled_from(["play", "over", "into", "out"])
POINTS = st.lists(
    st.builds(
        Breakpoint,
        st.sampled_from([TEST, int(FLOW)]),
        st.sampled_from(["a", "b", "c", "call", "f1", "f2", "z", "maybe"]),
        st.sampled_from([None, TEST, 8]),
        st.booleans(),
        st.builds(Condition, times=st.integers(1, 3), row=st.integers(0, 2)),
    ),
    max_size=5,
)


@given(st.lists(WAYS, max_size=40), POINTS, WAYS)
def test_however_it_is_stopped_and_stepped_it_comes_to_what_playing_it_through_does(
    orders, points, first
):
    through, rehearsed = Rehearsed(), Rehearsed(breakpoints=points)
    assert through.play() == rehearsed.play(orders, way=first)
    assert rehearsed.played() == through.played()
    assert rehearsed.stage.did == through.stage.did


BLOCKS = {
    "twice": {"action": "repeat", "inputs": {"times": "2"}},
    "try": {"action": "try"},
    "if": {
        "action": "if value",
        "inputs": {"value": "1", "comparison": "is", "expected": "1"},
    },
    "always": {"action": "always"},
}
SENTENCES = {
    "press a key": {"action": "key", "inputs": {"keys": "A"}},
    "press what is not there": {"action": "press", "element": BOOK.id},
    "that may fail": {"action": "press", "element": BOOK.id, "on_failure": "go on"},
    "do a flow": {"action": "flow", "flow": FLOW, "inputs": {"clay": "Raku"}},
    "switched off": {"action": "key", "inputs": {"keys": "B"}, "enabled": False},
}
KINDS = {**BLOCKS, **SENTENCES}


@st.composite
def stories(draw):
    """Make stories of blocks within blocks in which sentences fail, also such as may."""
    made, most = [], 0
    for number in range(draw(st.integers(1, 10))):
        kind = draw(st.sampled_from(sorted(KINDS)))
        depth = 0 if kind == "always" else draw(st.integers(0, most))
        made.append(Step(f"s{number}", depth=depth, **KINDS[kind]))
        most = depth + 1 if kind in BLOCKS and kind != "always" else depth
    return tuple(made)


@given(stories(), st.lists(WAYS, max_size=25), WAYS)
def test_stories_that_fail_come_to_the_same_stopped_or_not_and_hold_only_at_what_counts(
    story, orders, first
):
    through, rehearsed = Rehearsed(story), Rehearsed(story)
    asked = []

    def let_it_fail(request):
        asked.append(request.result.step_id)
        return ask.GO_ON

    rehearsed.on_trouble = let_it_fail
    assert through.play() == rehearsed.play(orders, way=first)
    assert rehearsed.played() == through.played()
    assert rehearsed.stage.did == through.stage.did
    failed = {one for one, outcome, *_ in through.played() if outcome == "failed"}
    tried = {one.id for at, one in enumerate(story) if _tried(story, at)}
    assert set(asked) == failed - tried


def _tried(story, place):
    """Tell whether a sentence is inside a try, at any depth."""
    depth = story[place].depth
    for one in reversed(story[:place]):
        if one.depth < depth:
            depth = one.depth
            if one.action == "try":
                return True
    return False


def test_what_is_only_tried_is_not_held_when_it_fails():
    lost = Step("lost", "press", element=BOOK.id)
    story = (block("try", "try"), replace(lost, depth=1), replace(lost, id="counts"))
    rehearsed, asked = Rehearsed(story), []
    rehearsed.on_trouble = lambda request: asked.append(request.result.step_id) or ask.GO_ON
    assert rehearsed.play() == "failed"
    assert asked == ["counts"]


def test_over_stays_at_its_depth_into_goes_into_flows_and_rounds_and_out_leaves_them():
    rehearsed = Rehearsed()
    rehearsed.play(["over", "over", "into", "into", "out", "over"], way="into")
    assert rehearsed.places == ["a", "twice", "call", "f1", "f2", "again", "end"]
    rehearsed = Rehearsed()
    rehearsed.play(["into"] * 4, way="into")
    assert rehearsed.held[2] == ("b", "stepped", ("round 1 of 3",))
    rehearsed = Rehearsed()
    rehearsed.play(["into", "into", "out"], way="into")
    assert rehearsed.places[-1] == "call", "out of a round is out of the repeat"


def test_it_goes_on_to_a_sentence_also_one_inside_a_flow():
    rehearsed = Rehearsed()
    rehearsed.hand.go("to", None, (FLOW, "f2"))
    rehearsed.play(["play"], way="into")
    assert rehearsed.places[0] == "a"
    rehearsed = Rehearsed()
    go_there = lambda spot: rehearsed.hand.go("to", spot, (FLOW, "f2"))  # noqa: E731
    rehearsed.play([go_there, "play"], way="into")
    assert rehearsed.held[1] == ("f2", "here", ("Fire it",))


def test_a_breakpoint_in_a_flow_stops_in_every_call_or_in_one_test_and_from_a_time_on():
    in_flow = Breakpoint(int(FLOW), "f1")
    rehearsed = Rehearsed(breakpoints=[in_flow])
    rehearsed.play()
    assert rehearsed.places == ["f1", "f1"]
    elsewhere = replace(in_flow, only_in=8)
    second = replace(in_flow, step="f2", condition=Condition(times=2))
    rehearsed = Rehearsed(breakpoints=[elsewhere, second])
    rehearsed.play()
    assert rehearsed.held == [("f2", "breakpoint", ("Fire it",))]


def test_a_condition_stops_where_it_holds_and_where_it_can_not_be_told():
    raku = Condition("${row.clay}", "is", "Raku")
    point = Breakpoint(TEST, "a", condition=raku)
    for clay, places in (("Raku", ["a"]), ("Porcelain", [])):
        rehearsed = Rehearsed(breakpoints=[point], row={"clay": clay})
        rehearsed.play()
        assert rehearsed.places == places
    third = Breakpoint(TEST, "b", condition=Condition("${each.number}", "is", "3"))
    rehearsed = Rehearsed(breakpoints=[point, third])
    rehearsed.play()
    assert rehearsed.places == ["a", "b"], "a column that is not there stops, and says so"
    off = [replace(third, enabled=False), Breakpoint(TEST, "b", condition=Condition(row=2))]
    rehearsed = Rehearsed(breakpoints=off)
    rehearsed.play()
    assert rehearsed.places == []
    rehearsed = Rehearsed(breakpoints=[Breakpoint(TEST, "a")])
    rehearsed.hand.all_off = True
    rehearsed.play()
    assert rehearsed.places == []


@pytest.mark.parametrize(
    "raw", [{"times": "0"}, {"times": "x"}, {"row": -1}, {"comparison": "like"}, {"value": "${a}"}]
)
def test_a_condition_that_makes_no_sense_is_refused(raw):
    with pytest.raises((BadInput, UnknownName)):
        Condition.read(raw)
    whole = Condition("${row.clay}", "is not", "Raku", 3, 2)
    assert Condition.read(whole.as_json()) == whole
    assert whole.words() == "from time 3 on, in row 2, if ${row.clay} is not Raku"


def test_a_shared_pause_holds_rehearsals_and_is_passed_over_by_runs():
    story = (key("a", "A"), Step("here", "hold", title="Look at the price"), key("b", "B"))
    rehearsed = Rehearsed(story)
    rehearsed.play()
    assert rehearsed.held == [("here", "pause", ())]
    stage = FakeStage(save)
    assert stage.play(*story) == "passed"
    assert [one.outcome for one in stage.results] == ["passed"] * 3


def test_skipping_passes_a_sentence_over_with_all_that_is_in_it():
    rehearsed = Rehearsed()
    rehearsed.play(["over", "skip", "play"], way="into")
    skipped = {one.step_id for one in rehearsed.stage.results if one.outcome == "skipped"}
    assert skipped == {"twice", "b", "maybe", "c"}
    assert rehearsed.places[-1] == "call"


def test_a_failure_is_held_before_it_counts_tried_again_passed_over_or_let_be():
    missing_one = Step("press", "press", element=BOOK.id)
    story = (missing_one, key("b", "B"))
    held = Rehearsed(story)
    asked = []

    def once_more(request):
        asked.append(request.result.reason)
        held.stage.nodes.append(node(name="Book this firing", handle=5))
        return ask.Onward("again")

    held.on_trouble = once_more
    assert held.play() == "passed"
    assert (asked, [one.outcome for one in held.stage.results]) == (["not found"], ["passed"] * 2)

    over = Rehearsed(story)
    over.on_trouble = lambda request: ask.Onward("skip")
    assert over.play() == "passed"
    assert [one.outcome for one in over.stage.results] == ["skipped", "passed"]
    assert "had failed" in over.stage.results[0].message

    assert Rehearsed(story).play() == "failed"


def test_what_is_edited_while_it_is_held_is_played_at_once():
    wrong = Step("press", "press", element=BOOK.id)
    held = Rehearsed((wrong, key("b", "B")))
    mended = replace(wrong, element=SAVE.id)
    story = replace(held.script, document=Document((mended, key("n", "N"), key("b", "B"))))
    held.on_trouble = lambda request: ask.Onward("again", story)
    assert held.play() == "passed"
    assert [one.step_id for one in held.stage.results] == ["press", "n", "b"]


def test_what_is_put_in_behind_is_not_played_before_the_next_round_and_what_goes_is_passed_over():
    held = Rehearsed((block("r", "repeat", times="2"), key("a", "A", 1), key("b", "B", 1)))

    def put_in(spot):
        inside = (held.script.document.steps[0], key("a", "A", 1), key("n", "N", 1))
        return ask.Onward(story=replace(held.script, document=Document((*inside, spot.step))))

    held.hand.breakpoints = (Breakpoint(TEST, "b"),)
    held.play([put_in])
    assert [one.step_id for one in held.stage.results] == ["r", "a", "b", "a", "n", "b"]

    gone = Rehearsed((key("a", "A"), key("b", "B")), breakpoints=[Breakpoint(TEST, "b")])
    only = replace(gone.script, document=Document((key("a", "A"),)))
    gone.play([lambda spot: ask.Onward(story=only)])
    last = gone.stage.results[-1]
    assert (last.step_id, last.outcome) == ("b", "skipped")
    assert "taken out" in last.message


@pytest.mark.parametrize(
    ("start", "played"),
    [
        (["b"], ["twice", "b", "maybe", "c", "b", "maybe", "c", "b", "maybe", "c"]),
        (["c"], ["twice", "c", "b", "maybe", "c", "b", "maybe", "c"]),
        (["again"], ["f1", "f2", "again", "end", "z"]),
        (["again", "f2"], ["f2", "again", "end", "z"]),
        (["z"], ["z"]),
    ],
)
def test_it_begins_in_the_middle_with_the_blocks_and_flows_around_entered(start, played):
    rehearsed = Rehearsed()
    assert rehearsed.play(start=start) == "passed"
    done = [one.step_id for one in rehearsed.stage.results]
    rest = ["f1", "f2", "call", "f1", "f2", "again", "end", "z"]
    assert done == (played + rest if start[0] in ("b", "c") else played)


def test_it_begins_inside_an_if_without_its_else_and_in_a_while_and_a_try():
    story = (
        block("if", "if value", value="1", comparison="is", expected="2"),
        key("a", "A", 1),
        block("else", "else"),
        key("b", "B", 1),
        block("try", "try"),
        key("c", "C", 1),
        replace(block("while", "while", most="3"), element=SAVE.id),
        key("d", "D", 1),
    )
    story[6].inputs.update({"property": "shown", "comparison": "is", "expected": "no"})
    for start, expected in (("a", "a else b try c while d"), ("c", "c while d"), ("d", "d while")):
        rehearsed = Rehearsed(story)
        assert rehearsed.play(start=[start]) == "passed"
        assert [one.step_id for one in rehearsed.stage.results] == expected.split()


def test_sentences_of_one_id_are_played_once_each():
    """Nothing that Lantern makes has them; a file from elsewhere may."""
    story = (block("r", "repeat", times="2"), key("a", "A", 1), key("a", "B", 1), key("r", "C"))
    rehearsed = Rehearsed((*story, key("a", "D")))
    assert rehearsed.play(["into"] * 20, way="into") == "passed"
    assert [did[1] for did in rehearsed.stage.did] == ["A", "B", "A", "B", "C", "D"]


# -- from here ------------------------------------------------------------------------------------


def test_beginning_at_a_sentence_says_which_page_and_which_things_it_lacks():
    board = {"page": "Firing board"}
    story = (
        Step("o", "open", inputs={"address": "/board"}),
        Step("t", "type", element="e1", inputs={"text": "x"}, **board),
        Step("p", "press", element="e2", **board),
        Step("q", "press", element="e3", **board),
    )
    wants = needs(story, "t", "http://desk/board/12")
    assert wants == Needs("Firing board", "http://desk/board/12", ("e1", "e2"))
    assert needs(story, "o") == Needs()
    with pytest.raises(Missing, match="not in the story any more"):
        needs(story, "gone")
    called = {"e1": "Clay", "e2": "Book"}
    address = "http://desk/board/99?x=1"
    assert missing(wants, "Firing board", address, {"e1": 1, "e2": 1}, called) == []
    told = missing(wants, "Quote", "http://desk/quote", {"e2": 1}, called)
    assert told[0] == "This sentence needs “Firing board”; the stage shows “Quote”."
    assert told[1] == "This sentence needs “Clay”, which is not there."
    told = missing(wants, "Firing board", "http://desk/list", {"e1": 1}, called)
    assert told[0] == "It was played at /board/#; the stage is at /list."
    assert told[1].startswith("What follows needs “Book”")
