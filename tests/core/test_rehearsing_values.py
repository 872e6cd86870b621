"""Values in reach of a rehearsal, watches, and the trace of what was done."""

from dataclasses import replace

import pytest

from lantern.core.engine import requests as ask
from lantern.core.engine.finding import query_for
from lantern.core.problems import BadInput, UnknownName
from lantern.core.rehearsing.tracing import _WORDS, Trace
from lantern.core.rehearsing.values import MADE, Ledger
from lantern.core.rehearsing.watching import NOT_THERE, looked_at, worked_out
from lantern.core.steps.model import Step
from lantern.core.values.sources import Names
from tests.core.rehearsed import SAVE, Rehearsed, key, save
from tests.core.samples import FakeStage


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
    for guess in ("${secret.pin} is 4711-kiln", "4711-kiln is ${secret.pin}"):
        assert "not compared" in worked_out(guess, names).wrong, "else it could be guessed"
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


SILENT = {
    "Now",
    "Downloads",
    "Outstanding",
    "KeepDownload",
    "Windows",
    "StepStarts",
    "StepFails",
    "StepEnds",
    "StopEverything",
}
"""Requests of which a trace says nothing: they are Lantern's own affair."""


def test_a_trace_has_words_for_all_that_is_asked_of_a_page_or_says_why_not():
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
