"""Filling fields: typing, choosing, ticking, sliding."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Facts, tidy
from lantern.core.elements.kinds import KINDS, kind_of
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import WAIT, Target, look_once, press
from lantern.core.engine.outcomes import StepFailed
from lantern.core.problems import nearest
from lantern.core.recording.events import Event
from lantern.core.recording.weighing import is_field
from lantern.core.steps.actions.base import Action, Call, Input, Perform, recorded
from lantern.core.values.templates import literal

TYPE_AHEAD = 0.8
"""Seconds after which the option is typed into a list that does not show it."""
SETTLED = 1.5
"""Seconds without a change after which a list that the page draws is taken to be complete."""
NATIVE_SETTLED = 0.5
"""The same for a list of the browser, whose options a script may still be filling in."""
MOST_KEYS = 400
"""Most presses of an arrow key to bring a slider to a value."""


def _type(*, append: bool) -> Perform:
    def perform(call: Call) -> ask.Play[None]:
        target = yield from call.ready()
        yield from ask.TypeText(
            target.facts.handle,
            target.aimed.x,
            target.aimed.y,
            call.inputs["text"],
            target.facts.frame,
            append,
        )

    return perform


def _type_on(call: Call) -> ask.Play[None]:
    """Type at the caret; a press puts it there where the focus is elsewhere."""
    target = yield from call.ready()
    state: str | None = yield from ask.Read(target.facts.handle, "focused", target.facts.frame)
    if state != "yes":
        yield from press(target, call.target().name)
    yield from ask.Letters(call.inputs["text"])


def _choose(call: Call) -> ask.Play[None]:
    option = "\n".join(tidy(line) for line in call.inputs["option"].splitlines())
    start: float = yield from ask.Now()
    target = yield from call.ready()
    if target.facts.tag != "select":
        yield from _choose_shown(call, target, option, start)
        return
    offered: tuple[str, ...] = ()
    since = start
    while True:
        chosen: ask.Chosen = yield from ask.Choose(target.facts.handle, option, target.facts.frame)
        now: float = yield from ask.Now()
        if chosen.done:
            return
        if tuple(chosen.options) != offered:
            offered, since = tuple(chosen.options), now
        settled = bool(offered) and now - since >= NATIVE_SETTLED
        if settled or now - start >= call.limit:
            break
        yield from ask.Wait(WAIT)
        target = yield from call.ready()  # the page may have drawn the list anew
    raise _no_option(call, option, list(offered))


def _choose_shown(call: Call, target: Target, option: str, start: float) -> ask.Play[None]:
    """Open a list that the page draws itself, and press the option when it shows."""
    wanted = _option(option)
    is_field = target.facts.tag in ("input", "textarea")
    typed = False
    stamp: int | None = None
    there, _ = yield from look_once(wanted, aim=False, after=None, wait=0)
    if not any(facts.visible for facts in there):  # else the list is open already
        yield from press(target, call.target().name)
    offered: list[str] = []
    last: list[str] = []
    since = start
    while True:
        found, seen = yield from look_once(wanted, aim=True, after=stamp, wait=WAIT)
        stamp = seen.stamp
        shown = [facts for facts in found if facts.visible]
        if shown and (yield from _pressed(shown[0], seen)):
            return
        now: float = yield from ask.Now()
        if now - start >= call.limit:
            break
        every: ask.Seen = yield from ask.Lookup(ask.Query(KINDS["option"].selector))
        listed = [facts.text for facts in every.candidates if facts.visible]
        if listed != last:
            last, since = listed, now
        offered = offered or listed
        if offered and typed and now - since >= SETTLED:
            break  # the list stays as it is: waiting longer brings no other option
        if not typed and now - start >= TYPE_AHEAD:
            typed = True
            facts, aimed = target.facts, target.aimed
            if is_field:
                yield from ask.TypeText(facts.handle, aimed.x, aimed.y, option, facts.frame)
            else:  # the list may have brought a field to search in
                writes = yield from ask.Read(facts.handle, "writes", facts.frame)
                if writes == "yes":
                    yield from ask.Letters(option)
            since = now
    raise _no_option(call, option, offered)


def _offers(call: Call) -> ask.Play[bool]:
    """Tell whether an option is offered by a list that the page draws itself."""
    option = "\n".join(tidy(line) for line in call.inputs["option"].splitlines())
    found, _ = yield from look_once(_option(option), aim=False, after=None, wait=0)
    return any(facts.visible for facts in found)


def _option(text: str) -> Element:
    return Element("", text, "option", (Clue("text", "is", text, loose=True),))


def _pressed(facts: Facts, seen: ask.Seen) -> ask.Play[bool]:
    aimed = seen.aimed
    if aimed is None or aimed.handle != facts.handle:
        aimed = yield from ask.Aim(facts.handle, facts.frame)
    if aimed.problem:
        return False
    yield from press(Target(facts, aimed), facts.text)
    return True


def _no_option(call: Call, option: str, options: list[str]) -> StepFailed:
    listed = ", ".join(options[:12]) + (", …" if len(options) > 12 else "")
    close = nearest(option, options)
    return StepFailed(
        "bad value",
        f"“{option}” is not among the {len(options)} options of {call.target().name}: {listed}.",
        expected=option,
        found=listed,
        hint=f"Did you mean “{close}”?" if close else "",
    )


def _tick(wanted: Literal["yes", "no"]) -> Perform:
    def perform(call: Call) -> ask.Play[None]:
        target = yield from call.ready()
        state = yield from ask.Read(target.facts.handle, "ticked", target.facts.frame)
        if state != wanted:
            yield from press(target, call.target().name)

    return perform


def _slide(call: Call) -> ask.Play[None]:
    """Press where the value should be, then go on by arrow keys until it is exact."""
    wanted = _as_number(call.inputs["value"], "value")
    target = yield from call.ready()
    handle, frame = target.facts.handle, target.facts.frame
    lowest = _as_number((yield from ask.Read(handle, "lowest", frame)), "lowest")
    highest = _as_number((yield from ask.Read(handle, "highest", frame)), "highest")
    if not lowest <= wanted <= highest or lowest == highest:
        raise StepFailed(
            "bad value",
            f"“{call.target().name}” goes from {lowest:g} to {highest:g}, not to {wanted:g}.",
        )
    box = target.aimed.box
    share = (wanted - lowest) / (highest - lowest)
    if box.width > 3 * box.height:  # else it is the knob alone
        knob = min(box.height, box.width / 10) / 2
        yield from ask.Mouse(box.x + knob + share * (box.width - 2 * knob), box.y + box.height / 2)
    yield from ask.Read(handle, "focus", frame)
    before = None
    for _ in range(MOST_KEYS):
        now = _as_number((yield from ask.Read(handle, "value", frame)), "value")
        call.evidence.found = f"{now:g}"
        if now == wanted or (before is not None and (before - wanted) * (now - wanted) < 0):
            break
        if now == before:
            break
        before = now
        yield from ask.PressKey("ArrowRight" if now < wanted else "ArrowLeft")
    if now != wanted:
        raise StepFailed(
            "bad value",
            f"“{call.target().name}” can not be set to {wanted:g}; the nearest was {now:g}.",
            expected=f"{wanted:g}",
            found=f"{now:g}",
        )


def _as_number(text: str | None, what: str) -> float:
    try:
        return float((text or "").strip())
    except ValueError as error:
        raise StepFailed(
            "bad value", f"The {what} of a slider is a number, not “{text}”."
        ) from error


def _typed(event: Event) -> dict[str, str] | None:
    """Read what a field holds; what is typed into an editor begins its text or goes on with it."""
    if event.type == "write" and not _begins(event):
        return None
    return {"text": "" if event.secret else literal(event.value)}


def _typed_on(event: Event) -> dict[str, str] | None:
    return None if _begins(event) else {"text": literal(event.value)}


def _begins(event: Event) -> bool:
    return event.empty and is_field(event.facts)


def _chosen(event: Event) -> dict[str, str] | None:
    if event.type == "change" and not _is_list(event):
        return None
    option = tidy(event.value) if event.type == "option" else event.value.strip()
    return {"option": literal(option)}


def _ticked(*, on: bool) -> Callable[[Event], dict[str, str] | None]:
    return lambda event: None if _is_list(event) or event.ticked != on else {}


def _is_list(event: Event) -> bool:
    return event.facts is not None and kind_of(event.facts) == "choice list"


_FIELDS = frozenset({"text box", "password box", "choice list"})

ENTRIES = (
    Action(
        "type",
        "Type",
        "Type {text} into {element}",
        _type(append=False),
        (Input("text"),),
        _FIELDS,
        help="Empties the field and types the text; a date is written as 2027-05-31.",
        recorded=recorded("input", "write", reads=_typed, anew=True),
    ),
    Action(
        "add text",
        "Add text",
        "Add {text} to {element}",
        _type(append=True),
        (Input("text"),),
        _FIELDS,
        help="Types the text behind what is in the field.",
    ),
    Action(
        "type on",
        "Go on typing",
        "Go on typing {text} in {element}",
        _type_on,
        (Input("text"),),
        help="Types where the caret is, without emptying anything: for editors, step by step.",
        recorded=recorded("write", reads=_typed_on),
    ),
    Action(
        "choose",
        "Choose from a list",
        "Choose {option} in {element}",
        _choose,
        (Input("option"),),
        frozenset({"choice list", "text box", "button"}),
        help="Chooses the option with that text, in a list of the browser or of the page itself.",
        recorded=recorded("change", "option", reads=_chosen),
        looks=_offers,
    ),
    Action(
        "tick",
        "Tick",
        "Tick {element}",
        _tick("yes"),
        kinds=frozenset({"tick box", "radio"}),
        help="Presses it unless it is ticked already.",
        recorded=recorded("change", reads=_ticked(on=True)),
    ),
    Action(
        "untick",
        "Untick",
        "Untick {element}",
        _tick("no"),
        kinds=frozenset({"tick box"}),
        help="Presses it if it is ticked.",
        recorded=recorded("change", reads=_ticked(on=False)),
    ),
    Action(
        "slide",
        "Slide",
        "Slide {element} to {value}",
        _slide,
        (Input("value", "number", default="0"),),
        frozenset({"slider"}),
        help="Sets a slider to a number.",
        recorded=recorded("slide", reads=lambda event: {"value": literal(event.value)}, anew=True),
    ),
)
