"""How fast a rehearsal goes, and the light on what it acts on."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from lantern.core.channel import Said, box_said
from lantern.core.elements.facts import Box
from lantern.core.engine import requests as ask

LIT = 0.35
"""Seconds for which what is acted on is lit before it is, when the pace is not full speed."""
SLOWEST = 30.0
"""Most seconds that a sentence can be given."""


class Pacing:
    """Slows a rehearsal and lights what it acts on.

    `say` tells who looks on, `rest` lets time pass, or less when it is interrupted. `seconds` is
    what a sentence takes at least: 0 full speed, None by hand; `cost` what pace and light have cost
    so far.
    """

    def __init__(self, say: Callable[[Said], None], rest: Callable[[float], None]) -> None:
        self._say, self._rest = say, rest
        self.seconds: float | None = 0.0
        self.light = True
        self.cost = 0.0
        self._next: Box | None = None
        self._shining = False

    def set(self, seconds: float | None, *, light: bool) -> None:
        """Set the pace, and whether what is acted on is lit."""
        self.seconds = None if seconds is None else min(max(seconds, 0.0), SLOWEST)
        self.light = light

    @property
    def by_hand(self) -> bool:
        """Whether it holds at every sentence."""
        return self.seconds is None

    def slow(self, spot: ask.Spot) -> None:
        """Let the time of a sentence pass, unless it is only passed on the way to another."""
        if self.seconds and not spot.passing:
            self._let_pass(self.seconds)

    def aimed(self, answer: object) -> None:
        """Take note of what may be acted on next."""
        aimed = answer.aimed if isinstance(answer, ask.Seen) else answer
        if isinstance(aimed, ask.Aimed) and not aimed.problem:
            self._next = aimed.box

    def before(self, request: ask.Request[Any]) -> None:
        """Light what is acted on before it is."""
        if self.light and self._next is not None and isinstance(request, ask.ACTING):
            self._shining = True
            self._say({"type": "shine", "boxes": [box_said(self._next)], "name": "", "kind": ""})
            if self.seconds != 0.0:
                self._let_pass(LIT)
            self._next = None

    def put_out(self) -> None:
        """Light nothing any more."""
        self._next = None
        if self._shining:
            self._shining = False
            self._say({"type": "shine", "boxes": [], "name": "", "kind": ""})

    def _let_pass(self, seconds: float) -> None:
        began = time.monotonic()
        self._rest(seconds)
        self.cost += time.monotonic() - began
