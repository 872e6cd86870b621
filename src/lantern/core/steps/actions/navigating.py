"""Going to addresses, through the history, and between windows."""

from __future__ import annotations

from typing import Literal

from lantern.core.addresses import joined, parts_of
from lantern.core.elements.facts import numbers_open
from lantern.core.engine import requests as ask
from lantern.core.engine.finding import WAIT
from lantern.core.engine.outcomes import StepFailed
from lantern.core.recording.events import Event
from lantern.core.steps.actions.base import Action, Call, Input, Perform, Recorded, recorded
from lantern.core.values.templates import literal


def full_address(base: str, address: str) -> str:
    """Return the absolute address; raises StepFailed unless it is http or https."""
    full = joined(base.rstrip("/") + "/", address)
    if parts_of(full).scheme not in ("http", "https") or not parts_of(full).netloc:
        raise StepFailed(
            "bad value",
            f"“{address}” is not an address that can be opened.",
            hint="Write a path such as /quote, or an address with http:// or https://.",
        )
    return full


def _open(call: Call) -> ask.Play[None]:
    address = full_address(call.base, call.inputs["address"])
    opened: ask.Opened = yield from ask.Open(address, max(call.limit, 1.0))
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


def _history(to: Literal["back", "forward", "reload"]) -> Perform:
    def perform(call: Call) -> ask.Play[None]:
        yield from ask.History(to, max(call.limit, 1.0))
        yield from call.picture()

    return perform


def _dialog(call: Call) -> ask.Play[None]:
    start: float = yield from ask.Now()
    accept = call.inputs["answer"] == "OK"
    while True:
        message = yield from ask.AnswerDialog(accept, call.inputs.get("text", ""))
        if message is not None:
            call.evidence.found = message
            return
        now: float = yield from ask.Now()
        if now - start >= call.limit:
            raise StepFailed(
                "not found", f"No browser dialog opened within {call.limit:g} s to be answered."
            )
        yield from ask.Wait(WAIT)


def _window_named(call: Call) -> ask.Play[ask.Window]:
    """Wait for the window: its title, or "newest" / "first"; in the title # stands for digits."""
    wanted = call.inputs["window"]
    start: float = yield from ask.Now()
    while True:
        windows: list[ask.Window] = list((yield from ask.Windows()))
        named = [window for window in windows if same_title(window.title, wanted)]
        if named:
            return named[-1]  # of several with one title the one that opened last
        if wanted in ("first", "newest") and len(windows) > (wanted == "newest"):
            return windows[0 if wanted == "first" else -1]
        now: float = yield from ask.Now()
        if now - start >= call.limit:
            listed = ", ".join(f"“{window.title}”" for window in windows)
            raise StepFailed(
                "not found",
                f"No window “{wanted}” opened within {call.limit:g} s. Open: {listed}.",
                expected=wanted,
                found=listed,
            )
        yield from ask.Wait(WAIT)


def same_title(title: str, wanted: str) -> bool:
    """Tell whether a window's title is the one wanted, where # stands for a number."""
    return numbers_open(title) == numbers_open(wanted) if "#" in wanted else title == wanted


def title_pattern(title: str) -> str:
    """Return the title as a pattern in which a number is open: "Firing no. 5" -> "Firing no. #"."""
    return numbers_open(title)


def _switch(call: Call) -> ask.Play[None]:
    window = yield from _window_named(call)
    yield from ask.SwitchTo(window.id)
    yield from call.picture()


def _close(call: Call) -> ask.Play[None]:
    window = yield from _window_named(call)
    yield from ask.CloseWindow(window.id)
    yield from call.picture()


def _went(to: Literal["back", "forward", "reload"]) -> Recorded:
    return recorded("history", reads=lambda event: {} if event.value == to else None)


def _answered(event: Event) -> dict[str, str]:
    text = {"text": literal(event.value)} if event.value else {}
    return {"answer": "OK" if event.ticked else "Cancel", **text}


def _titled(event: Event) -> dict[str, str]:
    return {"window": literal(title_pattern(event.page))}


ENTRIES = (
    Action(
        "open",
        "Open an address",
        "Open {address}",
        _open,
        (Input("address", "address", default="/"),),
        kinds=None,
        help="Goes to a path of the application or to a full address.",
        recorded=recorded("opened", reads=lambda event: {"address": literal(event.address)}),
    ),
    Action(
        "go back", "Go back", "Go back", _history("back"), kinds=None,
        help="Goes to the page before, as the browser's own button does.",
        recorded=_went("back"),
    ),
    Action(
        "go forward", "Go forward", "Go forward", _history("forward"), kinds=None,
        help="Goes forward again after going back.",
        recorded=_went("forward"),
    ),
    Action(
        "reload", "Reload the page", "Reload the page", _history("reload"), kinds=None,
        help="Loads the page anew.",
        recorded=_went("reload"),
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
        recorded=recorded("dialog", reads=_answered),
    ),
    Action(
        "window",
        "Go to a window",
        "Go to the window {window}",
        _switch,
        (Input("window", "window", default="newest"),),
        kinds=None,
        help="By its title, where # stands for a number; or first, or newest.",
        recorded=recorded("window", reads=_titled),
    ),
    Action(
        "close window",
        "Close a window",
        "Close the window {window}",
        _close,
        (Input("window", "window", default="newest"),),
        kinds=None,
        help="By its title, where # stands for a number; or first, or newest.",
        recorded=recorded("window closed", reads=_titled),
    ),
)  # fmt: skip
