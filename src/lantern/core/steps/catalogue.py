"""The catalogue of actions: one entry each, the single place where an action is added.

An entry says how the action is named, how it reads as a sentence, what goes in, on which kinds
of element it works and how it is performed. The API hands the catalogue to the front end.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal
from urllib.parse import urljoin, urlsplit

from lantern.core.elements.clues import Element
from lantern.core.elements.facts import tidy
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import WAIT, Target, find, look_once
from lantern.core.engine.outcomes import Evidence, StepFailed
from lantern.core.problems import BadInput, UnknownName, nearest
from lantern.core.steps.properties import COMPARISONS, check_property, compare

InputKind = Literal["text", "choice", "keys", "address", "property", "comparison", "window"]


@dataclass(frozen=True)
class Input:
    """A value that an action takes; `choices` lists the allowed ones of kind "choice"."""

    name: str
    kind: InputKind = "text"
    choices: tuple[str, ...] = ()
    default: str = ""
    optional: bool = False


@dataclass
class Call:
    """One performance of an action: its values with names filled in, and where evidence goes."""

    inputs: Mapping[str, str]
    element: Element | None
    limit: float
    base: str
    evidence: Evidence
    picture: Callable[[], ask.Play[None]]

    def target(self) -> Element:
        """Return the element; raises StepFailed when the sentence names none."""
        if self.element is None:
            raise StepFailed("bad value", "This sentence needs an element.")
        return self.element

    def ready(self) -> ask.Play[Target]:
        """Wait for the element to be ready for input, and picture it before anything happens."""
        target = yield from find(self.target(), self.limit, self.evidence)
        yield from self.picture()
        return target


Perform = Callable[[Call], ask.Play[None]]


@dataclass(frozen=True)
class Action:
    """An action. In `template`, {element} and the inputs' names stand for the parts.

    `kinds` is empty for an action that works on any kind, None for one without an element.
    """

    name: str
    title: str
    template: str
    perform: Perform
    inputs: tuple[Input, ...] = ()
    kinds: frozenset[str] | None = frozenset()
    help: str = ""


def full_address(base: str, address: str) -> str:
    """Return the absolute address; raises StepFailed unless it is http or https."""
    full = urljoin(base.rstrip("/") + "/", address)
    if urlsplit(full).scheme not in ("http", "https") or not urlsplit(full).netloc:
        raise StepFailed(
            "bad value",
            f"“{address}” is not an address that can be opened.",
            hint="Write a path such as /quote, or an address with http:// or https://.",
        )
    return full


def _open(call: Call) -> ask.Play[None]:
    address = full_address(call.base, call.inputs["address"])
    opened: ask.Opened = yield ask.Open(address, max(call.limit, 1.0))
    yield from call.picture()
    if opened.error:
        raise StepFailed("page error", f"{address} could not be opened: {opened.error}.")
    if opened.status >= 400:
        raise StepFailed(
            "page error",
            f"{address} answered with the error {opened.status}.",
            expected="a page",
            found=f"HTTP {opened.status}",
        )


def _mouse(button: Literal["left", "right"], count: int) -> Perform:
    def perform(call: Call) -> ask.Play[None]:
        target = yield from call.ready()
        yield ask.Mouse(target.aimed.x, target.aimed.y, button, count)

    return perform


def _type(call: Call) -> ask.Play[None]:
    target = yield from call.ready()
    yield ask.TypeText(
        target.facts.handle,
        target.aimed.x,
        target.aimed.y,
        call.inputs["text"],
        target.facts.frame,
    )


def _choose(call: Call) -> ask.Play[None]:
    element, option = call.target(), tidy(call.inputs["option"])
    start: float = yield ask.Now()
    target = yield from call.ready()
    while True:
        chosen: ask.Chosen = yield ask.Choose(target.facts.handle, option, target.facts.frame)
        now: float = yield ask.Now()
        if chosen.done:
            return
        if chosen.options or now - start >= call.limit:
            break
        yield ask.Wait(WAIT)
    listed = ", ".join(chosen.options[:12]) + (", …" if len(chosen.options) > 12 else "")
    close = nearest(option, chosen.options)
    raise StepFailed(
        "bad value",
        f"“{option}” is not among the {len(chosen.options)} options of {element.name}: {listed}.",
        expected=option,
        found=listed,
        hint=f"Did you mean “{close}”?" if close else "",
    )


def _tick(wanted: Literal["yes", "no"]) -> Perform:
    def perform(call: Call) -> ask.Play[None]:
        target = yield from call.ready()
        state = yield ask.Read(target.facts.handle, "ticked", target.facts.frame)
        if state != wanted:
            yield ask.Mouse(target.aimed.x, target.aimed.y)

    return perform


def _key(call: Call) -> ask.Play[None]:
    if call.element is not None:
        target = yield from call.ready()
        yield ask.Read(target.facts.handle, "focus", target.facts.frame)
    else:
        yield from call.picture()
    yield ask.PressKey(call.inputs["keys"])


def _dialog(call: Call) -> ask.Play[None]:
    start: float = yield ask.Now()
    accept = call.inputs["answer"] == "OK"
    while True:
        message = yield ask.AnswerDialog(accept, call.inputs.get("text", ""))
        if message is not None:
            call.evidence.found = message
            return
        now: float = yield ask.Now()
        if now - start >= call.limit:
            raise StepFailed(
                "not found", f"No browser dialog opened within {call.limit:g} s to be answered."
            )
        yield ask.Wait(WAIT)


def _window_named(call: Call) -> ask.Play[ask.Window]:
    """Wait for the window: its title, or "newest" / "first"; in the title # stands for digits."""
    wanted = call.inputs["window"]
    start: float = yield ask.Now()
    while True:
        windows: list[ask.Window] = list((yield ask.Windows()))
        for window in windows:
            if same_title(window.title, wanted):
                return window
        if wanted in ("first", "newest") and len(windows) > (wanted == "newest"):
            return windows[0 if wanted == "first" else -1]
        now: float = yield ask.Now()
        if now - start >= call.limit:
            listed = ", ".join(f"“{window.title}”" for window in windows)
            raise StepFailed(
                "not found",
                f"No window “{wanted}” opened within {call.limit:g} s. Open: {listed}.",
                expected=wanted,
                found=listed,
            )
        yield ask.Wait(WAIT)


def same_title(title: str, wanted: str) -> bool:
    """Tell whether a window's title is the one wanted, where # stands for a number."""
    return _numbers_open(title) == _numbers_open(wanted) if "#" in wanted else title == wanted


def _numbers_open(title: str) -> str:
    """Return the title with each number in it as one #."""
    out: list[str] = []
    for letter in tidy(title):
        mark = "#" if letter.isdigit() else letter
        if mark != "#" or not out or out[-1] != "#":
            out.append(mark)
    return "".join(out)


def title_pattern(title: str) -> str:
    """Return the title as a pattern in which a number is open: "Firing no. 5" -> "Firing no. #"."""
    return _numbers_open(title)


def _switch(call: Call) -> ask.Play[None]:
    window = yield from _window_named(call)
    yield ask.SwitchTo(window.id)
    yield from call.picture()


def _close(call: Call) -> ask.Play[None]:
    window = yield from _window_named(call)
    yield ask.CloseWindow(window.id)
    yield from call.picture()


def _check(call: Call) -> ask.Play[None]:
    """Wait until the property is as wanted, and fail with what was found last if it never is."""
    element = call.target()
    prop = check_property(call.inputs["property"])
    operator, wanted = call.inputs["comparison"], call.inputs["expected"]
    call.evidence.expected = wanted if operator == "is" else f"{operator} {wanted}"
    start: float = yield ask.Now()
    stamp: int | None = None
    while True:
        now: float = yield ask.Now()
        left = call.limit - (now - start)
        value, stamp = yield from _observe(call, element, prop, stamp)
        if value is not None:
            call.evidence.found = value
            if compare(value, operator, wanted):
                yield from call.picture()
                return
        if left <= 0:
            break
    if value is None:
        yield from find(element, 0.0, call.evidence, ready=False)
    wish = (
        f"“{wanted}” was expected" if operator == "is" else f"the check is: {operator} “{wanted}”"
    )
    raise StepFailed(
        "check differed",
        f"The {prop} of “{element.name}” was “{value}” for {call.limit:g} s, but {wish}.",
        expected=call.evidence.expected,
        found=value or "",
    )


def _observe(
    call: Call, element: Element, prop: str, stamp: int | None
) -> ask.Play[tuple[str | None, int]]:
    """Read the property now; None when the element is not there alone."""
    found, seen = yield from look_once(element, aim=False, after=stamp, wait=WAIT)
    if prop == "shown" and len(found) <= 1:
        return ("yes" if found and found[0].visible else "no"), seen.stamp
    if len(found) != 1:
        return None, seen.stamp
    call.evidence.box = found[0].box
    value: str | None = yield ask.Read(found[0].handle, prop, found[0].frame)
    return (None if value is None else tidy(value)), seen.stamp


ACTIONS: dict[str, Action] = {
    action.name: action
    for action in (
        Action(
            "open",
            "Open an address",
            "Open {address}",
            _open,
            (Input("address", "address", default="/"),),
            kinds=None,
            help="Goes to a path of the application or to a full address.",
        ),
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
            "type",
            "Type",
            "Type {text} into {element}",
            _type,
            (Input("text"),),
            frozenset({"text box", "password box", "choice list"}),
            help="Empties the field and types the text.",
        ),
        Action(
            "choose",
            "Choose from a list",
            "Choose {option} in {element}",
            _choose,
            (Input("option"),),
            frozenset({"choice list"}),
            help="Chooses the option with that text.",
        ),
        Action(
            "tick",
            "Tick",
            "Tick {element}",
            _tick("yes"),
            kinds=frozenset({"tick box", "radio"}),
            help="Presses it unless it is ticked already.",
        ),
        Action(
            "untick",
            "Untick",
            "Untick {element}",
            _tick("no"),
            kinds=frozenset({"tick box"}),
            help="Presses it if it is ticked.",
        ),
        Action(
            "key",
            "Press a key",
            "Press the key {keys} in {element}",
            _key,
            (Input("keys", "keys", default="Enter"),),
            help="A key or a shortcut such as Control+Enter, in an element or where the focus is.",
        ),
        Action(
            "dialog",
            "Answer a browser dialog",
            "Answer the dialog with {answer} {text}",
            _dialog,
            (
                Input("answer", "choice", ("OK", "Cancel"), "OK"),
                Input("text", optional=True),
            ),
            kinds=None,
            help="Answers a message, question or text dialog of the browser.",
        ),
        Action(
            "window",
            "Go to a window",
            "Go to the window {window}",
            _switch,
            (Input("window", "window", default="newest"),),
            kinds=None,
            help="By its title, where # stands for a number; or first, or newest.",
        ),
        Action(
            "close window",
            "Close a window",
            "Close the window {window}",
            _close,
            (Input("window", "window", default="newest"),),
            kinds=None,
            help="By its title, where # stands for a number; or first, or newest.",
        ),
        Action(
            "check",
            "Check",
            "Check that the {property} of {element} {comparison} {expected}",
            _check,
            (
                Input("property", "property", default="text"),
                Input("comparison", "comparison", tuple(COMPARISONS), "is"),
                Input("expected"),
            ),
            help="Waits until the property is as expected, up to the time limit.",
        ),
    )
}


def action_of(name: str) -> Action:
    """Return the action of that name; raises UnknownName with those that exist."""
    if name not in ACTIONS:
        raise UnknownName("action", name, ACTIONS)
    return ACTIONS[name]


def check_inputs(action: Action, inputs: Mapping[str, str]) -> None:
    """Raise BadInput when inputs are missing, unknown or not among an input's choices."""
    known = {entry.name: entry for entry in action.inputs}
    for name in inputs:
        if name not in known:
            raise UnknownName(f"value of “{action.title}”", name, known)
    for name, entry in known.items():
        if name not in inputs and not entry.optional:
            raise BadInput(f"“{action.title}” needs a value for {name}.", where=name)
        value = inputs.get(name, "")
        if entry.choices and value not in entry.choices and "${" not in value:
            raise UnknownName(name, value, entry.choices)
    if "property" in known:
        check_property(inputs["property"])
