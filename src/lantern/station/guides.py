"""Who is told of what is played, and who says how it goes on."""

from __future__ import annotations

from typing import Any

from lantern.core.elements.facts import Facts
from lantern.core.engine import requests as ask
from lantern.core.engine.outcomes import StepResult


class Cancelled(Exception):
    """Someone asked for the run to stop."""


class Watcher:
    """Told what happens while a row is played; every method may be left as it is."""

    def keep_picture(self, content: bytes) -> str:
        """Keep a picture; returns its digest."""
        return ""

    def wants_page(self, title: str, *, failed: bool) -> bool:
        """Tell whether all that is on the page is to be kept now."""
        return False

    def keep_page(
        self, title: str, address: str, nodes: list[Facts], picture: str, *, failed: bool
    ) -> None:
        """Keep all that is on a page."""

    def looks_last(self) -> bool:
        """Tell whether the page that a row ends on is to be looked at as well."""
        return False

    def keep_file(self, name: str, content: bytes) -> str:
        """Keep a file that the page gave; returns its digest."""
        return ""

    def file(self, name: str) -> bytes | None:
        """Return a file that is kept with the test; None when there is none of that name."""
        return None

    def step_starts(self, step: ask.StepStarts) -> None:
        """A step begins."""

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        """A step is over, with what the page complained about meanwhile."""


class Guide:
    """Says how a play goes on; this one just lets it go on."""

    @property
    def stood(self) -> float:
        """Seconds for which the clock of limits has stood still so far."""
        return 0.0

    def before(self, request: ask.Request[Any]) -> None:
        """Be asked before each request is answered: it may take its time."""

    def after(self, request: ask.Request[Any], answer: object, seconds: float) -> None:
        """Be told of each request that was answered, and how long it took."""

    def starts(self, request: ask.StepStarts) -> ask.Onward:
        """Say whether a sentence that the row has come to is carried out."""
        return ask.GO_ON

    def fails(self, request: ask.StepFails) -> ask.Onward:
        """Say whether a failure counts."""
        return ask.GO_ON

    def ends(self, result: StepResult) -> None:
        """Be told how a sentence ended."""


GOES_ON = Guide()
