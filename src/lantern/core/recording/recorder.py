"""The recorder: turns raw events into steps, leaving out what is only noise.

A click that only focused a field leaves no sentence, typing into a field is one sentence, a
press on a label is the tick of its box, a press of Enter that submits a form is not a press of
the submit button as well.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from urllib.parse import urlsplit

from lantern.core.elements.facts import tidy
from lantern.core.elements.kinds import kind_of
from lantern.core.recording.events import Event, EventType
from lantern.core.recording.proposals import Proposal, Waited, propose, waited_for
from lantern.core.steps.actions.navigating import title_pattern
from lantern.core.values.templates import literal

_EDITING_KEYS = frozenset("acvxzy")
_CONTAINERS = frozenset(
    "html body main section article form fieldset nav header footer div table tbody tr ul".split()
)
_OWN_CHANGE = frozenset({"file box"})
_NATIVE_TICK = frozenset({"checkbox", "radio"})


@dataclass(frozen=True)
class Add:
    """A new step; `key` identifies it for later changes. `secret` is a password as typed.

    `waited` is what the person waited for before they did it.
    """

    key: int
    action: str
    inputs: Mapping[str, str]
    element: Proposal | None
    page: str
    secret: str | None = field(default=None, repr=False)
    onto: Proposal | None = None
    waited: Waited | None = None


@dataclass(frozen=True)
class Update:
    """New parts of a step that was added before."""

    key: int
    action: str
    inputs: Mapping[str, str]
    secret: str | None = field(default=None, repr=False)


@dataclass(frozen=True)
class Gone:
    """A step that was added before and turns out to be part of a later one."""

    key: int


@dataclass(frozen=True)
class Idle:
    """A step that was added before did nothing on the page."""

    key: int


Change = Add | Update | Gone | Idle


class Recorder:
    """Keeps what was recorded last, to tell what belongs together.

    `base` is the address of the environment: addresses below it are recorded as paths.
    """

    def __init__(self, base: str) -> None:
        self._base = base.rstrip("/")
        self._keys = 0
        self._typing: tuple[tuple[str, str, int], int] | None = None
        self._pressed: tuple[tuple[str, str, int], int] | None = None
        self._enter_submits = False
        self._window = ""
        self._presses: dict[tuple[str, str, int], int] = {}
        self._choosing: dict[tuple[str, str, int], list[int]] = {}

    def feed(self, event: Event) -> list[Change]:
        """Take the next raw event; returns the changes to the story that it causes."""
        changes: list[Change] = []
        if event.type in _FROM_PAGES and self._window not in ("", event.window):
            changes.append(
                self._add("window", {"window": literal(title_pattern(event.page))}, event)
            )
        if event.type in _FROM_PAGES:  # others, such as "idle", come late from a window left
            self._window = event.window or self._window
        return changes + _HANDLERS[event.type](self, event)

    def forget(self) -> None:
        """Treat what comes next as unconnected with what came before (pause, deletion)."""
        self._typing = self._pressed = None
        self._enter_submits = False
        self._choosing.clear()

    def _add(
        self,
        action: str,
        inputs: Mapping[str, str],
        event: Event,
        *,
        on_element: bool = False,
        secret: str | None = None,
    ) -> Add:
        self._keys += 1
        self._typing = self._pressed = None
        element = None
        if on_element and event.facts:
            element = propose(event.facts, tuple(event.rivals), event.page)
        onto = propose(event.onto.facts, event.onto.rivals, event.page) if event.onto else None
        waited = waited_for(event)
        return Add(self._keys, action, inputs, element, event.page, secret, onto, waited)

    def _hovered(self, event: Event) -> list[Change]:
        """Return the sentence that points at what shows the thing that is acted on, if any does."""
        if event.hover is None:
            return []
        node = replace(event, facts=event.hover.facts, rivals=event.hover.rivals, hover=None)
        return [self._add("hover", {}, node, on_element=True)]

    def _node(self, event: Event) -> tuple[str, str, int]:
        facts = event.facts
        return event.window, facts.frame if facts else "", facts.handle if facts else 0

    def _click(self, event: Event) -> list[Change]:
        submits, self._enter_submits = self._enter_submits, False
        if event.facts is None or event.on_label or (submits and event.detail == 0):
            return []
        if not self._is_press(event):
            return []
        node = self._node(event)
        if event.detail == 2 and self._pressed and self._pressed[0] == node:
            return []
        pointed = self._hovered(event)
        added = self._add("press", {}, event, on_element=True)
        self._pressed = node, added.key
        self._presses[event.window, event.frame, event.press] = added.key
        if kind_of(event.facts) == "choice list":
            self._choosing.setdefault(node, []).append(added.key)
        return [*pointed, added]

    @staticmethod
    def _is_press(event: Event) -> bool:
        facts = event.facts
        if facts is None:
            return False
        kind = kind_of(facts)
        input_type = facts.attributes.get("type", "").lower()
        if facts.tag in ("select", "option") or kind in _OWN_CHANGE:
            return False
        if facts.tag == "input" and input_type in _NATIVE_TICK:
            return False
        if kind in ("text box", "password box", "slider"):
            return False
        return event.pressable or facts.tag not in _CONTAINERS

    def _dblclick(self, event: Event) -> list[Change]:
        if self._pressed and self._pressed[0] == self._node(event):
            key = self._pressed[1]
            self._presses = {press: one for press, one in self._presses.items() if one != key}
            return [Update(key, "double press", {})]
        return []

    def _contextmenu(self, event: Event) -> list[Change]:
        if event.facts is None:
            return []
        pointed = self._hovered(event)
        return [*pointed, self._add("secondary press", {}, event, on_element=True)]

    def _input(self, event: Event) -> list[Change]:
        node = self._node(event)
        secret = event.value if event.secret else None
        inputs = {"text": "" if event.secret else literal(event.value)}
        if self._typing and self._typing[0] == node:
            return [Update(self._typing[1], "type", inputs, secret)]
        added = self._add("type", inputs, event, on_element=True, secret=secret)
        self._typing = node, added.key
        if event.facts and kind_of(event.facts) == "choice list":
            self._choosing.setdefault(node, []).append(added.key)
        return [added]

    def _changed(self, event: Event) -> list[Change]:
        facts = event.facts
        if facts is None:
            return []
        if kind_of(facts) == "choice list":
            chosen = {"option": literal(event.value.strip())}
            return [self._add("choose", chosen, event, on_element=True)]
        action = "tick" if event.ticked else "untick"
        return [self._add(action, {}, event, on_element=True)]

    def _key(self, event: Event) -> list[Change]:
        *modifiers, key = event.value.split("+") if event.value != "+" else ["+"]
        kind = kind_of(event.facts) if event.facts else "text"
        in_field = kind in ("text box", "password box")
        if key == "Enter" and not modifiers:
            if not in_field or (event.facts and event.facts.tag == "textarea"):
                return []
            added = self._add("key", {"keys": "Enter"}, event, on_element=True)
            self._enter_submits = True
            return [added]
        shortcut = {"Control", "Alt", "Meta"} & set(modifiers)
        if shortcut and key.lower() in _EDITING_KEYS and "Alt" not in modifiers:
            return []
        if shortcut or key == "Escape" or (key.startswith("F") and key[1:].isdigit()):
            return [self._add("key", {"keys": event.value}, event, on_element=in_field)]
        return []

    def _opened(self, event: Event) -> list[Change]:
        address = event.address
        if address == self._base or address.startswith((self._base + "/", self._base + "?")):
            address = address[len(self._base) :] or "/"
        elif not urlsplit(address).scheme:
            address = "/" + address.lstrip("/")
        return [self._add("open", {"address": literal(address)}, event)]

    def _dialog(self, event: Event) -> list[Change]:
        inputs = {"answer": "OK" if event.ticked else "Cancel"}
        if event.value:
            inputs["text"] = literal(event.value)
        return [self._add("dialog", inputs, event)]

    def _option(self, event: Event) -> list[Change]:
        """One sentence for a choice, in place of opening the list and typing into it."""
        opened = self._choosing.pop(self._node(event), [])
        chosen = {"option": literal(tidy(event.value))}
        added = self._add("choose", chosen, event, on_element=True)
        return [*map(Gone, opened), added]

    def _files(self, event: Event) -> list[Change]:
        """The press that opened the question for a file is part of giving it."""
        opened = [Gone(self._pressed[1])] if self._pressed else []
        return [*opened, self._add("upload", {"file": event.value}, event, on_element=True)]

    def _slide(self, event: Event) -> list[Change]:
        node = self._node(event)
        inputs = {"value": literal(event.value)}
        if self._typing and self._typing[0] == node:
            return [Update(self._typing[1], "slide", inputs)]
        added = self._add("slide", inputs, event, on_element=True)
        self._typing = node, added.key
        return [added]

    def _drag(self, event: Event) -> list[Change]:
        return [self._add("drag", {}, event, on_element=True)] if event.onto else []

    def _idle(self, event: Event) -> list[Change]:
        key = self._presses.pop((event.window, event.frame, event.press), None)
        return [] if key is None else [Idle(key)]

    def _history(self, event: Event) -> list[Change]:
        actions = {"back": "go back", "forward": "go forward", "reload": "reload"}
        return [self._add(actions[event.value], {}, event)]

    def _download(self, event: Event) -> list[Change]:
        self._pressed = None
        return [self._add("download", {"name": literal(title_pattern(event.value))}, event)]

    def _window_chosen(self, event: Event) -> list[Change]:
        return []  # feed() has added the sentence when the window differs

    def _window_closed(self, event: Event) -> list[Change]:
        self._window = ""
        inputs = {"window": literal(title_pattern(event.page))}
        return [self._add("close window", inputs, event)]


_FROM_PAGES = frozenset(
    "click dblclick contextmenu input change key window opened option files slide drag "
    "history".split()
)
_HANDLERS: dict[EventType, Callable[[Recorder, Event], list[Change]]] = {
    "click": Recorder._click,
    "dblclick": Recorder._dblclick,
    "contextmenu": Recorder._contextmenu,
    "input": Recorder._input,
    "change": Recorder._changed,
    "key": Recorder._key,
    "opened": Recorder._opened,
    "dialog": Recorder._dialog,
    "window": Recorder._window_chosen,
    "window closed": Recorder._window_closed,
    "option": Recorder._option,
    "files": Recorder._files,
    "slide": Recorder._slide,
    "drag": Recorder._drag,
    "idle": Recorder._idle,
    "history": Recorder._history,
    "download": Recorder._download,
}
