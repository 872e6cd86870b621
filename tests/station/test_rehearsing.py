"""Rehearsing on a real stage: held, looked into, repaired, gone on with, handed over."""

import threading
from dataclasses import replace

from lantern.core.elements.clues import Clue, Element
from lantern.core.rehearsing.breakpoints import Condition
from lantern.core.steps.edits import Change
from lantern.core.steps.model import Step
from lantern.station.orders import Order
from lantern.store import elements, tests
from lantern.store.models import Environment
from lantern.store.rows import unpacked
from lantern.store.vault import Vault
from tests.station.desk import until
from tests.station.rehearser import BOOK, FIRE, OPEN, PAGE, press, typed

CALL = Step("call", "flow", inputs={"clay": "Raku"})


def test_it_is_stepped_through_into_a_flow_and_out_and_tells_what_is_in_reach(rehearser):
    rows = [{"piece": "Bowl"}, {"piece": "Vase"}]
    inside = (press("f1", FIRE), press("f2", FIRE))
    rehearser.test(OPEN, typed("t", "${row.piece}"), CALL, press("p", BOOK), rows=rows, flow=inside)
    rehearser.begin(row="r2", hold=True)
    assert rehearser.held("open")["row"] == 2
    rehearser.go("over")
    rehearser.go("over")
    state = rehearser.held("call")
    assert not state["spot"]["calls"]
    state = rehearser.go("into")
    assert (state["spot"]["step"], state["spot"]["calls"]) == ("f1", ["call"])
    assert state["spot"]["within"] == ["Fire it twice"]
    values = rehearser.heard("values", lambda one: any(v["name"] == "clay" for v in one["values"]))
    assert {v["name"]: v["value"] for v in values["values"]}["clay"] == "Raku"
    rehearser.go("out")
    assert rehearser.held("p")
    rehearser.send(type="hand", do="play")
    assert rehearser.over()["outcome"] == "passed"
    assert rehearser.log == "fired;fired;booked Vase;"


def test_a_failure_is_held_untouched_edited_and_tried_again_at_once(rehearser):
    lost = replace(press("p", FIRE), element="e-gone")
    rehearser.test(OPEN, lost, press("q", BOOK))
    rehearser.begin()
    state = rehearser.held("p", "trouble")
    assert "deleted" in state["failed"]["message"]
    rehearser.edit(Change("p", {"element": FIRE.id}))
    rehearser.send(type="hand", do="again")
    assert rehearser.over()["outcome"] == "passed"
    assert rehearser.log == "fired;booked ;"


def test_a_failure_that_is_let_be_counts_and_one_that_is_skipped_does_not(rehearser):
    rehearser.test(OPEN, replace(press("p", FIRE), element="e-gone"), press("q", BOOK))
    rehearser.begin()
    rehearser.held("p", "trouble")
    rehearser.send(type="hand", do="let it fail")
    assert rehearser.over()["outcome"] == "failed"
    rehearser.begin()
    rehearser.held("p", "trouble")
    assert rehearser.go("skip")["spot"]["step"] == "q"
    rehearser.send(type="hand", do="play")
    assert rehearser.over()["outcome"] == "passed"


def test_breakpoints_hold_and_can_be_set_while_it_plays_and_pausing_takes_hold_in_a_long_wait(
    rehearser,
):
    pause = Step("wait", "pause", inputs={"seconds": "30"})
    rehearser.test(OPEN, press("p", BOOK), pause, press("q", FIRE), limit=5)
    rehearser.break_at(rehearser.id, "p", condition=Condition(row=0))
    rehearser.begin()
    rehearser.held("p", "breakpoint")
    rehearser.send(type="hand", do="play")
    until(lambda: (rehearser.state["spot"] or {}).get("step") == "wait", "in the long wait")
    state = rehearser.go("hold")
    assert (state["why"], state["mid"]) == ("asked", True)
    rehearser.send(type="hand", do="end")
    assert rehearser.over()["ended"] == "Ended by hand."


def test_limits_stand_still_while_it_is_held(rehearser):
    later = PAGE + "<script>setTimeout(() => document.body.append(Object.assign("
    later += "document.createElement('button'), {textContent: 'Late'})), 2500)</script>"
    rehearser.site.put("/", later)
    late = Element("e-late", "Late", "button", (Clue("name", "is", "Late"),))
    with rehearser.database.session() as session:
        elements.save(session, late)
    rehearser.test(OPEN, press("p", late), limit=1.5)
    rehearser.begin()
    until(lambda: (rehearser.state["spot"] or {}).get("step") == "p", "looking for it")
    rehearser.go("hold")
    until(
        lambda: (
            "Late"
            in rehearser.stage.context.current.run_script("return document.body.innerText", 5).gave[
                "value"
            ]
        ),
        "there by now",
    )
    rehearser.send(type="hand", do="play")
    assert rehearser.over()["outcome"] == "passed"


def test_values_are_changed_for_the_rehearsal_and_watched(rehearser):
    rehearser.test(OPEN, typed("t", "${row.piece}"), press("p", BOOK), rows=[{"piece": "Bowl"}])
    watches = [
        {"id": "a", "expression": "${row.piece} is Vase"},
        {"id": "b", "element": BOOK.id, "property": "enabled"},
    ]
    rehearser.begin(hold=True)
    rehearser.held("open")
    rehearser.send(type="watch", watches=watches)
    rehearser.go("over")
    rehearser.send(type="set value", source="row", name="piece", value="Vase")
    said = rehearser.heard("values", lambda one: any(v["changed"] for v in one["values"]))
    assert {one["id"]: one["value"] for one in said["watches"]} == {"a": "yes", "b": "yes"}
    rehearser.send(type="hand", do="play")
    assert rehearser.over()["outcome"] == "passed"
    assert rehearser.log == "booked Vase;"


def test_one_sentence_is_done_on_the_spot_and_kept_before_the_one_it_is_held_at(rehearser):
    rehearser.test(OPEN, press("p", BOOK))
    rehearser.break_at(rehearser.id, "p")
    rehearser.begin()
    rehearser.held("p")
    check = {"property": "text", "comparison": "is", "expected": "Book"}
    rehearser.send(type="on the spot", action="check", inputs=check, element=BOOK.id)
    said = rehearser.heard("on the spot")
    assert (said["outcome"], said["kept"]) == ("passed", False)
    rehearser.send(type="keep on the spot")
    kept = rehearser.heard("on the spot", lambda one: one["kept"])
    with rehearser.database.session() as session:
        steps = unpacked(tests.get(session, rehearser.id)).steps
    assert [one.id for one in steps] == ["open", kept["steps"][0], "p"]
    rehearser.send(type="hand", do="play")
    assert rehearser.over()["outcome"] == "passed"
    assert rehearser.outcomes()[-1] == ("p", "passed")


def test_what_is_done_on_the_spot_in_a_flow_is_kept_in_the_flow(rehearser):
    rehearser.test(OPEN, CALL, press("p", BOOK), flow=(press("f1", FIRE), press("f2", FIRE)))
    rehearser.break_at(rehearser.flow, "f2")
    rehearser.begin()
    rehearser.held("f2")
    rehearser.send(type="on the spot", action="press", inputs={}, element=BOOK.id)
    assert rehearser.heard("on the spot")["outcome"] == "passed"
    rehearser.send(type="keep on the spot")
    [made] = rehearser.heard("on the spot", lambda one: one["kept"])["steps"]
    with rehearser.database.session() as session:
        steps = unpacked(tests.get(session, rehearser.flow)).steps
    assert [one.id for one in steps] == ["f1", made, "f2"]
    rehearser.send(type="record", on=True)
    assert "in a flow" in rehearser.heard("error")["message"]
    before = rehearser.state["moment"]
    rehearser.send(type="from here", calls=["call"], step="f1", sure=True)
    until(lambda: rehearser.state["moment"] > before, "held anew")
    rehearser.send(type="hand", do="play")
    assert rehearser.over()["outcome"] == "passed"
    assert rehearser.log == "fired;booked ;fired;booked ;fired;booked ;"


def test_it_goes_on_from_a_sentence_and_says_what_that_needs(rehearser):
    rehearser.site.pages["/other"] = (200, "<!doctype html><title>Quote</title><h1>Quote")
    elsewhere = Step("away", "open", inputs={"address": "/other"})
    rehearser.test(OPEN, press("p", BOOK), elsewhere, press("q", FIRE))
    rehearser.break_at(rehearser.id, "q")
    rehearser.begin()
    rehearser.held("q", "breakpoint")
    rehearser.send(type="from here", calls=[], step="p")
    lacks = rehearser.heard("lacks")
    assert lacks["missing"][0] == "This sentence needs “Test page”; the stage shows “Quote”."
    assert rehearser.held("q")
    rehearser.send(type="hand", do="end")
    rehearser.over()
    rehearser.send(type="open", address="/")
    rehearser.send(type="rehearse", start={"calls": [], "step": "q"})
    rehearser.held("q", "breakpoint")
    rehearser.send(type="hand", do="play")
    assert rehearser.over()["outcome"] == "passed"
    assert rehearser.log == "fired;"


def test_only_who_has_the_controls_acts_and_they_can_be_handed_over(rehearser):
    rehearser.test(OPEN, press("p", BOOK))
    wren = {"account": 999, "name": "Wren"}
    rehearser.begin(hold=True)
    rehearser.held("open")
    rehearser.stage.rehearsals.come(wren)
    rehearser.stage.take({"type": "hand", "do": "play"}, 999)
    assert rehearser.held("open"), "who only looks on changes nothing"
    rehearser.send(type="give hand", account=999)
    assert rehearser.state["hand"] == wren
    rehearser.send(type="hand", do="play")
    assert rehearser.held("open")
    rehearser.stage.take({"type": "hand", "do": "over"}, 999)
    rehearser.held("p")
    rehearser.stage.rehearsals.leave(wren)
    assert rehearser.state["hand"]["name"] == "Odo"


def test_secrets_show_neither_in_the_trace_nor_to_who_comes_later(rehearser):
    with rehearser.database.session() as session:
        environment = session.query(Environment).one().id
        Vault().put(session, environment, "kiln_pin", "ember-4711")
    rehearser.test(OPEN, typed("t", "${secret.kiln_pin}"), press("p", BOOK))
    rehearser.begin()
    rehearser.over()
    told = rehearser.stage.rehearsals.come({"account": 999, "name": "Wren"})
    assert any("typed “••" in part["told"] for one in told[1]["steps"] for part in one["parts"])
    assert "ember-4711" not in str(told) + str(rehearser.said)


def test_a_rehearsal_that_nobody_looks_at_is_held_and_its_stage_is_kept(rehearser):
    pause = Step("wait", "pause", inputs={"seconds": "30"})
    rehearser.test(OPEN, pause)
    rehearser.begin()
    until(lambda: (rehearser.state["spot"] or {}).get("step") == "wait", "in the long wait")
    rehearser.stage.rehearsals.leave({"account": rehearser.author, "name": "Odo"})
    state = rehearser.held("wait")
    assert (state["mid"], state["why"]) == (True, "left")
    assert rehearser.stage.patience > 1000
    told = rehearser.stage.rehearsals.come({"account": rehearser.author, "name": "Odo"})
    assert told[0]["state"] == "held"
    assert [one["step"] for one in told[1]["steps"]] == ["open"]


# -- pace, and nobody who goes on ------------------------------------------------------------------


def test_a_slow_pace_costs_what_is_told_and_by_hand_holds_at_every_sentence(rehearser):
    rehearser.test(OPEN, press("p", BOOK), press("q", FIRE), limit=0.5)
    rehearser.begin(hold=True)
    rehearser.held("open")
    rehearser.send(type="pace", seconds=0.7, light=True)
    assert rehearser.state["pace"] == 0.7
    rehearser.send(type="hand", do="play")
    assert rehearser.over()["outcome"] == "passed", "limits stand still while it is slowed"
    assert rehearser.state["cost"] >= 1.4
    lit = [one for one in rehearser.said if one["type"] == "shine"]
    assert any(one["boxes"] for one in lit)
    assert not lit[-1]["boxes"], "and put out"
    rehearser.begin(hold=True)
    rehearser.held("open")
    rehearser.send(type="pace", seconds=None, light=False)
    rehearser.send(type="hand", do="play")
    rehearser.held("p", "stepped")
    rehearser.send(type="pace", seconds=0, light=False)
    rehearser.send(type="hand", do="play")
    assert rehearser.over()["outcome"] == "passed"


def test_a_rehearsal_that_nobody_goes_on_with_ends_by_itself(rehearser, monkeypatch):
    monkeypatch.setattr("lantern.station.rehearsal.KEPT", 0.3)
    rehearser.test(OPEN, press("p", BOOK))
    rehearser.begin(hold=True)
    assert "Nobody went on" in rehearser.over()["ended"]
    assert rehearser.stage.patience == 0.0
    rehearser.send(type="hand", do="play")
    assert "Nothing is being rehearsed" in rehearser.heard("error")["message"]


def test_two_beginnings_at_once_make_one_rehearsal_and_other_plays_are_refused(rehearser):
    rehearser.test(OPEN, press("p", BOOK))
    rehearser.begin(hold=True)
    rehearser.begin(hold=True)
    assert "under way" in rehearser.heard("error")["message"]
    rehearser.held("open")
    for message in ({"type": "prove"}, {"type": "play to", "step": "p"}):
        rehearser.said.clear()
        rehearser.send(**message)
        assert "under way" in rehearser.heard("played")["failed"]
    assert rehearser.held("open")


def test_a_row_that_is_gone_and_a_sentence_that_is_gone_are_told(rehearser):
    rehearser.test(OPEN, press("p", BOOK), rows=[{"piece": "Bowl"}])
    rehearser.begin(row="r9")
    assert "not in the table" in rehearser.heard("error")["message"]
    rehearser.said.clear()
    rehearser.send(type="rehearse", start={"calls": [], "step": "gone"})
    assert "not in the story" in rehearser.heard("error")["message"]
    rehearser.begin(hold=True)
    rehearser.held("open")
    rehearser.said.clear()
    rehearser.send(type="on to", calls=["no call"], step="p")
    assert "not called there" in rehearser.heard("error")["message"]


def test_it_goes_elsewhere_from_the_middle_of_a_wait(rehearser):
    pause = Step("wait", "pause", inputs={"seconds": "30"})
    rehearser.test(OPEN, press("p", BOOK), pause, press("q", FIRE), limit=5)
    rehearser.break_at(rehearser.id, "q")
    rehearser.begin()
    until(lambda: (rehearser.state["spot"] or {}).get("step") == "wait", "in the long wait")
    assert rehearser.go("hold")["mid"]
    rehearser.send(type="from here", calls=[], step="q", sure=True)
    rehearser.held("q", "breakpoint")
    rehearser.send(type="hand", do="play")
    assert rehearser.over()["outcome"] == "passed"
    assert ("wait", "failed") not in rehearser.outcomes()
    assert rehearser.log == "booked ;fired;"


def test_what_comes_too_late_to_be_done_while_held_is_told(rehearser):
    rehearser.test(OPEN, press("p", BOOK), press("q", FIRE), rows=[{"piece": "Bowl"}])
    rehearser.begin(hold=True)
    rehearser.held("open")
    busy = threading.Event()
    rehearser.stage.rehearsals.now.order(Order(work=lambda: busy.wait(20)))
    rehearser.send(type="hand", do="over")
    rehearser.send(type="set value", source="row", name="piece", value="Vase")
    busy.set()
    assert rehearser.held("p")
    assert "had gone on already" in rehearser.heard("error")["message"]
    changed = [one for one in rehearser.last("values")["values"] if one["changed"]]
    assert changed == [], "and not done at another sentence than was meant"


def test_a_stage_that_is_closed_ends_its_rehearsal_and_no_thread_of_it_stays(rehearser):
    rehearser.test(OPEN, press("p", BOOK))
    rehearser.begin(hold=True)
    rehearser.held("open")
    thread = rehearser.stage.rehearsals.now._thread
    rehearser.stage.close()
    assert not thread.is_alive()
    assert rehearser.state["ended"] == "The stage was closed."


def test_what_is_only_tried_is_not_held_and_what_follows_is_played(rehearser):
    notice = Element("e-notice", "Close the notice", "button", (Clue("name", "is", "Notice"),))
    with rehearser.database.session() as session:
        elements.save(session, notice)
    story = (OPEN, Step("try", "try"), press("n", notice, depth=1, limit=0.3), press("p", BOOK))
    rehearser.test(*story)
    rehearser.begin()
    assert rehearser.over()["outcome"] == "passed"
    assert rehearser.outcomes()[2:] == [("n", "failed"), ("p", "passed")]
