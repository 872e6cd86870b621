"""Pressing, pointing, dragging: what is done with the mouse, and keys."""

from __future__ import annotations

import re
from typing import Literal

from lantern.core.elements.clues import Element
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import WAIT, find, look_once, press
from lantern.core.engine.outcomes import StepFailed
from lantern.core.problems import BadInput
from lantern.core.recording.events import Event
from lantern.core.steps.actions.base import Action, Call, Input, Perform, recorded

SEARCHES = 0.35
"""Seconds without a change after which a list has found what was typed into it."""
MOST_TURNS = 400
"""How often a page is scrolled on when something is looked for."""
_SHARES = re.compile(r"\s*(\d+(?:\.\d+)?)\s*%\s*,?\s*(\d+(?:\.\d+)?)\s*%\s*")


def place_in(text: str) -> tuple[float, float] | None:
    """Return a place in a thing ("25% 60%") as shares (0 to 1); None for none. Raises BadInput."""
    if not text.strip():
        return None
    match = _SHARES.fullmatch(text)
    if not match or not all(0 <= float(number) <= 100 for number in match.groups()):
        raise BadInput(
            f"“{text}” is not a place in a thing.",
            where="at",
            hint="Write how far from its left and from its top, for example 25% 60%.",
        )
    return float(match[1]) / 100, float(match[2]) / 100


def _pixels(call: Call, name: str) -> float:
    text = call.inputs.get(name, "").strip() or "0"
    try:
        return float(text)
    except ValueError as error:
        raise BadInput(f"“{text}” is not a number of pixels.", where=name) from error


def _mouse(button: Literal["left", "right"], count: int) -> Perform:
    def perform(call: Call) -> ask.Play[None]:
        target = yield from call.ready(place_in(call.inputs.get("at", "")))
        yield from press(target, call.target().name, button, count)

    return perform


def _hover(call: Call) -> ask.Play[None]:
    target = yield from call.ready()
    yield from ask.PointAt(target.aimed.x, target.aimed.y)


def _scroll(call: Call) -> ask.Play[None]:
    """Bring it into view; what is not on the page yet is looked for by scrolling on."""
    element = call.target()
    found, _ = yield from look_once(element, aim=False, after=None, wait=0)
    if not found:
        yield from _search(call, element)
    target = yield from find(element, call.limit, call.evidence, ready=False)
    aimed: ask.Aimed = yield from ask.Aim(target.facts.handle, target.facts.frame)
    call.evidence.box = aimed.box
    yield from call.picture()


def _search(call: Call, element: Element) -> ask.Play[None]:
    """Scroll to where it was, on to the end, and once more from the top, until it is there."""
    start: float = yield from ask.Now()
    begin = _pixels(call, "down")
    for first in (begin, 0.0):
        more: bool = yield from ask.ScrollOn(first)
        for _turn in range(MOST_TURNS):
            found, _ = yield from look_once(element, aim=False, after=None, wait=WAIT)
            now: float = yield from ask.Now()
            if found or not more or now - start > call.limit:
                break
            more = yield from ask.ScrollOn()
        if found or not begin:
            return


def _drag(call: Call) -> ask.Play[None]:
    if call.onto is None:
        raise StepFailed("bad value", "This sentence needs an element to drag to.")
    target = yield from call.ready()
    onto = yield from find(call.onto, call.limit, call.evidence)
    # Looking for the second one may have scrolled the first.
    start: ask.Aimed = yield from ask.Aim(target.facts.handle, target.facts.frame)
    before, _ = yield from look_once(call.target(), aim=False, after=None, wait=0)
    place = place_in(call.inputs.get("at", ""))
    end: ask.Aimed = yield from ask.Aim(onto.facts.handle, onto.facts.frame, place)
    after, _ = yield from look_once(call.target(), aim=False, after=None, wait=0)
    if start.problem or [one.box for one in before] != [one.box for one in after]:
        raise StepFailed(
            "not ready",
            f"“{call.target().name}” and “{call.onto.name}” do not fit into the window together.",
        )
    call.evidence.box = start.box
    yield from ask.Drag(start.x, start.y, end.x, end.y)


def _drag_by(call: Call) -> ask.Play[None]:
    target = yield from call.ready()
    x, y = target.aimed.x, target.aimed.y
    yield from ask.Drag(x, y, x + _pixels(call, "right"), y + _pixels(call, "down"))


def _key(call: Call) -> ask.Play[None]:
    """Press keys one after the other; the focus goes where they lead it."""
    if call.element is not None:
        target = yield from find(call.target(), call.limit, call.evidence)
        yield from ask.Read(target.facts.handle, "focus", target.facts.frame)
        if call.element.kind == "choice list":  # it may still be looking for what was typed
            yield from ask.Quiet(SEARCHES, SEARCHES * 3)
    yield from call.picture()
    for keys in call.inputs["keys"].split():
        yield from ask.PressKey(keys)


def _place_pressed(event: Event) -> dict[str, str]:
    return {"at": event.spot} if event.spot else {}


def _place_dropped(event: Event) -> dict[str, str] | None:
    if event.by or event.onto is None:
        return None
    return {"at": event.onto.at} if event.onto.at else {}


def _carried(event: Event) -> dict[str, str] | None:
    return {"right": str(event.by[0]), "down": str(event.by[1])} if event.by else None


_AT = Input("at", optional=True)
ENTRIES = (
    Action(
        "press",
        "Press",
        "Press {element}[ at {at}]",
        _mouse("left", 1),
        (_AT,),
        help="Presses the left mouse button on it; at a place in it, such as 25% 60%, if given.",
        recorded=recorded("click", reads=_place_pressed),
    ),
    Action(
        "double press",
        "Press twice",
        "Press {element} twice[ at {at}]",
        _mouse("left", 2),
        (_AT,),
        help="Presses it twice in a row.",
        recorded=recorded("dblclick", reads=_place_pressed),
    ),
    Action(
        "secondary press",
        "Press with the right button",
        "Press {element} with the right button[ at {at}]",
        _mouse("right", 1),
        (_AT,),
        help="Presses the right mouse button on it.",
        recorded=recorded("contextmenu", reads=_place_pressed),
    ),
    Action(
        "hover",
        "Point at",
        "Point at {element}",
        _hover,
        help="Moves the mouse onto it, for what shows only then.",
        recorded=recorded("hover"),
    ),
    Action(
        "drag",
        "Drag to",
        "Drag {element} to {onto}[ at {at}]",
        _drag,
        (_AT,),
        help="Presses it, moves it onto the other and lets go; at a place in that if given.",
        onto=True,
        recorded=recorded("drag", reads=_place_dropped),
    ),
    Action(
        "drag by",
        "Drag by a distance",
        "Drag {element} {right} pixels to the right and {down} down",
        _drag_by,
        (Input("right", "number", default="0"), Input("down", "number", default="0")),
        help="Presses it, moves it so far and lets go: knobs, splitters, things on a canvas.",
        recorded=recorded("drag", reads=_carried),
    ),
    Action(
        "scroll",
        "Scroll to",
        "Scroll to {element}[ about {down} pixels down]",
        _scroll,
        (Input("down", "number", optional=True),),
        help="Brings it into view, as every other action does by itself; what a long list has not "
        "drawn yet is looked for by scrolling.",
        recorded=recorded("scroll", reads=lambda event: {"down": str(event.scrolled or 0)}),
    ),
    Action(
        "key",
        "Press a key",
        "Press the key {keys} in {element}",
        _key,
        (Input("keys", "keys", default="Enter"),),
        help="A key or a shortcut such as Control+Enter, or several with blanks between them, in "
        "an element or where the focus is.",
        recorded=recorded("key", reads=lambda event: {"keys": event.value}),
    ),
)
