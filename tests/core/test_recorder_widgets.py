"""Recording of widgets: what belongs together becomes one sentence, and no secret gets in."""

import pytest

from lantern.core.elements.facts import Facts
from lantern.core.recording.events import Event, Node
from lantern.core.recording.proposals import propose
from lantern.core.recording.recorder import Add, Gone, Idle, Recorder, Update
from tests.core.samples import node

finish = node("input", "Finish", 1, role="combobox", label="Finish")
kiln = node("button", "Kiln", 2, attributes={"aria-haspopup": "listbox"})
photo = node("input", "Photo", 3, role="", label="Photo", attributes={"type": "file"})
hold = node("input", "Hold time", 4, role="slider", attributes={"type": "range"})
piece = node("div", "", 5, text="Tea caddy")
shelf = node("section", "Top shelf", 6, role="region")
top = node("span", "", 7, text="Workshop")
book = node("button", "Book the wheel", 8)


def on(facts, kind, **more):
    return Event(kind, facts, **{"page": "Bench", "window": "w1", **more})


class Story:
    """What a recorder made of events: the sentences that are left, and which did nothing."""

    def __init__(self, *events):
        self.recorder = Recorder("http://desk")
        self.steps, self.idle = {}, set()
        for event in events:
            self.feed(event)

    def feed(self, event):
        for change in self.recorder.feed(event):
            match change:
                case Add():
                    name = change.element.name if change.element else ""
                    onto = change.onto.name if change.onto else ""
                    self.steps[change.key] = (change.action, dict(change.inputs), name, onto)
                case Update():
                    _, _, name, onto = self.steps[change.key]
                    self.steps[change.key] = (change.action, dict(change.inputs), name, onto)
                case Gone():
                    del self.steps[change.key]
                case Idle():
                    self.idle.add(change.key)

    @property
    def told(self):
        return list(self.steps.values())


def test_opening_a_list_typing_ahead_and_choosing_is_one_choice():
    story = Story(
        on(finish, "click", press=1),
        on(finish, "input", value="c"),
        on(finish, "input", value="cel"),
        on(finish, "option", value="Celadon"),
    )
    assert story.told == [("choose", {"option": "Celadon"}, "Finish", "")]


def test_a_list_that_was_opened_without_choosing_stays_a_press():
    story = Story(on(kiln, "click", press=1), on(book, "click", press=2))
    assert [action for action, *_ in story.told] == ["press", "press"]


def test_choosing_in_two_lists_keeps_them_apart():
    story = Story(
        on(kiln, "click", press=1),
        on(kiln, "option", value="Big Ember"),
        on(finish, "click", press=2),
        on(finish, "option", value="Matt"),
    )
    assert [(name, inputs["option"]) for _, inputs, name, _ in story.told] == [
        ("Kiln", "Big Ember"),
        ("Finish", "Matt"),
    ]


def test_the_press_that_asked_for_a_file_is_part_of_giving_it():
    story = Story(on(book, "click", press=1), on(photo, "files", value="a.png\nb.png"))
    assert story.told == [("upload", {"file": "a.png\nb.png"}, "Photo", "")]


def test_moving_a_slider_is_one_sentence_with_where_it_came_to_rest():
    story = Story(*(on(hold, "slide", value=value) for value in ("10", "25", "30")))
    assert story.told == [("slide", {"value": "30"}, "Hold time", "")]


def test_a_drag_names_both_ends():
    story = Story(on(piece, "drag", onto=Node(shelf)))
    assert story.told == [("drag", {}, "Tea caddy", "Top shelf")]
    assert Story(on(piece, "drag")).told == []


def test_pointing_comes_before_what_needs_it_and_only_then():
    story = Story(on(book, "click", press=1, hovers=(Node(top),)), on(book, "click", press=2))
    assert [(action, name) for action, _, name, _ in story.told] == [
        ("hover", "Workshop"),
        ("press", "Book the wheel"),
        ("press", "Book the wheel"),
    ]


def test_what_did_nothing_is_marked_unless_it_became_something_else():
    story = Story(
        on(book, "click", press=1),
        on(None, "idle", press=1),
        on(book, "click", press=2),
        on(book, "click", press=3, detail=2),
        on(book, "dblclick", press=3),
        on(None, "idle", press=2),
        on(None, "idle", press=9),
    )
    assert [action for action, *_ in story.told] == ["press", "double press"]
    assert story.idle == {1}


def test_what_a_window_that_was_left_says_late_does_not_lead_back_to_it():
    story = Story(
        on(node("a", name="Show ticket"), "click", detail=1, press=1, window="first"),
        on(None, "window", window="second", page="Ticket"),
        on(None, "idle", press=1, window="first"),
        on(node("button", name="Print"), "click", detail=1, press=1, window="second"),
    )
    assert [action for action, *_ in story.told] == ["press", "window", "press"]


def test_the_browser_and_downloads():
    story = Story(
        *(on(None, "history", value=to) for to in ("back", "forward", "reload")),
        on(None, "download", value="prices-7.csv"),
    )
    assert [action for action, *_ in story.told] == ["go back", "go forward", "reload", "download"]
    assert story.told[-1][1] == {"name": "prices-#.csv"}


def test_a_secret_that_the_page_shows_stands_by_its_name_in_clues_and_nowhere_in_facts():
    shown = node("button", "Pin kiln-4711 ok", 9, attributes={"title": "kiln-4711"})
    twin = node("button", "Pin kiln-4711", 10)
    proposal = propose(shown, (twin,), "Bench").without({"pin": "kiln-4711"})
    texts = repr(proposal)
    assert "kiln-4711" not in texts
    assert any("${secret.pin}" in clue.value for clue in (*proposal.clues, *proposal.spare))


@pytest.mark.parametrize("secret", ["false", "123", "name", "}", '": "', "••••"])
def test_any_secret_can_be_masked_in_facts_without_harm(secret):
    facts = Facts.read(
        {"tag": "p", "text": f"x {secret} y", "visible": False, "box": {"x": 123}, "name": "n",
         "cells": {"name": secret}}
    )  # fmt: skip
    hidden = facts.masked(lambda text: text.replace(secret, "*"))
    assert (hidden.text, hidden.visible, hidden.box.x) == ("x * y", False, 123)
    assert hidden.cells == {"name": "*"}


def test_what_a_page_writes_like_a_name_of_ours_is_never_a_clue():
    trap = node("button", "Pay ${secret.pin}", 11, attributes={"id": "pay"})
    proposal = propose(trap, (), "Bench")
    assert proposal.clues
    assert not any("${" in clue.value for clue in (*proposal.clues, *proposal.spare))
