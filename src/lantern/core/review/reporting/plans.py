"""The report of a run of a plan."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from lantern.core.review.records import PlanRecord
from lantern.core.review.reporting import parts as common
from lantern.core.review.reporting.blocks import Block, Cell, Grid, Heading, Listed, Report, Words
from lantern.core.review.reporting.templates import Part, Template


def of_plan(told: PlanRecord, parts: Template) -> Report:
    """Return the report of a run of a plan."""
    when = f", {told.started_at:%Y-%m-%d %H:%M UTC}" if told.started_at else ""
    seed = f", seed {told.seed}" if told.seed else ""
    return Report(
        told.name,
        f"Run {told.id} of the plan{when}, {told.seconds:.1f} s{seed}",
        told.state,
        " · ".join(f"{count} {outcome}" for outcome, count in told.counts.items()),
        [block for part in _PLAN if part[0] in parts.parts for block in part[1](told, parts)],
    )


def _facts_of_plan(told: PlanRecord, _: Template) -> Iterator[Block]:
    if told.message:
        yield Words(told.message)


def _matrix(told: PlanRecord, _: Template) -> Iterator[Block]:
    rows = [
        [Cell(one.name), Cell(one.environment), *(Cell(out or "–", out) for out in one.outcomes)]
        for one in told.matrix
    ]
    yield Grid(("Test", "Environment", *told.browsers), rows)


def _comments_of_plan(told: PlanRecord, _: Template) -> Iterator[Block]:
    for run in told.runs:
        if run.comments:
            yield Heading(f"{run.test}, run {run.id}")
            yield Listed([common.comment(one) for one in run.comments])


def _failures_of_plan(told: PlanRecord, parts: Template) -> Iterator[Block]:
    rows = ((run, row) for run in told.runs for row in run.rows)
    yield from common.failures(rows, parts, named=True)


_PlanPart = tuple[Part, Callable[[PlanRecord, Template], Iterable[Block]]]
_PLAN: tuple[_PlanPart, ...] = (
    ("facts", _facts_of_plan),
    ("shares", lambda told, _: common.shares(told.counts)),
    ("matrix", _matrix),
    ("changes", lambda told, _: common.changes(told.changes)),
    ("causes", lambda told, _: common.causes(told.causes)),
    ("defects", lambda told, _: common.defects(told.defects)),
    ("comments", _comments_of_plan),
    ("failures", _failures_of_plan),
)
