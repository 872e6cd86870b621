"""Conditions, repeats, tries, sections, flows: what is played, and what the results say."""

import json
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.core.engine.attempt import Flow
from lantern.core.problems import BadInput
from lantern.core.steps import edits
from lantern.core.steps.constants import constants
from lantern.core.steps.defaults import effective
from lantern.core.steps.model import Document, Row, Settings, Step, Taken
from lantern.core.steps.sentences import sentence
from lantern.core.steps.tree import around, branch, settled, tree
from lantern.core.values.sources import Names
from tests.core.samples import FakeStage, element, node, step

NOTICE = element("Understood")
SAVE = element("Save")
TABLE = element("Firings", "table", id="firings")
save = node(name="Save", handle=1)
notice = node(name="Understood", handle=2)
firings = node("table", "Firings", 3, attributes={"id": "firings"})
ALL = (NOTICE, SAVE, TABLE)
SHOWN = {"property": "shown", "comparison": "is", "expected": "yes"}


def at(depth, one):
    return replace(one, depth=depth)


def key(keys, **more):
    return step("key", keys=keys, **more)


def pressed(stage):
    return [did[1] for did in stage.did if did[0] == "key"]


def outcomes(stage):
    return [result.outcome for result in stage.results]


def test_only_the_branch_whose_condition_holds_is_played_and_absence_costs_little():
    stage = FakeStage(save)
    played = stage.play(
        step("if", NOTICE, **SHOWN),
        at(1, key("A")),
        step("else if", SAVE, **SHOWN),
        at(1, key("B")),
        step("else"),
        at(1, key("C")),
        key("D"),
        elements=ALL,
        settings=Settings(limit=30),
    )
    assert (played, pressed(stage)) == ("passed", ["B", "D"])
    assert outcomes(stage) == "passed skipped passed passed skipped skipped passed".split()
    assert stage.results[0].used < 2
    assert stage.results[0].limit == 1
    assert stage.results[1].message == "The condition did not hold."
    assert stage.results[4].message == "A condition before held."


def test_a_value_decides_and_an_else_without_an_if_says_so():
    stage = FakeStage()
    names = Names(row={"rush": "yes"})
    compare = {"value": "${row.rush}", "comparison": "is", "expected": "yes"}
    assert stage.play(step("if value", **compare), at(1, key("R")), names=names) == "passed"
    assert pressed(stage) == ["R"]
    stage = FakeStage()
    assert stage.play(key("A"), step("else"), at(1, key("B"))) == "failed"
    assert "Nothing is asked before" in stage.results[1].message


def test_a_repeat_counts_its_rounds_and_tells_them_apart():
    stage = FakeStage()
    typed = step("if value", value="${each.number}", comparison="is", expected="2")
    stage.play(step("repeat", times="3"), at(1, typed), at(2, key("X")))
    assert pressed(stage) == ["X"]
    within = [result.within for result in stage.results if result.step_id == "s2"]
    assert within == [("round 1 of 3",), ("round 2 of 3",), ("round 3 of 3",)]
    assert [result.position for result in stage.results] == list(range(len(stage.results)))


def test_each_row_of_a_table_gives_its_cells_by_their_headers():
    rows = {"headers": ["Piece", "Drop-off"], "rows": [["Moon jar", "May"], ["Tea caddy", "June"]]}
    stage = FakeStage(firings, values={("Firings", "table"): json.dumps(rows)})
    asked = step("if value", value="${each.piece}", comparison="is", expected="Tea caddy")
    stage.play(step("repeat rows", TABLE), at(1, asked), at(2, key("T")), elements=ALL)
    assert pressed(stage) == ["T"]
    assert "“Moon jar”" in stage.results[1].sentence


def test_a_while_ends_when_it_does_not_hold_any_more_and_has_a_ceiling():
    stage = FakeStage(notice)
    loop = step("while", NOTICE, most="3", **SHOWN)
    assert stage.play(loop, at(1, key("X")), elements=ALL) == "failed"
    assert pressed(stage) == ["X"] * 3
    assert stage.results[-1].message == "It was still so after 3 rounds."
    stage = FakeStage(save)
    assert stage.play(loop, at(1, key("X")), key("Y"), elements=ALL) == "passed"
    assert pressed(stage) == ["Y"]


def test_what_is_tried_may_fail_without_failing_the_row():
    stage = FakeStage(save)
    played = stage.play(
        step("try"), at(1, step("press", NOTICE)), at(1, key("X")), key("Y"), elements=ALL,
        settings=Settings(limit=30),
    )  # fmt: skip
    assert (played, pressed(stage)) == ("passed", ["Y"])
    assert outcomes(stage) == ["passed", "failed", "skipped", "passed"]
    assert stage.results[1].limit == 3  # what is tried has a short limit of its own


def test_what_fails_after_a_try_fails_the_row():
    stage = FakeStage(save)
    played = stage.play(
        step("try"), at(1, step("press", NOTICE)), step("press", NOTICE, limit=1), elements=ALL,
        settings=Settings(limit=30),
    )  # fmt: skip
    assert (played, outcomes(stage)) == ("failed", ["passed", "failed", "failed"])


def test_what_is_always_done_at_the_end_is_done_after_a_failure():
    stage = FakeStage(save)
    played = stage.play(
        step("always"), at(1, key("Z")), step("press", NOTICE), key("Y"), elements=ALL
    )
    assert (played, pressed(stage)) == ("failed", ["Z"])
    assert [result.step_id for result in stage.results] == ["s3", "s4", "s1", "s2"]


def test_a_step_is_carried_out_again_as_often_as_it_may_be():
    stage = FakeStage(notice, appears={"Understood": 5})
    retried = replace(step("press", NOTICE, limit=2), retries=3)
    assert stage.play(retried, elements=ALL) == "passed"
    assert stage.results[0].attempts == 3


@pytest.mark.parametrize("retries", [0, 1, 3])
def test_a_step_that_never_succeeds_is_tried_exactly_as_often_as_was_said(retries):
    stage = FakeStage(save)
    retried = replace(step("press", NOTICE, limit=1), retries=retries)
    assert stage.play(retried, elements=ALL) == "failed"
    assert stage.results[0].attempts == retries + 1


def test_pictures_of_a_section_hold_for_what_is_in_it_unless_a_sentence_says_otherwise():
    quiet = replace(step("section", name="Quiet"), pictures="none")
    stage = FakeStage(save)
    played = stage.play(
        quiet,
        at(1, step("press", SAVE)),
        at(1, replace(step("press", SAVE), pictures="each step")),
        step("press", SAVE),
        elements=ALL,
    )
    assert played == "passed"
    assert [bool(result.picture) for result in stage.results] == [False, False, True, True]
    held = effective(step("press", SAVE), [quiet], Settings())
    assert (held.pictures, held.pictures_from) == ("none", "the section “Quiet”")


@pytest.mark.parametrize(
    ("on_failure", "keys", "did"),
    [("go on", ["Y"], False), ("stop", [], False), ("stop everything", [], True)],
)
def test_a_section_says_what_is_done_on_failure(on_failure, keys, did):
    stage = FakeStage()
    section = replace(step("section", name="Booking"), on_failure=on_failure, limit=0.5)
    stage.play(section, at(1, step("press", NOTICE)), key("Y"), elements=ALL)
    assert pressed(stage) == keys
    assert stage.results[1].limit == 0.5
    assert (("stop everything",) in stage.did) is did
    inside = at(1, step("press", NOTICE))
    held = effective(inside, [section], Settings())
    assert (held.limit_from, held.on_failure) == ("the section “Booking”", on_failure)


BOOK = Flow(
    "Book a firing",
    Document(
        (
            Step("b1", "if value", inputs={
                "value": "${input.piece}", "comparison": "is", "expected": "Moon jar"}),
            Step("b2", "key", inputs={"keys": "M"}, depth=1),
            Step("b3", "keep", SAVE.id, {"property": "text", "name": "ticket"}),
        ),
        takes=(Taken("piece", default="Moon jar"),),
        gives=("ticket",),
    ),
)  # fmt: skip


def test_a_flow_plays_with_what_it_is_given_and_hands_back_what_it_kept():
    stage = FakeStage(save, values={("Save", "text"): "No. 5"})
    call = Step("s", "flow", flow="7", inputs={"piece": "${row.piece}"})
    known = step("if value", value="${kept.ticket}", comparison="is", expected="No. 5")
    names = Names(row={"piece": "Moon jar"})
    played = stage.play(call, known, at(1, key("K")), elements=ALL, names=names, flows={"7": BOOK})
    assert (played, pressed(stage)) == ("passed", ["M", "K"])
    assert [result.step_id for result in stage.results] == ["b1", "b2", "b3", "s1", "s2", "s3"]
    assert stage.results[0].within == ("Book a firing",)
    assert stage.results[3].kept == {"ticket": "No. 5"}
    assert stage.results[3].sentence == "Do Book a firing with piece “Moon jar”"


def test_a_failure_inside_a_flow_is_told_by_the_call_and_stops_the_row_once():
    stage = FakeStage()
    call = Step("s", "flow", flow="7")
    assert stage.play(call, key("Y"), elements=ALL, flows={"7": BOOK}) == "failed"
    assert outcomes(stage) == ["passed", "passed", "failed", "failed", "skipped"]
    assert "Keep the text of Save as “ticket”: The button “Save” was" in stage.results[3].message


def test_flows_that_lead_back_to_themselves_end_with_the_loop_named():
    loop = Flow("Turn", Document((Step("t1", "flow", flow="7"),)))
    stage = FakeStage()
    assert stage.play(Step("s", "flow", flow="7"), flows={"7": loop}) == "failed"
    assert "lead back to themselves: Turn → Turn" in stage.results[0].message
    gone = FakeStage()
    assert gone.play(Step("s", "flow", flow="9")) == "failed"
    assert "was deleted" in gone.results[0].message


# -- the tree and its edits ------------------------------------------------------------------------

ACTIONS = st.sampled_from(["key", "if", "try", "section", "flow", "press"])
STEPS = st.lists(st.tuples(ACTIONS, st.integers(0, 4)), max_size=12).map(
    lambda made: settled(
        [Step(f"s{n}", action, depth=depth) for n, (action, depth) in enumerate(made)]
    )
)


def flat(nodes):
    return [one for node in nodes for one in (node.step, *flat(node.inside))]


@given(STEPS)
def test_the_tree_holds_every_step_once_in_order(steps):
    assert flat(tree(steps)) == list(steps)
    assert settled(steps) == steps
    for one in steps:
        for block in around(steps, one.id):
            assert one.id in branch(steps, block.id)


@given(STEPS, st.data())
def test_every_edit_leaves_a_tree_and_loses_nothing(steps, data):
    if not steps:
        return
    ids = [one.id for one in steps]
    chosen = tuple(data.draw(st.lists(st.sampled_from(ids), min_size=1, unique=True)))
    made = [
        edits.Shift(chosen, data.draw(st.sampled_from([1, -1]))),
        edits.Move(chosen, data.draw(st.sampled_from(["", *ids]))),
        edits.Wrap(chosen, Step("w", "try")),
        edits.Remove(chosen),
        edits.Copy(chosen),
    ]
    for edit in made:
        try:
            after = edits.apply(Document(steps), edit, iter(f"n{n}" for n in range(99)).__next__)
        except BadInput:
            continue
        assert settled(after.steps) == after.steps
        gone = set(chosen) if isinstance(edit, edits.Remove) else set()
        assert {one.id for one in after.steps} >= set(ids) - gone
        assert flat(tree(after.steps)) == list(after.steps)


def edited(document, **raw):
    fresh = (f"n{len(document.steps)}{letter}" for letter in "abcdef")
    return edits.apply(document, edits.read_edit(raw), fresh.__next__)


def test_sentences_are_put_into_a_block_and_come_out_when_it_goes():
    document = Document((Step("s1", "key"), Step("s2", "key"), Step("s3", "key")))
    block = {"action": "try"}
    wrapped = edited(document, do="wrap", steps=["s2", "s3"], block=block)
    assert [(one.id, one.depth) for one in wrapped.steps] == [
        ("s1", 0), ("n3a", 0), ("s2", 1), ("s3", 1),
    ]  # fmt: skip
    inside = edited(wrapped, do="insert", steps=[{"action": "key"}], after="n3a")
    assert inside.steps[2].depth == 1
    moved = edited(wrapped, do="move", steps=["n3a"], after="")
    assert [one.id for one in moved.steps] == ["n3a", "s2", "s3", "s1"]
    assert [one.depth for one in edited(wrapped, do="remove", steps=["n3a"]).steps] == [0, 0, 0]
    with pytest.raises(BadInput, match="stand together"):
        edited(document, do="wrap", steps=["s1", "s3"], block=block)
    with pytest.raises(BadInput, match="Nothing can be put into"):
        edited(document, do="wrap", steps=["s1"], block={"action": "press"})


def test_equal_constants_are_found_and_replaced_in_one_act():
    piece = element("Piece name", "text box", label="Piece name")
    document = Document((
        Step("s1", "open", inputs={"address": "/quote"}),
        Step("s2", "type", piece.id, {"text": "Moon jar"}),
        Step("s3", "check", piece.id,
             {"property": "text", "comparison": "is", "expected": "Moon jar"}),
        Step("s4", "pause", inputs={"seconds": "2"}),
    ))  # fmt: skip
    found = constants(document.steps, {piece.id: piece})
    assert [(one.value, len(one.uses)) for one in found] == [("/quote", 1), ("Moon jar", 2)]
    assert found[1].uses[0].proposed == "piece_name"
    places = [{"step": use.step, "input": use.input} for use in found[1].uses]
    by_column = edited(document, do="replace constants", places=places, template="${row.piece}")
    assert by_column.columns == ("piece",)
    assert [row.values for row in by_column.rows] == [{"piece": "Moon jar"}]
    assert by_column.steps[2].inputs["expected"] == "${row.piece}"
    by_env = edited(document, do="replace constants", places=places[:1], template="${env.piece}")
    assert (by_env.columns, by_env.steps[2].inputs["expected"]) == ((), "Moon jar")
    with pytest.raises(BadInput, match="use letters, digits") as odd:
        edited(document, do="replace constants", places=places, source="row", name="my piece")
    assert odd.value.hint == "For example my_piece."
    with pytest.raises(BadInput, match="not a constant any more"):
        edited(by_column, do="replace constants", places=places, template="${env.piece}")
    renamed = edited(by_column, do="rename column", column="piece", name="thing")
    assert (renamed.columns, renamed.rows[0].values) == (("thing",), {"thing": "Moon jar"})
    assert renamed.steps[1].inputs["text"] == "${row.thing}"
    with pytest.raises(BadInput, match="use letters, digits"):
        edited(by_column, do="rename column", column="piece", name="my thing")


def test_renaming_an_input_of_a_flow_changes_the_sentences_that_use_it():
    flow = replace(BOOK.document, rows=(Row("r"),))
    takes = [{"name": "thing", "kind": "text", "default": "Moon jar"}]
    after = edited(flow, do="set calling", takes=takes, gives=["ticket"], was={"thing": "piece"})
    assert after.steps[0].inputs["value"] == "${input.thing}"
    assert sentence(after.steps[0], {}) == "If “${input.thing}” is “Moon jar”"
    with pytest.raises(BadInput, match="Two are named"):
        edited(flow, do="set calling", takes=takes * 2, gives=[])
