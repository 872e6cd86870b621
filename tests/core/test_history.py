"""Taking back one's own acts, also when others went on since."""

import itertools
from dataclasses import replace

from hypothesis import assume, given
from hypothesis import strategies as st

from lantern.core.elements.comparing import differs
from lantern.core.history.acts import Act, next_redo, next_undo
from lantern.core.history.merging import Clash, taken_back
from lantern.core.history.telling import LONGEST, in_words
from lantern.core.problems import Problem
from lantern.core.steps import edits
from lantern.core.steps.comparing import difference
from lantern.core.steps.model import Document, Row, Settings, Step
from tests.core.samples import element

KEYS = "abcdef"


def story(*ids, rows=()):
    steps = tuple(Step(key, "type", "e", {"text": key}) for key in ids)
    return Document(steps, ("size",), tuple(Row(key, {"size": key}) for key in rows))


def apply(document, *changes):
    ids = itertools.count(1)
    for change in changes:
        document = edits.apply(document, change, lambda: f"n{next(ids)}")
    return document


def keys(things):
    return "".join(thing.id for thing in things)


# -- which act is next ----------------------------------------------------------------------------


def acts_after(presses):
    """A person's acts after doing (d), undoing (u) and redoing (r), as far as there was any."""
    done = []
    for press in presses:
        undoes = {"d": lambda: None, "u": lambda: next_undo(done), "r": lambda: next_redo(done)}
        what = undoes[press]()
        if press == "d" or what is not None:
            done.append(Act(len(done) + 1, what))
    return done


class Line:
    """The same by the book: what is done stands in a line, a place tells how far it holds."""

    def __init__(self):
        self.done, self.undone = [], []

    def press(self, key, number):
        if key == "d":
            self.done.append(number)
            self.undone = []
        elif key == "u" and self.done:
            self.undone.append(self.done.pop())
        elif key == "r" and self.undone:
            self.done.append(self.undone.pop())
        else:
            return False
        return True


@given(st.text("dur", max_size=30))
def test_undo_and_redo_go_along_a_line(presses):
    line, number = Line(), 0
    for press in presses:
        number += line.press(press, number + 1)
    done = acts_after(presses)
    assert next_undo(done) == (line.done[-1] if line.done else None)
    redo = next_redo(done)
    again = next((act.undoes for act in done if act.id == redo), None)
    assert again == (line.undone[-1] if line.undone else None)


# -- what taking one back comes to ----------------------------------------------------------------

CHANGES = st.one_of(
    st.builds(
        lambda key, name, value: edits.Change(key, {"inputs": {name: value}}),
        st.sampled_from(KEYS),
        st.sampled_from(["text", "keys"]),
        st.sampled_from(["moon", "jar", "bowl"]),
    ),
    st.builds(lambda key: edits.Change(key, {"enabled": False}), st.sampled_from(KEYS)),
    st.builds(lambda key: edits.Remove((key,)), st.sampled_from(KEYS)),
    st.builds(
        lambda key, after: edits.Move((key,), after if after != key else ""),
        st.sampled_from(KEYS),
        st.sampled_from(KEYS),
    ),
    st.builds(lambda after: edits.Insert((Step("", "press"),), after), st.sampled_from(KEYS)),
    st.builds(
        lambda row, value: edits.SetCells.read(
            {"cells": [{"row": row, "column": "size", "value": value}]}
        ),
        st.sampled_from("xyz"),
        st.sampled_from(["1", "2"]),
    ),
    st.just(edits.SetSettings.read({"fields": {"limit": 3}})),
)
START = story(*KEYS, rows="xyz")


@given(CHANGES)
def test_what_nobody_built_on_goes_back_wholly(change):
    after = apply(START, change)
    back = taken_back(START, after, after)
    assert back.document == START
    assert not back.clashes


def plain(document):
    """What a document says, without the order of sentences."""
    return {one.id: one for one in (*document.steps, *document.rows)}, document.settings


@given(CHANGES, CHANGES)
def test_what_others_did_elsewhere_stays(mine, theirs):
    after = apply(START, mine)
    try:
        now, alone = apply(after, theirs), apply(START, theirs)
    except Problem:
        return  # theirs needs what mine took away
    assume(now != after)  # they did nothing
    back = taken_back(START, after, now)
    if not back.clashes:
        made = {step.id for step in now.steps} & {"n1"}
        assert plain(back.document)[1] == alone.settings
        for key, thing in plain(alone)[0].items():
            if key not in made:
                assert plain(back.document)[0][key] == thing


def test_what_others_changed_in_the_same_place_is_told_and_goes_only_when_meant():
    after = apply(START, edits.Change("b", {"inputs": {"text": "moon"}}))
    now = apply(after, edits.Change("b", {"inputs": {"text": "moon jar"}}))
    back = taken_back(START, after, now)
    assert back.clashes == (Clash("sentence", "b", "text"),)
    assert back.document.step("b").inputs == {"text": "b"}


def test_other_values_of_one_sentence_stay():
    after = apply(START, edits.Change("b", {"inputs": {"text": "moon"}, "limit": 3}))
    now = apply(after, edits.Change("b", {"inputs": {"keys": "Enter"}, "comment": "see the kiln"}))
    back = taken_back(START, after, now)
    assert not back.clashes
    assert back.document.step("b") == replace(
        START.step("b"), inputs={"text": "b", "keys": "Enter"}, comment="see the kiln"
    )


def test_a_deleted_sentence_comes_back_where_it_stood_among_newer_ones():
    after = apply(START, edits.Remove(("c",)))
    now = apply(after, edits.Insert((Step("new", "press"),), "a"), edits.Move(("f",), ""))
    assert keys(taken_back(START, after, now).document.steps) == "fanewbcde"


def test_a_sentence_of_mine_that_somebody_changed_is_told_before_it_goes():
    after = apply(START, edits.Insert((Step("mine", "press"),), "a"))
    now = apply(after, edits.Change("mine", {"comment": "by Wren"}))
    back = taken_back(START, after, now)
    assert back.clashes == (Clash("sentence", "mine"),)
    assert keys(back.document.steps) == KEYS


def test_a_changed_sentence_that_somebody_deleted_is_told():
    after = apply(START, edits.Change("c", {"enabled": False}))
    back = taken_back(START, after, apply(after, edits.Remove(("c",))))
    assert back.clashes == (Clash("sentence", "c"),)
    assert back.document.step("c").enabled


def test_two_who_moved_sentences_are_told():
    after = apply(START, edits.Move(("a",), "f"))
    now = apply(after, edits.Move(("b",), "d"))
    back = taken_back(START, after, now)
    assert back.clashes == (Clash("sentence", part="order"),)
    assert sorted(keys(back.document.steps)) == sorted(KEYS)


def test_cells_rows_and_settings_go_back_each_by_itself():
    cells = [{"row": "x", "column": "size", "value": "1"}]
    after = apply(START, edits.SetCells.read({"cells": cells}), edits.RemoveRows(("y",)))
    theirs = [{"row": "z", "column": "size", "value": "9"}]
    now = apply(after, edits.SetCells.read({"cells": theirs}))
    now = replace(now, settings=Settings(limit=4))
    back = taken_back(START, after, now)
    assert not back.clashes
    assert [(row.id, row.values["size"]) for row in back.document.rows] == [
        ("x", "x"),
        ("y", "y"),
        ("z", "9"),
    ]
    assert back.document.settings.limit == 4


# -- in words -------------------------------------------------------------------------------------


def told(*changes):
    after = apply(START, *changes)
    found = difference(START, after)
    return in_words(found, START, after, lambda step: f"Type “{step.inputs.get('text', '')}”")


def test_what_was_done_is_said_in_a_line():
    assert told(edits.Change("b", {"inputs": {"text": "moon"}})) == "Type “b” → Type “moon”"
    assert told(edits.Change("b", {"enabled": False})) == "Type “b”: switched off"
    assert told(edits.Change("b", {"on_failure": "go on"})) == "Type “b”: on failure"
    assert told(edits.Remove(("a", "b"))) == "2 sentences removed: Type “a” …"
    assert told(edits.Move(("a",), "c")) == "moved: Type “a”"
    cells = [{"row": "y", "column": "size", "value": "12"}]
    assert told(edits.SetCells.read({"cells": cells})) == "row 2, size: “y” → “12”"
    cells += [{"row": "x", "column": "size", "value": "12"}]
    assert told(edits.SetCells.read({"cells": cells})) == "2 rows changed"
    assert "limit" in told(edits.SetSettings.read({"fields": {"limit": 3}}))


def test_a_line_stays_a_line():
    long = edits.Change("b", {"inputs": {"text": "moon " * 200}})
    assert len(told(long)) == LONGEST


def test_what_differs_between_two_states_of_an_element():
    old = element("Ask", id="ask", label="Ask us")
    new = element("Ask them", id="ask", text="Ask")
    assert differs(old, old) == []
    lines = differs(old, new)
    assert lines[0] == "name: “Ask” → “Ask them”"
    assert [line.split(":")[0] for line in lines[1:]] == ["clue added", "clue taken out"]
