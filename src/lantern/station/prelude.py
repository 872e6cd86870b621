"""Steps that lead to what is looked for: played on a page before it is learned or found."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from lantern.browser.session import Session
from lantern.core.engine.interpreter import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import BadInput
from lantern.core.text.names import Known
from lantern.core.text.reading import read_document
from lantern.core.values.sources import Names
from lantern.station.guides import Watcher
from lantern.station.player import Player

LIMIT = 8.0
"""Seconds that each of the steps gets where the file says nothing."""


def read_steps(path: str) -> Script:
    """Read the steps of a test in the text form, with its elements. Raises BadInput with the line.

    Values of the first row are used, and addresses are full ones or paths of the page that was
    opened before.
    """
    read = read_document(Path(path).read_text(encoding="utf-8"), Known())
    for trouble in read.troubles:
        where = f"{path}, line {trouble.line}"
        raise BadInput(trouble.message, where=where, hint=trouble.hint)
    steps = tuple(replace(step, id=f"s{n}") for n, step in enumerate(read.document.steps, 1))
    limits = replace(read.document.settings, pictures="none")
    if "limit" in limits.inherits:
        limits = replace(limits, limit=LIMIT)
    document = replace(read.document, steps=steps, settings=limits)
    row = dict(document.rows[0].values) if document.rows else {}
    elements = {element.id: element for element in read.elements}
    return Script(document, elements, Names(row=row), "")


class _Failures(Watcher):
    def __init__(self) -> None:
        self.first: StepResult | None = None

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        if result.outcome == "failed" and self.first is None:
            self.first = result


def lead(context: Session, script: Script, address: str) -> None:
    """Play steps in a context whose page is open; raises BadInput when one of them fails."""
    watcher = _Failures()
    Player(context, watcher).play(replace(script, base=address))
    if watcher.first is not None:
        raise BadInput(
            f"A step before looking failed. {watcher.first.sentence}: {watcher.first.message}",
            where=f"step {watcher.first.position + 1}",
            hint=watcher.first.hint,
        )
