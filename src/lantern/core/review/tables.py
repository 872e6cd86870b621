"""What came of the rows of a run, as a table."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from lantern.core.review.records import RowRecord, RunRecord, StepRecord

_NOTHING = StepRecord("", "", 0.0, 0.0)
FIRST = ("row", "browser", "outcome", "sentences")
LAST = ("stopped at", "expected", "found", "message", "started", "ended", "seconds")


def last_reached(sentences: Sequence[str], done: Iterable[str]) -> int:
    """Return the number (from 1) of the last of a test's sentences that was carried out.

    `done` are ids of steps; those inside flows are no sentences of the test. 0 for none.
    """
    places = {step: place for place, step in enumerate(sentences, 1)}
    return max((places.get(step, 0) for step in done), default=0)


def reached(run: RunRecord, row: RowRecord) -> str:
    """Return how far a row came, as "6 of 10".

    A row that passed came to the end, whatever blocks it did not have to go into.
    """
    total = len(run.sentences)
    done = (step.step for step in row.steps if step.outcome != "skipped")
    return f"{total if row.outcome == 'passed' else last_reached(run.sentences, done)} of {total}"


WHICH = ("run", "test", "environment", "release")
"""Columns before the others where several runs are told."""
SENTENCES = ("run", "test", "row", "browser", "no", "sentence", "outcome", "seconds", "limit",
             "reason", "expected", "found", "message")  # fmt: skip


def table_of_all(runs: Sequence[RunRecord]) -> tuple[list[str], list[dict[str, str]]]:
    """Return the rows of several runs as one table, with which run each is of."""
    columns: dict[str, None] = {}
    lines = []
    for run in runs:
        own, rows = table_of(run, WHICH)
        columns.update(dict.fromkeys(own))
        which = (str(run.id), run.test, run.environment, run.release)
        lines += [{**dict(zip(WHICH, which, strict=True)), **row} for row in rows]
    data = [one for one in columns if one not in (*FIRST, *LAST)]
    return [*WHICH, *FIRST, *data, *LAST], lines


def sentences_of(runs: Sequence[RunRecord]) -> list[dict[str, str]]:
    """Return a line for each sentence that was played, in the columns SENTENCES."""
    return [
        {
            "run": str(run.id),
            "test": run.test,
            "row": str(row.number or ""),
            "browser": row.browser or run.browser,
            "no": str(number),
            "sentence": step.sentence,
            "outcome": step.outcome,
            "seconds": f"{step.used:.3f}",
            "limit": f"{step.limit:g}",
            "reason": step.reason,
            "expected": step.expected,
            "found": step.found,
            "message": step.message,
        }
        for run in runs
        for row in run.rows
        for number, step in enumerate(row.steps, 1)
    ]


def table_of(run: RunRecord, taken: Sequence[str] = ()) -> tuple[list[str], list[dict[str, str]]]:
    """Return the columns and the rows: what went in, what was kept, and how it ended.

    Columns of the test that are called like one of the table's own, or one that is `taken`, have
    “input ” before them, as kept values have “kept ”.
    """
    inputs = dict.fromkeys(name for row in run.rows for name in row.values)
    kept = dict.fromkeys(name for row in run.rows for name in row.kept)
    named = {name: f"input {name}" if name in (*FIRST, *LAST, *taken) else name for name in inputs}
    columns = [*FIRST, *named.values(), *(f"kept {name}" for name in kept), *LAST]
    return columns, [_row(run, row, named) for row in run.rows]


def _row(run: RunRecord, row: RowRecord, named: dict[str, str]) -> dict[str, str]:
    failed = next((step for step in row.steps if step.outcome == "failed"), _NOTHING)
    return {
        "row": str(row.number or ""),
        "browser": row.browser or run.browser,
        "outcome": row.outcome,
        "sentences": reached(run, row),
        **{named[name]: value for name, value in row.values.items()},
        **{f"kept {name}": value for name, value in row.kept.items()},
        "stopped at": failed.sentence,
        "expected": failed.expected,
        "found": failed.found,
        "message": failed.message or row.message,
        "started": row.started_at.isoformat(timespec="seconds") if row.started_at else "",
        "ended": row.ended_at.isoformat(timespec="seconds") if row.ended_at else "",
        "seconds": f"{row.seconds:.3f}",
    }
