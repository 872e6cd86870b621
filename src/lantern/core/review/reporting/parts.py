"""Parts that reports of runs and of runs of plans have in common."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from lantern.core.review.records import (
    CauseRecord,
    ChangeRecord,
    CommentRecord,
    DefectRecord,
    RowRecord,
    RunRecord,
    StepRecord,
)
from lantern.core.review.reporting.blocks import (
    Block,
    Cell,
    Facts,
    Frame,
    Grid,
    Heading,
    Item,
    Listed,
    Shown,
    Strip,
    Words,
)
from lantern.core.review.reporting.templates import Template

BAD = ("failed", "interrupted", "unsteady", "cancelled")
MOST_FAILED = 20
"""Rows that a short report tells one by one."""
MOST_FRAMES = 400
"""Sentences on a film strip."""


def counted(counts: Mapping[str, int], what: str) -> str:
    """Return how many of something came to which outcome, in words."""
    return " · ".join(
        f"{count} {what if count == 1 else what + 's'} {outcome}"
        for outcome, count in counts.items()
    )


def causes(found: Sequence[CauseRecord]) -> Iterator[Block]:
    """Yield whose fault failures are."""
    if not found:
        return
    yield Heading("Whose fault")
    yield Listed([_cause(one) for one in found])


def _cause(one: CauseRecord) -> Item:
    failures = "failure" if one.count == 1 else "failures"
    if one.author:
        share = f"says {one.author}" + (f": “{one.word}”" if one.word else "")
    else:
        share = "" if one.kind == "not clear" else f"{one.share:.0%}"
    text = " · ".join(filter(None, (share, f"{one.count} {failures}", one.sentence)))
    return Item(text, strong=one.kind, aside=one.reason)


def comments(said: Sequence[CommentRecord]) -> Iterator[Block]:
    """Yield what people said."""
    if not said:
        return
    yield Heading("Comments")
    yield Listed([comment(one) for one in said])


def comment(one: CommentRecord) -> Item:
    """Return what a person said as a line."""
    looked = "looked at it" if one.looked else ""
    of = f"on {one.of}" if one.of != "the run" else ""
    below = (Words(one.text),) if one.text else ()
    about = " ".join(filter(None, (looked, of)))
    return Item(about, one.author or "somebody", aside=f"{one.at:%Y-%m-%d %H:%M UTC}", below=below)


def changes(found: Sequence[ChangeRecord]) -> Iterator[Block]:
    """Yield what came otherwise than the time before."""
    if not found:
        return
    yield Heading("Since the time before")
    yield Listed([Item(one.test, strong=one.what, outcome=one.outcome) for one in found])


def defects(found: Sequence[DefectRecord]) -> Iterator[Block]:
    """Yield the defects that there are."""
    if not found:
        return
    yield Heading("Defects")
    head = ("No.", "Title", "State", "Severity", "Has it", "Elsewhere")
    rows = [
        [Cell(text) for text in (str(one.number), one.title, one.state, one.severity,
                                 one.owner or "nobody", one.handed)]
        for one in found
    ]  # fmt: skip
    yield Grid(head, rows)


def shares(counts: Mapping[str, int]) -> Iterator[Block]:
    """Yield how much of it passed."""
    whole = sum(counts.values())
    if not whole:
        return
    passed = counts.get("passed", 0) + counts.get("unsteady", 0)
    yield Words(f"{passed} of {whole} rows passed: {passed / whole:.0%}.")


def _failed(row: RowRecord, run: RunRecord, parts: Template, *, named: bool) -> Iterator[Block]:
    """Yield what a row says that did not plainly pass; `named` says of which test it is."""
    yield from row_of(row, run.test if named else "")
    failed = [step for step in row.steps if step.outcome == "failed"]
    if failed:
        yield Listed([sentence(step, "pictures" in parts.parts) for step in failed])


def row_of(row: RowRecord, test: str) -> Iterator[Block]:
    """Yield what there is to say of a row as a whole."""
    yield Heading(row_name(row, test), 2, row.outcome, f"{row.seconds:.1f} s")
    if row.message:
        yield Words(row.message)
    if row.values:
        yield Facts(list(row.values.items()))
    if row.kept:
        yield Words("Kept", quiet=True)
        yield Facts(list(row.kept.items()))


def row_name(row: RowRecord, test: str) -> str:
    """Return what a row is called, of a test where one is named."""
    number = f"row {row.number}" if row.number else ("" if test else "without rows")
    within = f" in {row.browser}" if row.browser else ""
    name = ", ".join(filter(None, (test, number)))
    return name[:1].upper() + name[1:] + within


def sentence(step: StepRecord, pictured: bool) -> Item:
    """Return a sentence with what it said, and its picture where that is wanted."""
    below: list[Words | Facts | Shown] = []
    if step.comment:
        below.append(Words(step.comment, quiet=True))
    if step.contrary:
        below.append(Words(step.contrary))
    if step.outcome == "failed":
        below.append(Words("\n\n".join(filter(None, (step.message, step.hint))), said=True))
        if step.expected or step.found:
            below.append(Facts([("Expected", step.expected), ("Found", step.found)]))
    noise = "\n".join([*step.console, *step.requests])
    if noise:
        below.append(Words(noise, quiet=True, said=True))
    if pictured and step.picture:
        below.append(Shown(step.picture, "The page at this sentence", step.outcome == "failed"))
    used = f"{step.used:.1f} s of {step.limit:g} s"
    return Item(step.sentence, step.title, step.outcome, used, tuple(below))


def strip(run: RunRecord) -> Iterator[Block]:
    """Yield a film strip for each row with pictures."""
    left = MOST_FRAMES
    for row in run.rows:
        frames = [
            Frame(step.sentence, step.outcome, step.picture, step.then)
            for step in row.steps
            if step.picture or step.then
        ][:left]
        left -= len(frames)
        if len(frames) > 1:
            yield Strip(row_name(row, ""), frames)


def failures(
    rows: Iterable[tuple[RunRecord, RowRecord]], parts: Template, *, named: bool
) -> Iterator[Block]:
    """Yield the rows that did not plainly pass; `named` says of which tests they are."""
    bad = [(run, row) for run, row in rows if row.outcome in BAD]
    most = len(bad) if "pictures" in parts.parts else MOST_FAILED
    for run, row in bad[:most]:
        yield from _failed(row, run, parts, named=named)
    if len(bad) > most:
        yield Words(f"{len(bad) - most} more rows did not plainly pass.")
