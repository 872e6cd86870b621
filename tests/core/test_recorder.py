"""Recording: raw events become the right sentences and nothing else."""

from typing import get_args

import pytest

from lantern.core.recording.events import Event, EventType, Meanwhile, Node
from lantern.core.recording.proposals import Waited, waited_for
from lantern.core.recording.recorder import Add, Recorder, Update
from lantern.core.steps.actions.base import Action, Input, recorded
from lantern.core.steps.catalogue import ACTIONS
from tests.core.samples import node

BASE = "http://desk:8190"
piece = node("input", "Piece name", 1, label="Piece name")
pin = node("input", "", 2, role="", label="Password", attributes={"type": "password"})
clay = node("select", "Clay", 3, label="Clay")
rush = node("input", "Rush", 4, label="Rush", attributes={"type": "checkbox"})
ask = node("button", "Get a quote", 5)


def record(*events):
    """Feed events; returns the story as (action, inputs, element's name)."""
    recorder = Recorder(BASE)
    story = {}
    for event in events:
        for change in recorder.feed(event):
            if isinstance(change, Add):
                name = change.element.name if change.element else ""
                story[change.key] = (change.action, dict(change.inputs), name)
            else:
                story[change.key] = (change.action, dict(change.inputs), story[change.key][2])
    return list(story.values())


def on(facts, kind, **more):
    return Event(kind, facts, page="Quote", window="w1", **more)


def typed(facts, *texts, **more):
    return [on(facts, "input", value=text, **more) for text in texts]


def test_typing_is_one_sentence_and_the_click_that_focused_is_none():
    assert record(on(piece, "click"), *typed(piece, "M", "Mo", "Moon")) == [
        ("type", {"text": "Moon"}, "Piece name")
    ]


def test_typing_again_after_something_else_is_another_sentence():
    story = record(*typed(piece, "Moon"), on(ask, "click"), *typed(piece, "Moon jar"))
    assert [action for action, _, _ in story] == ["type", "press", "type"]


def test_a_password_never_becomes_part_of_a_step():
    recorder = Recorder(BASE)
    first, second = [recorder.feed(e)[0] for e in typed(pin, "whe", "wheel", secret=True)]
    assert isinstance(first, Add)
    assert isinstance(second, Update)
    assert (first.inputs, second.inputs) == ({"text": ""}, {"text": ""})
    assert second.secret == "wheel"
    assert "wheel" not in repr(first) + repr(second)


def test_choosing_ticking_and_pressing():
    story = record(
        on(clay, "click"),
        on(clay, "change", value="Porcelain"),
        on(rush, "click"),
        on(rush, "change", ticked=True),
        on(rush, "change", ticked=False),
        on(ask, "click"),
    )
    assert story == [
        ("choose", {"option": "Porcelain"}, "Clay"),
        ("tick", {}, "Rush"),
        ("untick", {}, "Rush"),
        ("press", {}, "Get a quote"),
    ]


def test_a_press_on_a_label_is_only_what_its_control_does():
    label = node("label", "Rush", 9, role="")
    story = record(
        on(label, "click", on_label=True),
        on(rush, "click", detail=0),
        on(rush, "change", ticked=True),
    )
    assert story == [("tick", {}, "Rush")]


def test_enter_in_a_field_is_a_key_and_not_a_press_of_the_submit_button():
    story = record(
        *typed(piece, "Moon"), on(piece, "key", value="Enter"), on(ask, "click", detail=0)
    )
    assert [action for action, _, _ in story] == ["type", "key"]


def test_the_keyboard_on_a_button_is_a_press():
    story = record(on(ask, "key", value="Enter"), on(ask, "click", detail=0))
    assert [action for action, _, _ in story] == ["press"]


def test_editing_keys_are_noise_but_shortcuts_are_not():
    keys = ["Control+c", "Control+V", "Control+k", "Escape", "F2", "a"]
    story = record(*[on(piece, "key", value=key) for key in keys])
    assert [inputs["keys"] for _, inputs, _ in story] == ["Control+k", "Escape", "F2"]


def test_a_double_press_replaces_the_presses_it_is_made_of():
    story = record(on(ask, "click"), on(ask, "click", detail=2), on(ask, "dblclick", detail=2))
    assert story == [("double press", {}, "Get a quote")]


def test_a_click_on_nothing_is_nothing():
    background = node("main", "", 20, role="main")
    assert record(on(background, "click", pressable=False)) == []


def test_addresses_of_the_environment_are_kept_as_paths():
    def opened(address):
        return record(Event("opened", address=address, window="w1"))[0][1]["address"]

    assert opened(f"{BASE}/quote?x=1") == "/quote?x=1"
    assert opened(BASE) == "/"
    assert opened("http://desk:81900/quote") == "http://desk:81900/quote"
    assert opened("https://elsewhere.example/") == "https://elsewhere.example/"


def test_going_on_in_another_window_says_so_first():
    done = node("button", "Print", 7)
    story = record(on(ask, "click"), Event("click", done, page="Firing no. 5", window="w2"))
    assert story[1:] == [
        ("window", {"window": "Firing no. #"}, ""),
        ("press", {}, "Print"),
    ]


def test_dialogs_and_closed_windows_are_sentences():
    story = record(
        Event("dialog", ticked=True, value="Ash", window="w1"),
        Event("window closed", page="Firing no. 5", window="w2"),
    )
    assert story == [
        ("dialog", {"answer": "OK", "text": "Ash"}, ""),
        ("close window", {"window": "Firing no. #"}, ""),
    ]


def test_text_with_a_place_in_it_is_kept_as_text():
    assert record(*typed(piece, "${row.x}"))[0][1] == {"text": "$${row.x}"}


def test_after_a_pause_typing_is_a_new_sentence():
    recorder = Recorder(BASE)
    recorder.feed(typed(piece, "Moon")[0])
    recorder.forget()
    assert isinstance(recorder.feed(typed(piece, "Moon jar")[0])[0], Add)


def test_what_was_waited_for_is_what_is_acted_on_else_what_became_enabled_else_what_appeared():
    done, save = Node(node("p", "Quote ready", 8)), Node(node("button", "Book", 9))
    nameless = Meanwhile("enabled", Node(node("div", "", 7)))
    shown, enabled = Meanwhile("shown", done), Meanwhile("enabled", save)

    def waited(*meanwhile):
        return waited_for(on(ask, "click", meanwhile=meanwhile))

    assert waited(shown, enabled, Meanwhile("shown")) == Waited("shown")
    assert (waited(shown, enabled).property, waited(shown, enabled).element.name) == (
        "enabled",
        "Book",
    )
    assert waited(nameless, shown).element.name == "Quote ready"
    assert waited(nameless) is None
    assert waited() is None
    added = Recorder(BASE).feed(on(ask, "click", meanwhile=(shown,)))[0]
    assert added.waited.element.name == "Quote ready"


def test_how_an_action_is_recorded_is_declared_with_it(monkeypatch):
    wheel = Action(
        "turn", "Turn", "Turn {element} by {degrees}", lambda _: iter(()), (Input("degrees"),),
        recorded=recorded(
            "turned", reads=lambda event: {"degrees": event.value} if event.value else None,
            anew=True,
        ),
    )  # fmt: skip
    turns = [on(ask, "turned", value=degrees) for degrees in ("10", "35")]
    with pytest.raises(LookupError, match="turned"):
        record(*turns)
    monkeypatch.setitem(ACTIONS, "turn", wheel)
    assert record(*turns) == [("turn", {"degrees": "35"}, "Get a quote")]
    with pytest.raises(LookupError, match="turned"):
        record(on(ask, "turned"))


def test_what_a_stage_tells_is_recorded_by_one_action_only():
    kinds = set(get_args(EventType)) - {"after", "idle", "lost"}
    told = {kind for action in ACTIONS.values() if action.recorded for kind in action.recorded.on}
    assert told == kinds
    samples = [
        on(piece, kind, value=value, ticked=ticked, empty=empty, by=by, onto=onto)
        for kind in kinds
        for value in ("back", "forward", "reload")
        for ticked in (True, False)
        for empty in (True, False)
        for by, onto in ((None, Node(ask)), ((4, 0), None))
    ]
    for event in samples:
        meant = [
            action.name
            for action in ACTIONS.values()
            if action.recorded
            and event.type in action.recorded.on
            and action.recorded.reads(event) is not None
        ]
        assert len(meant) == 1, (event.type, meant)
