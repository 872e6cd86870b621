"""The trace: what was looked for, what was found, what was done, how long each part took."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from lantern.core.elements.facts import Facts
from lantern.core.engine import requests as ask

MOST_PARTS = 40
"""Parts of one sentence that are told; a long wait looks hundreds of times."""


@dataclass
class Part:
    """A part of a sentence: what was done in words, how often, and how long it took in seconds."""

    told: str
    seconds: float
    times: int = 1


@dataclass
class Trace:
    """The parts of the sentence that is under way, in order."""

    parts: list[Part] = field(default_factory=list)

    def note(self, request: ask.Request[Any], answer: object, seconds: float) -> None:
        """Note a request that was answered; the same again counts on."""
        told = words_of(request, answer)
        if not told:
            return
        if self.parts and self.parts[-1].told == told:
            self.parts[-1].times += 1
            self.parts[-1].seconds += seconds
        elif len(self.parts) < MOST_PARTS:
            self.parts.append(Part(told, seconds))
        else:
            self.parts[-1].seconds += seconds

    def taken(self) -> list[Part]:
        """Return the parts, and begin anew."""
        parts, self.parts = self.parts, []
        return parts


def words_of(request: ask.Request[Any], answer: object) -> str:
    """Return in words what a request came to, "" for what nobody needs to know."""
    for kind, words in _WORDS:
        if isinstance(request, kind):
            return words(request, answer)
    return ""


def called(facts: Facts) -> str:
    """Return what people would call a node."""
    return (facts.name or facts.label or facts.text or facts.tag)[:80]


def _looked(request: Any, answer: Any) -> str:  # noqa: ANN401 - told apart by the table below
    clues = ", ".join(f"{c.fact} {c.operator} “{c.value}”" for c in request.query.clues)
    shown = [one for one in answer.candidates if one.visible]
    what = f"looked for what {clues} fits" if clues else "looked at all of its kind"
    if answer.dialog is not None:
        return f"{what}: the page asks “{answer.dialog}”"
    if not shown:
        return f"{what}: nothing"
    named = ", ".join(f"“{called(one)}”" for one in shown[:3])
    more = f" and {len(shown) - 3} more" if len(shown) > 3 else ""
    return f"{what}: {named}{more}"


def _aimed(_: Any, answer: Any) -> str:  # noqa: ANN401
    if answer.problem:
        by = f" by {answer.by}" if answer.by else ""
        return f"looked where to reach it: {answer.problem}{by}"
    return f"looked where to reach it: at {answer.x:.0f}, {answer.y:.0f}"


def _mouse(request: Any, _: Any) -> str:  # noqa: ANN401
    twice = "pressed twice" if request.count > 1 else "pressed"
    button = "" if request.button == "left" else f" with the {request.button} button"
    return f"{twice}{button} at {request.x:.0f}, {request.y:.0f}"


_WORDS: tuple[tuple[type[ask.Request[Any]], Callable[[Any, Any], str]], ...] = (
    (ask.Lookup, _looked),
    (ask.Aim, _aimed),
    (ask.Open, lambda r, a: f"opened {r.address}: {a.error or a.status or 'done'}"),
    (ask.Mouse, _mouse),
    (ask.PointAt, lambda r, _: f"pointed at {r.x:.0f}, {r.y:.0f}"),
    (ask.Drag, lambda r, _: f"dragged from {r.x:.0f}, {r.y:.0f} to {r.to_x:.0f}, {r.to_y:.0f}"),
    (ask.TypeText, lambda r, _: f"typed “{r.text}”"),
    (ask.Letters, lambda r, _: f"typed “{r.text}”"),
    (ask.PressKey, lambda r, _: f"pressed the key {r.keys}"),
    (ask.Choose, lambda r, a: f"chose “{r.option}”{'' if a.done else ': there is none'}"),
    (ask.Read, lambda r, a: f"read {r.property}: “{'' if a is None else str(a)[:200]}”"),
    (ask.History, lambda r, _: f"went {r.to}"),
    (ask.GiveFiles, lambda r, _: f"gave {', '.join(r.names)}"),
    (ask.AnswerDialog, lambda r, a: f"answered the dialog “{a or ''}”"),
    (ask.SwitchTo, lambda r, _: "went to a window"),
    (ask.CloseWindow, lambda r, _: "closed a window"),
    (ask.Wait, lambda r, _: f"waited {r.seconds:g} s"),
    (ask.Quiet, lambda r, a: "waited until the page was quiet" + ("" if a else ", in vain")),
    (ask.RunCode, lambda r, _: f"ran {r.function} in Python"),
    (ask.PageScript, lambda r, _: "ran a script in the page"),
    (ask.ScrollOn, lambda r, _: "scrolled on"),
    (ask.Nearby, lambda r, a: f"looked at all {len(a)} things on the page for what is like it"),
    (ask.Picture, lambda r, _: "took a picture"),
)
"""How what was asked for is told; a request that is not here is not told."""
