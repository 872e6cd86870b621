"""Rehearsing: where it stops, what is done while it is held, what of it shows in results."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.engine import requests as ask
from lantern.core.engine.attempt import Flow
from lantern.core.engine.interpreter import Script, play_row
from lantern.core.problems import BadInput, UnknownName
from lantern.core.rehearsing.beginning import Needs, missing, needs
from lantern.core.rehearsing.breakpoints import Breakpoint, Condition
from lantern.core.rehearsing.hand import Hand
from lantern.core.rehearsing.tracing import Trace
from lantern.core.rehearsing.values import MADE, Ledger
from lantern.core.rehearsing.watching import NOT_THERE, looked_at, worked_out
from lantern.core.review.deeds import contradiction
from lantern.core.steps.model import Document, Settings, Step, Taken
from lantern.core.values.sources import Names
from tests.core.samples import FakeStage, element, node, step

SAVE = element("Save")
BOOK = element("Book this firing")
save = node(name="Save", handle=1)
TEST = 7
FLOW = "9"


def key(name, keys, depth=0, **more):
    return Step(name, "key", inputs={"keys": keys}, depth=depth, **more)


def block(name, action, depth=0, **inputs):
    return Step(name, action, inputs=inputs, depth=depth)


CALL = Step("call", "flow", flow=FLOW, inputs={"clay": "Raku"})
FLOWS = {
    FLOW: Flow(
        "Fire it",
        Document((key("f1", "F"), key("f2", "G")), takes=(Taken("clay", "text", "Stoneware"),)),
    )
}
STORY = (
    key("a", "A"),
    block("twice", "repeat", times="3"),
    key("b", "B", 1),
    block("maybe", "if value", 1, value="${each.number}", comparison="is", expected="2"),
    key("c", "C", 2),
    CALL,
    replace(CALL, id="again"),
    block("end", "always"),
    key("z", "Z", 1),
)


class Rehearsed:
    """Plays a story with a hand on it: `orders` say how it goes on each time it is held."""

    def __init__(self, steps=STORY, stage=None, breakpoints=(), **names):
        self.stage = stage or FakeStage(save)
        document = Document(tuple(steps), settings=Settings(limit=1))
        known = {one.id: one for one in (SAVE, BOOK)}
        self.script = Script(document, known, Names(**names), "http://desk", FLOWS)
        self.hand = Hand(TEST, 1, breakpoints)
        self.held = []
        self.on_trouble = lambda request: ask.GO_ON

    def play(self, orders=(), start=(), way="play"):
        orders = iter(orders)
        self.hand.go(way, None)
        play, answer = play_row(self.script, start), None
        while True:
            try:
                request = play.send(answer)
            except StopIteration as end:
                return end.value
            answer = self.stage.answer(request)
            if isinstance(request, ask.StepFails):
                answer = self.on_trouble(request)
            if isinstance(request, ask.StepStarts):
                stop = self.hand.reached(request.spot)
                if stop.reason:
                    self.hand.stopped()
                    self.held.append((request.spot.step.id, stop.reason, request.spot.within))
                    order = next(orders, "play")
                    if callable(order):
                        answer = order(request.spot) or ask.GO_ON
                    elif order == "skip":
                        answer = ask.Onward("skip")
                        self.hand.go("into", request.spot)
                    else:
                        self.hand.go(order, request.spot)

    @property
    def places(self):
        return [place for place, *_ in self.held]

    def played(self):
        return [(one.step_id, one.outcome, one.within, one.position) for one in self.stage.results]


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


# -- values, watches, trace -----------------------------------------------------------------------


def test_values_in_reach_are_listed_with_their_history_changed_and_secrets_stay_hidden():
    keep = Step("k", "keep", element=SAVE.id, inputs={"property": "text", "name": "said"})
    made = Step("m", "key", inputs={"keys": "${pick('A', 'B')}"})
    stage = FakeStage(save, values={("Save", "text"): "Save"})
    secret = {"pin": "4711-kiln"}
    rehearsed = Rehearsed((keep, made, keep), stage, row={"clay": "Raku"}, secret=secret, kept={})
    ledger, seen = Ledger(), []

    def note(spot):
        ledger.note(spot, spot.step.id)
        values = {(one.source, one.name): one for one in ledger.in_reach(spot)}
        seen.append(values)
        if spot.step.id == "m":
            stage.values["Save", "text"] = "Saved"
            made_up = next(one for (source, _), one in values.items() if source == MADE)
            ledger.change(spot, MADE, made_up.name, "C")
            ledger.change(spot, "row", "clay", "Porcelain")
            with pytest.raises(BadInput):
                ledger.change(spot, "secret", "pin", "x")
            with pytest.raises(UnknownName):
                ledger.change(spot, "row", "glaze", "x")
        rehearsed.hand.go("into", spot)

    end = key("e", "E")
    story = replace(rehearsed.script.document, steps=(keep, made, replace(keep, id="k2"), end))
    rehearsed.script = replace(rehearsed.script, document=story)
    rehearsed.play([note] * 4, way="into")
    assert seen[0]["secret", "pin"].value == "•••" or seen[0]["secret", "pin"].hidden
    assert "4711-kiln" not in str(seen)
    assert ("key", "C") in stage.did
    assert (seen[3]["row", "clay"].value, seen[3]["row", "clay"].changed) == ("Porcelain", True)
    kept = seen[3]["kept", "said"]
    assert (kept.value, [one.value for one in kept.before]) == ("Saved", ["Save"])


def test_watches_work_values_out_compare_them_and_read_properties():
    names = Names(row={"clay": "Raku"}, kept={"price": "24.50 €"}, secret={"pin": "4711-kiln"})
    assert worked_out("${row.clay}", names).value == "Raku"
    assert worked_out("${kept.price} is at least 20", names).value == "yes"
    assert worked_out("${row.clay} is not Raku", names).value == "no"
    assert "4711" not in worked_out("${secret.pin}", names).value
    assert worked_out("${row.glaze}", names).wrong
    assert worked_out("x" * 600, names).wrong

    def read(stage, prop):
        play, answer = looked_at(SAVE, prop), None
        while True:
            try:
                answer = stage.answer(play.send(answer))
            except StopIteration as end:
                return end.value

    stage = FakeStage(save, values={("Save", "enabled"): "no"})
    assert read(stage, "enabled").value == "no"
    assert read(FakeStage(), "enabled").wrong == NOT_THERE
    assert read(FakeStage(save, replace(save, handle=2)), "text").wrong == "there are 2 of them"
    assert read(stage, "flavour").wrong


def test_the_trace_says_what_was_looked_for_and_done_and_counts_the_same_again():
    trace = Trace()
    seen = ask.Seen((save,), 1)
    from lantern.core.engine.finding import query_for

    for _ in range(3):
        trace.note(ask.Lookup(query_for(SAVE)), ask.Seen(), 0.1)
    trace.note(ask.Lookup(query_for(SAVE)), seen, 0.1)
    trace.note(ask.Now(), 1.0, 0.0)
    trace.note(ask.Mouse(50, 20), None, 0.2)
    parts = trace.taken()
    assert [one.times for one in parts] == [3, 1, 1]
    assert parts[0].told == "looked for what name is “Save” fits: nothing"
    assert parts[1].told.endswith("“Save”")
    assert parts[2].told == "pressed at 50, 20"
    assert not trace.taken()


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
    called = {"e1": "Clay", "e2": "Book"}
    address = "http://desk/board/99?x=1"
    assert missing(wants, "Firing board", address, {"e1": 1, "e2": 1}, called) == []
    told = missing(wants, "Quote", "http://desk/quote", {"e2": 1}, called)
    assert told[0] == "This sentence needs “Firing board”; the stage shows “Quote”."
    assert told[1] == "This sentence needs “Clay”, which is not there."
    told = missing(wants, "Firing board", "http://desk/list", {"e1": 1}, called)
    assert told[0] == "It was played at /board/#; the stage is at /list."
    assert told[1].startswith("What follows needs “Book”")


# -- what is said and what is done -----------------------------------------------------------------


@pytest.mark.parametrize(
    ("said", "did", "around", "against"),
    [
        ("Close the ticket", "Book this firing", (), True),
        ("Close the ticket", "Close ticket", (), False),
        ("Close the ticket", "Reopen the ticket", (), True),
        ("Sign in as Wren", "Sign in", (), False),
        ("The customer agrees", "Accept", (), False),
        ("Book the firing", "Save", ("Book a firing",), False),
        ("Delete the moon jar", "×", ("Moon jar",), False),
        ("Press Save", "Save", (), False),
        ("Order 12 tiles", "Add to basket", ("Tiles",), False),
        ("Cancel the booking", "Confirm booking", (), True),
    ],
)
def test_a_title_contradicts_only_where_it_says_that_something_else_is_done(
    said, did, around, against
):
    assert bool(contradiction(said, did, around)) is against


def test_results_tell_what_was_acted_on_its_title_and_where_they_contradict():
    stage = FakeStage(node(name="Book this firing", handle=3))
    stage.play(
        replace(step("press", BOOK), title="Close the ticket", comment="At the end"),
        elements=(BOOK,),
    )
    result = stage.results[0]
    assert (result.thing, result.title) == ("Book this firing", "Close the ticket")
    assert "Book this firing" in result.contrary
    assert result.comment == "At the end"


SILENT = {
    "Now",
    "Downloads",
    "KeepDownload",
    "Windows",
    "StepStarts",
    "StepFails",
    "StepEnds",
    "StopEverything",
}
"""Requests of which a trace says nothing: they are Lantern's own affair."""


def test_a_trace_has_words_for_all_that_is_asked_of_a_page_or_says_why_not():
    from lantern.core.rehearsing.tracing import _WORDS

    told = {kind.__name__ for kind, _ in _WORDS}
    known = {one.__name__ for one in ask.Request.__subclasses__()}
    assert told | SILENT == known
    assert not told & SILENT


@pytest.mark.parametrize(
    ("request_", "answer", "words"),
    [
        (ask.Open("http://desk/"), ask.Opened(404), "opened http://desk/: 404"),
        (ask.Open("http://desk/"), ask.Opened(0, "refused"), "opened http://desk/: refused"),
        (ask.Aim(1), ask.Aimed(1, problem="covered", by="a notice"), "covered by a notice"),
        (ask.Choose(1, "Raku"), ask.Chosen(False, ()), "chose “Raku”: there is none"),
        (ask.Read(1, "value"), None, "read value: “”"),
        (ask.PressKey("Enter"), None, "pressed the key Enter"),
        (ask.Quiet(0.5, 2), False, "quiet, in vain"),
        (ask.Wait(2.0), None, "waited 2 s"),
        (ask.Nearby(), (save,), "all 1 things"),
        (ask.Mouse(1, 2, "right", 2), None, "pressed twice with the right button at 1, 2"),
    ],
)
def test_what_was_done_reads_as_words(request_, answer, words):
    trace = Trace()
    trace.note(request_, answer, 0.1)
    assert words in trace.taken()[0].told


def test_a_long_wait_fills_no_trace():
    trace = Trace()
    for number in range(500):
        trace.note(ask.PressKey(f"F{number}"), None, 0.01)
    parts = trace.taken()
    assert len(parts) == 40
    assert sum(one.seconds for one in parts) == pytest.approx(5.0)
