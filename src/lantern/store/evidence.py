"""What is kept of a failed result, gathered into the case that a verdict is made of."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session, undefer, undefer_group

from lantern.core.elements.facts import Facts
from lantern.core.problems import Problem
from lantern.core.review.case import Case, Changes, Green, Line, Others, uses
from lantern.core.searching.looked import Looked
from lantern.core.steps.comparing import difference, suspects
from lantern.core.steps.model import Document, Step
from lantern.core.values.templates import handed_in
from lantern.store import pages, searching
from lantern.store.models import Cast, Result, Run, SavedPage

LOOKED_BACK = 60
"""Casts that passed among which the last green one of a row is looked for."""
USUAL = 20
"""Casts that passed of which it is known how long sentences take."""
WHOLE = (undefer(Run.body), undefer_group("content"))


@dataclass
class Story:
    """A run's sentences by id, those of flows too, with what they are given spelled out."""

    document: Document
    steps: dict[str, Step]
    given: dict[str, Mapping[str, str]]

    @classmethod
    def of(cls, run: Run) -> Story:
        """Read the story of a run."""
        document = Document.read(run.body)
        steps = {step.id: step for step in document.steps}
        given: dict[str, Mapping[str, str]] = {step.id: step.inputs for step in document.steps}
        calls = [step for step in document.steps if step.flow]
        while calls:
            call = calls.pop()
            raw = run.flows.get(call.flow)
            for step in Document.read(raw["body"]).steps if raw else ():
                if step.id in steps:
                    continue
                steps[step.id] = step
                given[step.id] = {
                    name: handed_in(value, given[call.id]) for name, value in step.inputs.items()
                }
                if step.flow:
                    calls.append(step)
        return cls(document, steps, given)

    def line(self, result: Result) -> Line:
        """Return a result as a line of its story."""
        step = self.steps.get(result.step_id)
        return Line(
            result.step_id,
            step.action if step else "",
            result.sentence,
            result.outcome,
            result.used,
            self.given.get(result.step_id, {}),
            step.page if step else "",
            result.found,
            result.expected,
            result.details.get("console", []),
            result.details.get("requests", []),
            step.element if step else "",
        )


class Gatherer:
    """Gathers cases of one run; what its rows share is read once."""

    def __init__(self, session: Session, run_id: int) -> None:
        self._session = session
        self.run = session.get_one(Run, run_id, options=WHOLE, populate_existing=True)
        self._story = Story.of(self.run)
        self._runs: dict[int, tuple[Run, Story]] = {}
        self._usual: dict[str, Mapping[str, Sequence[float]]] = {}
        self._then: dict[tuple[str, str], tuple[Facts, ...]] = {}

    def case(self, result: Result, corrected: Mapping[str, int] | None = None) -> Case:
        """Return all that is known of a failed result of the run."""
        cast = self._session.get_one(Cast, result.cast_id)
        line = self._story.line(result)
        page = self._page(result)
        looked = self._looked(result)
        green = self._green(cast)
        return Case(
            line=line,
            reason=result.reason,
            message=result.message,
            limit=result.limit,
            values=cast.values,
            before=self._before(result),
            looked=looked,
            nodes=pages.nodes_of(page) if page else (),
            nodes_then=self._nodes_then(line.title or (page.page if page else ""), result),
            title=page.page if page else "",
            address=page.address if page else self.run.address,
            usual=self._usual_times(cast.browser),
            late=result.details.get("late", {}),
            green=green[0] if green else None,
            changes=self._changes(result.step_id, cast, *green) if green else Changes(),
            others=self._others(result, cast),
            corrected=corrected or {},
            today=datetime.now(UTC).date(),
        )

    def _before(self, result: Result) -> list[Line]:
        query = select(Result).filter(
            Result.cast_id == result.cast_id,
            Result.taking == result.taking,
            Result.id < result.id,
            Result.outcome != "skipped",
        )
        found = self._session.scalars(query.order_by(Result.position, Result.id))
        return [self._story.line(one) for one in found]

    def _page(self, result: Result) -> SavedPage | None:
        query = select(SavedPage).filter_by(cast_id=result.cast_id, step_id=result.step_id)
        query = query.options(undefer(SavedPage.nodes))
        return self._session.scalars(query.order_by(SavedPage.id.desc()).limit(1)).first()

    def _looked(self, result: Result) -> Looked | None:
        try:
            return searching.of_result(self._session, result.id).looked
        except Problem:  # it is about no element, or its page is gone
            return None

    def _nodes_then(self, title: str, result: Result) -> tuple[Facts, ...]:
        key = title, result.step_id
        if key not in self._then:
            self._then[key] = pages.last_green(
                self._session, self.run.test_id or 0, title,
                at=result.step_id, before=result.cast_id,
            ).nodes  # fmt: skip
        return self._then[key]

    def _green(self, cast: Cast) -> tuple[Green, Cast] | None:
        """Return when the same row passed last in the same browser, else any row.

        Where it passed in the same environment, that counts before others.
        """
        query = (
            select(Cast)
            .join(Run, Run.id == Cast.run_id)
            .filter(
                Run.test_id == self.run.test_id,
                Cast.outcome == "passed",
                Cast.browser == cast.browser,
                Cast.id < cast.id,
            )
            .order_by((Run.environment_id == self.run.environment_id).desc(), Cast.id.desc())
            .limit(LOOKED_BACK)
        )
        exact = query.filter(Cast.values == cast.values).limit(1)
        same = self._session.scalars(exact).first()
        found = [same] if same else list(self._session.scalars(query))
        if not found:
            return None
        best = max(found, key=lambda one: _alike(one, cast))  # the first of those is the newest
        same_row = same is not None or _alike(best, cast) >= (1.0 if not cast.values else 0.5)
        story = self._run(best.run_id)[1]
        results = self._session.scalars(
            select(Result).filter_by(cast_id=best.id, taking=max(best.takings, 1))
        )
        lines = {one.step_id: story.line(one) for one in results}
        return Green(best.run_id, same_row, best.values, lines), best

    def _run(self, run_id: int) -> tuple[Run, Story]:
        if run_id not in self._runs:
            run = self._session.get_one(Run, run_id, options=WHOLE, populate_existing=True)
            self._runs[run_id] = run, Story.of(run)
        return self._runs[run_id]

    def _usual_times(self, browser: str) -> Mapping[str, Sequence[float]]:
        if browser not in self._usual:
            last = (
                select(Cast.id)
                .join(Run, Run.id == Cast.run_id)
                .filter(
                    Run.test_id == self.run.test_id,
                    Cast.outcome == "passed",
                    Cast.browser == browser,
                )
                .order_by(Cast.id.desc())
                .limit(USUAL)
            )
            times = (
                select(Result.step_id, func.array_agg(Result.used))
                .filter(Result.cast_id.in_(last), Result.outcome == "passed")
                .group_by(Result.step_id)
            )
            self._usual[browser] = {row[0]: row[1] for row in self._session.execute(times)}
        return self._usual[browser]

    def _changes(self, step_id: str, cast: Cast, green: Green, then: Cast) -> Changes:
        was, story = self._run(then.run_id)
        run, own = self.run, self._story
        told = difference(story.document, own.document)
        ids = {(one.after or one.before).id for one in told.steps}  # type: ignore[union-attr]
        ids |= {
            key
            for key in own.steps.keys() & story.steps.keys()
            if own.steps[key].inputs != story.steps[key].inputs
            or own.steps[key].element != story.steps[key].element
        }
        words = [f"{one.what} a sentence" for one in told.steps]
        moved = {
            str(run.elements[key]["name"])
            for key in run.elements.keys() & was.elements.keys()
            if run.elements[key].get("clues") != was.elements[key].get("clues")
        }
        step = own.steps.get(step_id)
        element = str(run.elements.get(step.element, {}).get("name", "")) if step else ""
        near = bool(suspects(story.document, own.document, step_id, cast.values))
        others = bool(ids - {step_id}) and all(one.id != step_id for one in own.document.steps)
        return Changes(
            test=words,
            sentence=step_id in ids,
            before=near or others,
            element=bool(element) and element in moved,
            elements=sorted(moved),
            data={
                name: (str(then.values.get(name, "")), str(value))
                for name, value in cast.values.items()
                if green.same_row and str(then.values.get(name, "")) != str(value)
            },
            variables=self._variables(was),
            address=_pair(was.address, run.address),
            release=_pair(was.release, run.release),
            browser=_pair(then.version, cast.version),
            station=_pair(then.station_id, cast.station_id),
        )

    def _variables(self, was: Run) -> list[str]:
        given = [value for one in self._story.given.values() for value in one.values()]
        used = {name for value in given for name in uses(value, "env")}
        return [
            f"The environment's {name} was “{was.variables.get(name, '')}” when it passed, and is "
            f"“{self.run.variables.get(name, '')}”."
            for name in sorted(used)
            if was.variables.get(name) != self.run.variables.get(name)
        ]

    def _others(self, result: Result, cast: Cast) -> Others:
        query = (
            select(Cast.id, Cast.browser, Cast.values, Result.outcome, Result.reason)
            .join(Result, Result.cast_id == Cast.id)
            .filter(
                Cast.run_id == cast.run_id,
                Result.step_id == result.step_id,
                Result.taking == func.greatest(Cast.takings, 1),
                Cast.id != cast.id,
                Result.outcome != "skipped",
            )
        )
        rows = self._session.execute(query).all()
        failed = [one for one in rows if one.outcome == "failed"]
        alike = sum(one.reason == result.reason for one in failed)
        return Others(
            passed=sum(one.outcome == "passed" for one in rows),
            alike=alike,
            otherwise=len(failed) - alike,
            same_row=sorted(
                {
                    one.browser
                    for one in rows
                    if one.outcome == "passed"
                    and one.browser != cast.browser
                    and one.values == cast.values
                }
            ),
            again=cast.outcome == "passed" and result.taking < cast.takings,
        )


def _pair(before: str, now: str) -> tuple[str, str] | None:
    return (before, now) if before and now and before != now else None


def _alike(one: Cast, other: Cast) -> float:
    """Return how much of a row is the same, 0 to 1; the same place counts a little."""
    if not other.values:
        return 1.0
    same = sum(one.values.get(name) == value for name, value in other.values.items())
    place = 0.15 if one.number == other.number else 0.0
    if len(other.values) <= 2 and one.number == other.number:
        place = 0.5  # a small table: the row of the same place was edited
    return float(same) / len(other.values) + place
