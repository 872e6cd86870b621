"""Holding a play of a test against its recording, sentence by sentence."""

from __future__ import annotations

import re
import time
import urllib.request
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace
from itertools import pairwise

from sqlalchemy.orm import Session

from lantern.browser.errors import BrowserError
from lantern.browser.session import Window
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import BadInput
from lantern.core.proving.comparing import (
    NOTHING_ASIDE,
    Aside,
    Difference,
    Found,
    differences,
    shape_of,
)
from lantern.core.proving.shown import Effect, Shown
from lantern.core.steps.model import Document
from lantern.core.values.sources import Names
from lantern.core.values.templates import masked
from lantern.store import proofs

WAITS = 2.5
"""Seconds in which a page may still come to what the recording saw."""
WAITS_IN_ALL = 15.0
PAUSE = 0.1
RESETTING = 30.0
"""Longest time in seconds that an application may take to go back to its known state."""
READING = 5.0
"""Longest time in seconds that a page may take to tell what it shows."""


def path_of(page: Window, frame: str) -> str:
    """Return the frames that lead to a document, as one text; "" for the window itself."""
    return " > ".join(page.frame_path("" if frame == page.main_frame else frame))


def shown_in(page: Window) -> dict[str, Shown]:
    """Return what the documents of a window show, by the path of frames."""
    found: dict[str, Shown] = {}
    if page.dialog:
        return found
    for frame in page.frames():
        try:
            page.look_into(page.probe("unsure", frame=frame, timeout=READING), frame)
            raw = page.probe("shown", frame=frame, timeout=READING)
            found[path_of(page, frame)] = Shown.read(raw)
        except BrowserError:
            continue  # a frame that went away shows nothing
    return found


_QUOTED = re.compile(r"“(.+?)”")


def prover_for(session: Session, test_id: int, document: Document, names: Names) -> Prover:
    """Return what holds a play of a test with these values against the test's recording."""
    proof = proofs.get(session, test_id)
    named = {step.id for step in document.steps if "${" in "".join(step.inputs.values())}
    named |= proofs.given_otherwise(session, test_id, document.steps)
    values = tuple(filter(None, {**names.row, **names.given}.values()))
    effects = proofs.effects(session, test_id)
    seen = [one for paths in effects.values() for some in paths.values() for one in some]
    aside = Aside(
        shapes=frozenset(proof.aside if proof else ()),
        lasting=frozenset(line for one in seen for line in one.added),
        fleeting=frozenset(shape_of(line) for one in seen for line in one.gone),
        values=values,
    )
    return Prover(
        effects,
        [step.id for step in document.steps],
        _beside_pointing(document),
        aside,
        named,
        lambda text: masked(text, names.secret),
    )


def _beside_pointing(document: Document) -> set[str]:
    pairs = list(pairwise(document.steps))
    before = {one.id for one, other in pairs if other.action == "hover"}
    return before | {other.id for one, other in pairs if one.action == "hover"}


class Prover:
    """Compares what each sentence does with what it did; `found` holds where it differed.

    `effects` is what came of the sentences while recording, by step and path of frames; `steps`
    are the steps in their order, `picker` those beside which something is pointed at: where the
    mouse went next shows there, so only what was seen at rest counts; `named`
    are the steps whose values come from names, and may be others than those that were recorded;
    `hide` takes secrets out of what is shown.
    """

    def __init__(
        self,
        effects: Mapping[str, Mapping[str, Sequence[Effect]]],
        steps: Sequence[str] = (),
        pointing: Collection[str] = (),
        aside: Aside = NOTHING_ASIDE,
        named: Collection[str] = (),
        hide: Callable[[str], str] = lambda text: text,
    ) -> None:
        self._effects, self._aside, self._named, self._hide = effects, aside, named, hide
        self._pointing = pointing
        known = [step for step in steps if step in effects]
        self._next = dict(pairwise(known))
        self._before: dict[str, Shown] = {}
        self._window = ""
        self._left = WAITS_IN_ALL
        self.found: list[Found] = []
        self.compared = 0

    def step_starts(self, page: Window) -> None:
        """See what is shown before a sentence, in the window that it is carried out in."""
        self._before, self._window = self._seen(page), page.target

    def step_ends(self, result: StepResult, page: Window, wait: Callable[[float], object]) -> None:
        """Hold what a sentence came to against what the recording saw; waits for it a little."""
        if result.step_id in self._named:
            values = (*self._aside.values, *_QUOTED.findall(result.sentence))
            self._aside = replace(self._aside, values=values)
        recorded = self._effects.get(result.step_id, {})
        if result.outcome != "passed" or not recorded:
            return
        if page.target != self._window:
            self._before = {}  # it went to a window of which nothing was seen yet
        began = time.monotonic()
        end = began + min(WAITS, self._left)
        now = self._seen(page)
        told = self._told(result.step_id, now)
        while told and time.monotonic() < end:
            wait(PAUSE)
            now = self._seen(page)
            told = self._told(result.step_id, now)
        self._left -= time.monotonic() - began
        self.compared += any(path in now for path in recorded)
        if told:
            self.found.append(Found(result.step_id, result.sentence, told))

    def _seen(self, page: Window) -> dict[str, Shown]:
        try:
            return {path: one.masked(self._hide) for path, one in shown_in(page).items()}
        except BrowserError:
            return {}

    def _told(self, step: str, now: Mapping[str, Shown]) -> tuple[Difference, ...]:
        told: list[Difference] = []
        following = self._effects.get(self._next.get(step, ""), {})
        for path, effects in self._effects[step].items():
            if step in self._pointing:
                effects = effects[: len(effects) - 1]
            if path in now:
                before = self._before.get(path)
                later = following.get(path, ())
                told += differences(effects, before, now[path], self._aside, later)
        return tuple(dict.fromkeys(told))


def set_back(address: str) -> None:
    """Ask the application to go back to its known state; raises BadInput when it does not."""
    request = urllib.request.Request(address, b"", method="POST")  # noqa: S310 - checked when kept
    try:
        urllib.request.urlopen(request, timeout=RESETTING).close()  # noqa: S310
    except (OSError, ValueError) as error:
        raise BadInput(
            f"The application was not set back: {address} said {error}.",
            hint="Correct the reset address of the environment, or leave it empty.",
        ) from error
