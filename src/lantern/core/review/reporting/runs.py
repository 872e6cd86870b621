"""The report of a run."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator

from lantern.core.review.records import RunRecord
from lantern.core.review.reporting import parts as common
from lantern.core.review.reporting.blocks import Block, Facts, Listed, Report, Words
from lantern.core.review.reporting.templates import Part, Template


def of_run(run: RunRecord, parts: Template) -> Report:
    """Return the report of a run."""
    counts = Counter(row.outcome for row in run.rows)
    when = f" of {run.started_at:%Y-%m-%d %H:%M UTC}" if run.started_at else ""
    return Report(
        run.test,
        f"Run {run.id}{when}, {run.seconds:.1f} s",
        run.state,
        common.counted(counts, "row"),
        [block for part in _RUN if part[0] in parts.parts for block in part[1](run, parts)],
    )


def _facts_of_run(run: RunRecord, _: Template) -> Iterator[Block]:
    if run.message:
        yield Words(run.message)
    pairs = (
        ("Environment", f"{run.environment} ({run.address})"),
        ("Browser", run.browser),
        ("Seed", run.seed),
        ("Release", run.release),
    )
    yield Facts([pair for pair in pairs if pair[1]])


def _rows_of_run(run: RunRecord, parts: Template) -> Iterator[Block]:
    for row in run.rows:
        yield from common.row_of(row, "")
        steps = [common.sentence(step, "pictures" in parts.parts) for step in row.steps]
        if steps:
            yield Listed(steps, counted=True)


def _failures_of_run(run: RunRecord, parts: Template) -> Iterator[Block]:
    if "rows" in parts.parts:
        return  # all of them are told
    yield from common.failures([(run, row) for row in run.rows], parts, named=False)


_RunPart = tuple[Part, Callable[[RunRecord, Template], Iterable[Block]]]
_RUN: tuple[_RunPart, ...] = (
    ("facts", _facts_of_run),
    ("shares", lambda run, _: common.shares(Counter(row.outcome for row in run.rows))),
    ("changes", lambda run, _: common.changes(run.changes)),
    ("causes", lambda run, _: common.causes(run.causes)),
    ("defects", lambda run, _: common.defects(run.defects)),
    ("comments", lambda run, _: common.comments(run.comments)),
    ("strip", lambda run, _: common.strip(run)),
    ("failures", _failures_of_run),
    ("rows", _rows_of_run),
)
