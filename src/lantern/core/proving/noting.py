"""Noting, while recording, what comes of each sentence."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from lantern.core.proving.shown import Effect, Shown, effect

Place = tuple[str, str]
"""A document: the window that it is in, and the path of frames that leads to it."""


When = Literal["rest", "end", "begin"]
"""When a document tells what it shows: it has come to rest after an act; what came of the act
ends; the next act begins, after what is no act, such as scrolling."""
REMEMBERED = 12
"""Sentences whose beginnings are remembered, for those that take the place of others."""


@dataclass
class _Begun:
    """A sentence: what was shown before it, and what had come of it when the page rested."""

    before: dict[Place, Shown]
    rest: dict[Place, Effect] = field(default_factory=dict)


class Noted:
    """What documents showed last, and what has come of the sentences recorded last."""

    def __init__(self) -> None:
        self._last: dict[Place, Shown] = {}
        self._begun: dict[str, _Begun] = {}

    def note(self, step: str, place: Place, shown: Shown, when: When) -> tuple[Effect, ...]:
        """Take in what a document shows; returns what has come of the step there, as seen so far.

        `step` is the sentence that was recorded last. Returned are one or two effects, at rest
        and at the end; none where the next act just begins.
        """
        if step not in self._begun:
            self._begun[step] = _Begun(dict(self._last))
            for old in list(self._begun)[:-REMEMBERED]:
                del self._begun[old]
        begun = self._begun[step]
        self._last[place] = shown
        if when == "begin":
            return ()
        seen = effect(begun.before.get(place), shown)
        if when == "rest":
            begun.rest[place] = seen
            return (seen,)
        rest = begun.rest.get(place)
        return (rest, seen) if rest else (seen,)

    def look(self, place: Place, shown: Shown) -> None:
        """Take in what a document shows that nothing has been done in yet."""
        self._last[place] = shown

    def withdraw(self, step: str) -> None:
        """Forget a sentence and those behind it: what takes their place began where it began."""
        if step not in self._begun:
            return
        self._last = dict(self._begun[step].before)
        for later in list(self._begun)[list(self._begun).index(step) :]:
            del self._begun[later]


def read_effects(raw: Mapping[str, list[dict[str, object]]]) -> dict[str, tuple[Effect, ...]]:
    """Return what came of a step by the path of frames, from its JSON object."""
    return {path: tuple(map(Effect.read, seen)) for path, seen in raw.items()}
