"""What a page looked like at a sentence before: when it passed last, and when it was recorded."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, undefer, undefer_group

from lantern.core.problems import Missing
from lantern.core.steps.model import Document
from lantern.store import pictures
from lantern.store.models import Cast, Result, Run


@dataclass(frozen=True)
class Then:
    """A picture from before: of a `run`, 0 for the recording; `box` in pixels of the picture."""

    run: int
    picture: str
    box: dict[str, Any] | None


def of_result(session: Session, result_id: int) -> list[Then]:
    """Return the pictures of a result's sentence from before, the newest first; raises Missing."""
    result = session.get(Result, result_id)
    if result is None:
        raise Missing("That result does not exist any more.", where=str(result_id))
    cast = session.get_one(Cast, result.cast_id)
    whole = (undefer(Run.body), undefer_group("content"))
    run = session.get_one(Run, cast.run_id, options=whole)
    return [*_passed(session, result, cast, run), *_recorded(session, result.step_id, run)]


def _passed(session: Session, result: Result, cast: Cast, run: Run) -> Iterator[Then]:
    """Return the picture of the last time that it passed: with this row, else with any."""
    query = (
        select(Result, Cast.run_id)
        .join(Cast, Cast.id == Result.cast_id)
        .join(Run, Run.id == Cast.run_id)
        .filter(
            Run.test_id == run.test_id,
            Result.step_id == result.step_id,
            Result.outcome == "passed",
            Result.picture != "",
            Cast.browser == cast.browser,
            Cast.id < cast.id,
        )
        .order_by((Cast.values == cast.values).desc(), Result.id.desc())
        .limit(1)
    )
    for found, run_id in session.execute(query):
        yield Then(run_id, found.picture, found.details.get("box"))


def _recorded(session: Session, step_id: str, run: Run) -> Iterator[Then]:
    stories = [run.body, *(raw["body"] for raw in run.flows.values())]
    for step in (one for raw in stories for one in Document.read(raw).steps):
        if step.id == step_id and step.picture:
            size = pictures.size(session, step.picture)
            if size is None:
                return
            wide, high = size
            box = None
            if step.box:
                x, y, width, height = step.box
                box = {"x": x * wide, "y": y * high, "width": width * wide, "height": height * high}
            yield Then(0, step.picture, box)
            return
