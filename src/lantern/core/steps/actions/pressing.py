"""Pressing, pointing, dragging: what is done with the mouse, and keys."""

from __future__ import annotations

from typing import Literal

from lantern.core.engine import requests as ask
from lantern.core.engine.finding import find
from lantern.core.engine.outcomes import StepFailed
from lantern.core.steps.actions.base import Action, Call, Input, Perform


def _mouse(button: Literal["left", "right"], count: int) -> Perform:
    def perform(call: Call) -> ask.Play[None]:
        target = yield from call.ready()
        yield ask.Mouse(target.aimed.x, target.aimed.y, button, count)

    return perform


def _hover(call: Call) -> ask.Play[None]:
    target = yield from call.ready()
    yield ask.PointAt(target.aimed.x, target.aimed.y)


def _scroll(call: Call) -> ask.Play[None]:
    target = yield from find(call.target(), call.limit, call.evidence, ready=False)
    aimed: ask.Aimed = yield ask.Aim(target.facts.handle, target.facts.frame)
    call.evidence.box = aimed.box
    yield from call.picture()


def _drag(call: Call) -> ask.Play[None]:
    if call.onto is None:
        raise StepFailed("bad value", "This sentence needs an element to drag to.")
    target = yield from call.ready()
    onto = yield from find(call.onto, call.limit, call.evidence)
    # Looking for the second one may have scrolled the first.
    start: ask.Aimed = yield ask.Aim(target.facts.handle, target.facts.frame)
    if start.problem:
        raise StepFailed(
            "not ready",
            f"“{call.target().name}” and “{call.onto.name}” do not fit into the window together.",
        )
    end: ask.Aimed = yield ask.Aim(onto.facts.handle, onto.facts.frame)
    call.evidence.box = start.box
    yield ask.Drag(start.x, start.y, end.x, end.y)


def _key(call: Call) -> ask.Play[None]:
    if call.element is not None:
        target = yield from call.ready()
        yield ask.Read(target.facts.handle, "focus", target.facts.frame)
    else:
        yield from call.picture()
    yield ask.PressKey(call.inputs["keys"])


ENTRIES = (
    Action(
        "press",
        "Press",
        "Press {element}",
        _mouse("left", 1),
        help="Presses the left mouse button on it.",
    ),
    Action(
        "double press",
        "Press twice",
        "Press {element} twice",
        _mouse("left", 2),
        help="Presses it twice in a row.",
    ),
    Action(
        "secondary press",
        "Press with the right button",
        "Press {element} with the right button",
        _mouse("right", 1),
        help="Presses the right mouse button on it.",
    ),
    Action(
        "hover",
        "Point at",
        "Point at {element}",
        _hover,
        help="Moves the mouse onto it, for what shows only then.",
    ),
    Action(
        "drag",
        "Drag to",
        "Drag {element} to {onto}",
        _drag,
        help="Presses it, moves it onto the other element and lets go.",
        onto=True,
    ),
    Action(
        "scroll",
        "Scroll to",
        "Scroll to {element}",
        _scroll,
        help="Brings it into view; every other action does this by itself.",
    ),
    Action(
        "key",
        "Press a key",
        "Press the key {keys} in {element}",
        _key,
        (Input("keys", "keys", default="Enter"),),
        help="A key or a shortcut such as Control+Enter, in an element or where the focus is.",
    ),
)
