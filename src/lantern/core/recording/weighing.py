"""What an act is worth, as far as the act alone can tell: whether it counts, waits, or is noise."""

from __future__ import annotations

from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import kind_of
from lantern.core.recording.events import Event

_CONTAINERS = frozenset(
    "html body main section article form fieldset nav header footer div table tbody tr ul".split()
)
_OWN_CHANGE = frozenset({"file box"})
_NATIVE_TICK = frozenset({"checkbox", "radio"})
_FIELDS = frozenset({"text box", "password box"})
_EDITING_KEYS = frozenset("acvxyz")
_COPYING_KEYS = frozenset("cv")
_ENDS_RUN = frozenset({"Enter", "Space", "Escape"})
_SHORTCUT = frozenset({"Control", "Alt", "Meta"})
SURE_KEYS = frozenset({"Enter", "Escape"})
"""Keys that count whatever comes of them."""


def parts_of_key(value: str) -> tuple[list[str], str]:
    """Return the modifiers of a key and the key itself, as of "Control+Shift+a" or "+"."""
    *modifiers, key = value.split("+") if value != "+" else ["+"]
    return modifiers, key


def is_editing(event: Event) -> bool:
    """Tell whether a key copies, pastes or takes back: what is in the field then is told itself.

    In an editor only copying and pasting are.
    """
    modifiers, key = parts_of_key(event.value)
    if not _SHORTCUT & set(modifiers) or "Alt" in modifiers:
        return False
    return key.lower() in (_COPYING_KEYS if event.editor else _EDITING_KEYS)


def is_sure_key(event: Event) -> bool:
    """Tell whether a key counts whatever comes of it: shortcuts, F keys, all in editors."""
    modifiers, key = parts_of_key(event.value)
    return (
        bool(_SHORTCUT & set(modifiers)) or (key[:1] == "F" and key[1:].isdecimal()) or event.editor
    )


def may_press(facts: Facts) -> bool:
    """Tell whether a press is told as one: what changes by it tells that itself."""
    input_type = facts.attributes.get("type", "").lower()
    if facts.tag in ("select", "option") or kind_of(facts) in _OWN_CHANGE:
        return False
    return not (facts.tag == "input" and input_type in _NATIVE_TICK | {"range"})


def is_sure(event: Event) -> bool:
    """Tell whether a press counts whatever comes of it."""
    facts = event.facts
    if facts is None or is_field(facts) or kind_of(facts) == "slider":
        return bool(facts and event.spot and is_field(facts))
    return event.pressable or facts.tag not in _CONTAINERS


def is_field(facts: Facts | None) -> bool:
    """Tell whether a press on it alone only means to write there, unless something opens."""
    if facts is None:
        return False
    kind = kind_of(facts)
    return kind in _FIELDS or (kind == "choice list" and facts.tag in ("input", "textarea"))


def goes_on(last: str, key: str) -> bool:
    """Tell whether a key belongs to the keys right before it: shortcuts stand alone."""
    shortcut = _SHORTCUT & {*last.split("+")[:-1], *key.split("+")[:-1]}
    return not shortcut and last.rpartition("+")[2] not in _ENDS_RUN


def opens_choices(facts: Facts | None) -> bool:
    """Tell whether a press on it opens a list that is chosen from."""
    return facts is not None and kind_of(facts) == "choice list"


def counts_in_doubt(event: Event) -> bool:
    """Tell whether an act counts of which nobody said what came of it."""
    if event.type == "key":
        return event.value.rpartition("+")[2] != "Tab"
    return not is_field(event.facts)
