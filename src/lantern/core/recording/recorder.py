"""The recorder: turns raw events into steps, leaving out what is only noise.

A press on a text field that only focused it leaves no sentence, typing into a field is one
sentence, a press on a label is the tick of its box, a press of Enter that submits a form is not
a press of the submit button as well. What can not be told from the act alone waits for what came
of it (the event "after"): it is kept when the page made something of it, and when in doubt.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

from lantern.core.addresses import parts_of
from lantern.core.elements.facts import tidy
from lantern.core.recording.changes import Add, Change, Gone, Idle, Update
from lantern.core.recording.events import Event, EventType
from lantern.core.recording.proposals import propose, waited_for
from lantern.core.recording.weighing import (
    SURE_KEYS,
    counts_in_doubt,
    goes_on,
    is_editing,
    is_field,
    is_sure,
    is_sure_key,
    may_press,
    opens_choices,
    parts_of_key,
)
from lantern.core.steps.actions.base import Action
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.values.templates import literal

__all__ = ["Add", "Change", "Gone", "Idle", "Recorder", "Update"]

_CONTENT = ("text", "own", "name", "after", "followed")
"""What an editor holds and stands beside, which changes while one writes in it."""
Node = tuple[str, str, int]


@dataclass
class _Act:
    """An act of which it is not known yet whether it counts, or one that was kept already."""

    event: Event
    key: int = 0


@dataclass
class _Opened:
    """What was done since something was opened that can be picked from: steps and typed texts."""

    keys: list[int] = field(default_factory=list)
    typed: dict[int, str] = field(default_factory=dict)


class Recorder:
    """Keeps what was recorded last, to tell what belongs together.

    `base` is the address of the environment: addresses below it are recorded as paths.
    """

    def __init__(self, base: str) -> None:
        self._base = base.rstrip("/")
        self._keys = 0
        self._typing: tuple[Node, int] | None = None
        self._written = ""
        self._pressed: tuple[Node, int] | None = None
        self._enter_submits = False
        self._window = ""
        self._waiting: _Act | None = None
        self._acts: dict[tuple[str, str, int], int] = {}
        self._run: tuple[int, list[str], Node] | None = None
        self._tab: Event | None = None
        self._opened: _Opened | None = None

    @property
    def window(self) -> str:
        """The window that what was recorded last happened in, "" when nothing was."""
        return self._window

    def feed(self, event: Event) -> list[Change]:
        """Take the next raw event; returns the changes to the story that it causes."""
        if event.type == "after":
            return self._after(event)
        if event.type == "idle":
            return self._idle(event)
        if event.type == "lost":
            return self._lost(event)
        changes = self._settle(event)
        changes += self.go_to(event)
        return changes + _RULES.get(event.type, Recorder._tell)(self, event)

    def go_to(self, event: Event) -> list[Change]:
        """Return the sentence that goes to the window of an event, if another was in front."""
        changes: list[Change] = []
        if event.type in _FROM_PAGES:
            if self._window not in ("", event.window):
                changes.append(self._add(replace(event, type="window")))
            self._window = event.window or self._window
        return changes

    def forget(self) -> list[Change]:
        """Treat what comes next as unconnected with what came before (pause, deletion).

        Returns what was still waiting to be kept: when in doubt it counts.
        """
        changes: list[Change] = []
        waiting, self._waiting = self._waiting, None
        if waiting and counts_in_doubt(waiting.event):
            changes += self._keep(waiting.event)
        if self._tab:
            changes += self._keep_key(self._tab)
        self._typing = self._pressed = self._run = self._opened = self._tab = None
        self._enter_submits = False
        return changes

    # -- what waits for its effect -----------------------------------------------------------------

    def _settle(self, event: Event) -> list[Change]:
        """Decide on what waits when something else comes first."""
        waiting, self._waiting = self._waiting, None
        tab, self._tab = self._tab, None
        if waiting is None or event.type not in _FROM_PAGES | {"dialog", "download"}:
            if tab and event.type == "dialog":
                return self._keep_key(tab)
            self._waiting, self._tab = waiting, (tab if event.type not in _FROM_PAGES else None)
            return []
        same = _node(event) == _node(waiting.event)
        if event.type == "slide" and (same or event.pressed):
            return []
        if event.type == "dblclick" or (event.type in ("input", "write") and same):
            self._waiting = waiting if event.type == "dblclick" else None
            return []
        if waiting.event.type == "key" and (event.detail == 0 or event.type in _BY_KEY):
            return []  # what the key did is told by itself
        return self._keep(waiting.event) if counts_in_doubt(waiting.event) else []

    def _after(self, event: Event) -> list[Change]:
        waiting = self._waiting
        if waiting is None or _act(waiting.event) != _act(event):
            return []
        self._waiting = None
        if waiting.event.type == "key":
            return self._after_key(waiting.event, event)
        counts = event.appeared if is_field(waiting.event.facts) else event.mutated
        if not counts:
            return []
        changes = self._keep(waiting.event)
        if event.appeared and self._pressed:
            self._opened = _Opened([self._pressed[1]])
        return changes

    def _after_key(self, key: Event, after: Event) -> list[Change]:
        name = key.value.rpartition("+")[2]
        if name == "Tab" and not (after.prevented or after.appeared):
            self._tab = key if after.left else None  # what is done next leaves the field as well
            return []
        if name in SURE_KEYS or after.prevented or after.mutated or after.appeared or key.editor:
            return self._keep_key(key)
        return []

    def _keep(self, event: Event) -> list[Change]:
        if event.type == "key":
            return self._keep_key(event)
        return self._press(event)

    # -- adding ------------------------------------------------------------------------------------

    def _add(self, event: Event) -> Add:
        """Add the step of the action that says it is recorded from such an event."""
        action, inputs = meant(event)
        self._keys += 1
        self._typing = self._pressed = self._run = None
        element = None
        if action.kinds is not None and event.facts:
            avoid = _CONTENT if event.editor else ()
            element = propose(event.facts, tuple(event.rivals), event.page, avoid)
        onto = propose(event.onto.facts, event.onto.rivals, event.page) if event.onto else None
        waited = waited_for(event)
        secret = event.value if event.secret else None
        return Add(self._keys, action.name, inputs, element, event.page, secret, onto, waited)

    def _tell(self, event: Event) -> list[Change]:
        """Take an event that is a sentence by itself; one that says it anew changes the last."""
        action, inputs = meant(event)
        node = _node(event)
        if action.recorded and action.recorded.anew:
            if self._typing and self._typing[0] == node:
                secret = event.value if event.secret else None
                return [Update(self._typing[1], action.name, inputs, secret)]
            added = self._add(event)
            self._typing = node, added.key
            return [added]
        return [self._add(event)]

    def _hovered(self, event: Event) -> list[Change]:
        """Return the sentences that point at what shows the thing that is acted on, if any do."""
        return [
            self._add(
                replace(
                    event, type="hover", facts=one.facts, rivals=one.rivals, hovers=(), onto=None
                )
            )
            for one in event.hovers
        ]

    def _scrolled(self, event: Event) -> list[Change]:
        """Return the sentence that scrolls to what a page draws only where one looks."""
        if event.scrolled is None:
            return []
        return [self._add(replace(event, type="scroll", hovers=(), onto=None, meanwhile=()))]

    # -- presses -----------------------------------------------------------------------------------

    def _click(self, event: Event) -> list[Change]:
        submits, self._enter_submits = self._enter_submits, False
        if event.facts is None or event.on_label or (submits and event.detail == 0):
            return []
        if event.detail == 2 and self._pressed:
            return []  # the browser tells of two presses in a row by itself
        if not may_press(event.facts):
            return []
        if is_sure(event):
            return self._press(event)
        self._waiting = _Act(event)
        self._pressed = None
        return []

    def _press(self, event: Event) -> list[Change]:
        pointed = [*self._scrolled(event), *self._hovered(event)]
        added = self._add(event)
        self._pressed = _node(event), added.key
        self._acts[_act(event)] = added.key
        self._opened = _Opened([added.key]) if opens_choices(event.facts) else None
        return [*pointed, added]

    def _dblclick(self, event: Event) -> list[Change]:
        waiting, self._waiting = self._waiting, None
        if self._pressed:
            key = self._pressed[1]
            self._acts = {act: one for act, one in self._acts.items() if one != key}
            return [Update(key, meant(event)[0].name, {})]
        if waiting and not is_field(waiting.event.facts):
            return self._press(replace(waiting.event, type="dblclick"))
        return []

    def _contextmenu(self, event: Event) -> list[Change]:
        return [*self._hovered(event), self._add(event)] if event.facts else []

    # -- typing ------------------------------------------------------------------------------------

    def _input(self, event: Event) -> list[Change]:
        changes = self._tell(event)
        for change in changes:
            if isinstance(change, Add):
                self._opened = self._opened or (_Opened() if opens_choices(event.facts) else None)
                if self._opened:
                    self._opened.keys.append(change.key)
            if self._opened:
                self._opened.typed[change.key] = event.value
        return changes

    def _write(self, event: Event) -> list[Change]:
        """Take what was typed into an editor at its caret: letters add up to one sentence."""
        node = _node(event)
        if self._typing and self._typing[0] == node:
            self._written += event.value
            return [Update(self._typing[1], "", {"text": literal(self._written)})]
        self._written = event.value
        added = self._add(event)
        self._typing = node, added.key
        return [added]

    def _changed(self, event: Event) -> list[Change]:
        return [self._add(event)] if event.facts else []

    # -- keys --------------------------------------------------------------------------------------

    def _key(self, event: Event) -> list[Change]:
        modifiers, key = parts_of_key(event.value)
        in_field = is_field(event.facts)
        if event.editor and key == "Backspace" and not modifiers and self._written and self._typing:
            self._written = self._written[:-1]
            return [Update(self._typing[1], "", {"text": literal(self._written)})]
        if key == "Enter" and not modifiers and in_field and not event.editor:
            if event.facts and event.facts.tag == "textarea":
                return []
            added = self._keep_key(event)
            self._enter_submits = True
            return added
        if is_editing(event):
            return []
        if is_sure_key(event):
            return self._keep_key(event)
        self._waiting = _Act(event)
        return []

    def _keep_key(self, event: Event) -> list[Change]:
        """Add a key, or let it go on with the keys right before it."""
        if self._run and goes_on(self._run[1][-1], event.value):
            step, keys, _ = self._run
            keys.append(event.value)
            return [Update(step, "", {"keys": " ".join(keys)})]
        opened = self._opened
        added = self._add(event)
        self._run = added.key, [event.value], _node(event)
        self._opened = opened
        if opened:
            opened.keys.append(added.key)
        return [added]

    # -- all else ----------------------------------------------------------------------------------

    def _opened_address(self, event: Event) -> list[Change]:
        address = event.address
        if address == self._base or address.startswith((self._base + "/", self._base + "?")):
            address = address[len(self._base) :] or "/"
        elif not parts_of(address).scheme:
            address = "/" + address.lstrip("/")
        return [self._add(replace(event, address=address))]

    def _option(self, event: Event) -> list[Change]:
        """One sentence for a choice, in place of opening the list and searching in it."""
        opened, self._opened = self._opened, None
        option = tidy(event.value)
        gone: list[Change] = []
        if opened:
            if any(text.casefold() not in option.casefold() for text in opened.typed.values()):
                return self._press(replace(event, type="click")) if event.facts else []
            gone = [Gone(key) for key in opened.keys]
        return [*gone, self._add(event)]

    def _files(self, event: Event) -> list[Change]:
        """The press that opened the question for a file is part of giving it."""
        opened = [Gone(self._pressed[1])] if self._pressed else []
        return [*opened, self._add(event)]

    def _slide(self, event: Event) -> list[Change]:
        gone: list[Change] = []
        if event.pressed and self._pressed:  # the press beside it is what has set it
            gone.append(Gone(self._pressed[1]))
            self._pressed = None
        if self._run and self._run[2] == _node(event):  # by those keys
            gone.append(Gone(self._run[0]))
        return [*gone, *self._tell(event)]

    def _drag(self, event: Event) -> list[Change]:
        return [self._add(event)] if event.by or event.onto else []

    def _idle(self, event: Event) -> list[Change]:
        key = self._acts.pop(_act(event), None)
        return [] if key is None else [Idle(key)]

    def _lost(self, event: Event) -> list[Change]:
        """Take a press back that the page never took: it was drawn anew under the mouse."""
        key = self._acts.pop(_act(event), None)
        if self._waiting and _act(self._waiting.event) == _act(event):
            self._waiting = None
        if self._pressed and self._pressed[1] == key:
            self._pressed = self._opened = None
        return [] if key is None else [Gone(key)]

    def _window_chosen(self, event: Event) -> list[Change]:
        return []  # feed() has added the sentence when the window differs

    def _window_closed(self, event: Event) -> list[Change]:
        self._window = ""
        return [self._add(event)]


def meant(event: Event) -> tuple[Action, Mapping[str, str]]:
    """Return the action that is recorded from an event, and what goes in.

    Raises LookupError when no action of the catalogue says that it is.
    """
    for action in ACTIONS.values():
        if action.recorded and event.type in action.recorded.on:
            inputs = action.recorded.reads(event)
            if inputs is not None:
                return action, inputs
    raise LookupError(event.type)


def _node(event: Event) -> Node:
    facts = event.facts
    return event.window, event.frame, facts.handle if facts else 0


def _act(event: Event) -> tuple[str, str, int]:
    return event.window, event.frame, event.press


_BY_KEY = frozenset({"change", "input", "slide"})
_FROM_PAGES = frozenset(
    "click dblclick contextmenu input change key window opened option files slide drag "
    "history write".split()
)
_RULES: dict[EventType, Callable[[Recorder, Event], list[Change]]] = {
    "click": Recorder._click,
    "dblclick": Recorder._dblclick,
    "contextmenu": Recorder._contextmenu,
    "input": Recorder._input,
    "write": Recorder._write,
    "change": Recorder._changed,
    "key": Recorder._key,
    "opened": Recorder._opened_address,
    "window": Recorder._window_chosen,
    "window closed": Recorder._window_closed,
    "option": Recorder._option,
    "files": Recorder._files,
    "slide": Recorder._slide,
    "drag": Recorder._drag,
}
