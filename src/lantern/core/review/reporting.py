"""Reports: what is told of a run, a run of a plan or of trends, as blocks that any format writes.

A template says which parts a report has. What a part says is said here once, for all formats.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from lantern.core.problems import UnknownName
from lantern.core.review.records import (
    CauseRecord,
    ChangeRecord,
    CommentRecord,
    DefectRecord,
    PlanRecord,
    RowRecord,
    RunRecord,
    StandingRecord,
    StepRecord,
    TrendRecord,
)

Part = Literal[
    "facts", "shares", "matrix", "changes", "causes", "defects", "comments", "failures", "rows",
    "pictures", "strip",
]  # fmt: skip
BAD = ("failed", "interrupted", "unsteady", "cancelled")
MARKS = {
    "passed": "●", "unsteady": "◆", "failed": "▲", "skipped": "○", "interrupted": "■",
    "cancelled": "■", "waiting": "·", "running": "·",
}  # fmt: skip
"""The shapes of outcomes, which always stand beside their words."""
MOST_FAILED = 20
"""Rows that a short report tells one by one."""
MOST_FRAMES = 400
"""Sentences on a film strip."""


@dataclass(frozen=True)
class Heading:
    """A heading of a level (2 or 3), with an outcome before it and something quiet behind it."""

    text: str
    level: int = 2
    outcome: str = ""
    aside: str = ""


@dataclass(frozen=True)
class Words:
    """A paragraph; `quiet` is said by the way, `said` is what a program answered, as it stands."""

    text: str
    quiet: bool = False
    said: bool = False


@dataclass(frozen=True)
class Facts:
    """Names with what they are."""

    pairs: Sequence[tuple[str, str]]


@dataclass(frozen=True)
class Cell:
    """What stands in a table; an `outcome` has its shape and colour."""

    text: str
    outcome: str = ""


@dataclass(frozen=True)
class Grid:
    """A table."""

    head: Sequence[str]
    rows: Sequence[Sequence[Cell]]


@dataclass(frozen=True)
class Item:
    """A line of a list: an outcome, what matters, what it says, and what lies below it."""

    text: str
    strong: str = ""
    outcome: str = ""
    aside: str = ""
    below: tuple[Words | Facts | Shown, ...] = ()


@dataclass(frozen=True)
class Listed:
    """A list, in an order that is counted or not."""

    items: Sequence[Item]
    counted: bool = False


@dataclass(frozen=True)
class Shown:
    """A picture, as a JPEG; it opens folded where it is not `open`."""

    picture: bytes = field(repr=False)
    caption: str
    open: bool = True


@dataclass(frozen=True)
class Frame:
    """A sentence on a film strip, with its picture and the one from before, b"" for none."""

    caption: str
    outcome: str
    now: bytes = field(repr=False)
    then: bytes = field(default=b"", repr=False)


@dataclass(frozen=True)
class Strip:
    """A film strip of one row, to be walked."""

    name: str
    frames: Sequence[Frame]


Block = Heading | Words | Facts | Grid | Listed | Shown | Strip


@dataclass(frozen=True)
class Report:
    """A report: what it is of, what it says first, and its blocks."""

    title: str
    aside: str
    state: str
    verdict: str
    blocks: Sequence[Block]


@dataclass(frozen=True)
class Template:
    """Which parts a report has, for whom."""

    title: str
    told: str
    parts: frozenset[Part]

    @property
    def pictured(self) -> bool:
        """Whether pictures are needed."""
        return bool(self.parts & {"pictures", "strip"})


_ALWAYS: tuple[Part, ...] = ("facts", "causes", "comments")
TEMPLATES: dict[str, Template] = {
    "full": Template(
        "Full",
        "Every row and sentence, with pictures and a film strip",
        frozenset({*_ALWAYS, "matrix", "changes", "defects", "failures", "rows", "pictures",
                   "strip"}),
    ),
    "short": Template(
        "Short",
        "What failed and why, without pictures",
        frozenset({*_ALWAYS, "matrix", "failures"}),
    ),
    "managers": Template(
        "For managers",
        "How it stands, what changed, which defects there are",
        frozenset({*_ALWAYS, "shares", "matrix", "changes", "defects"}),
    ),
}  # fmt: skip
"""Every template by its name."""


def template(name: str) -> Template:
    """Return a template; raises UnknownName."""
    if name not in TEMPLATES:
        raise UnknownName("template", name, TEMPLATES, where="template")
    return TEMPLATES[name]


def of(told: RunRecord | PlanRecord | TrendRecord, parts: Template) -> Report:
    """Return the report of whatever is told."""
    match told:
        case RunRecord():
            return of_run(told, parts)
        case PlanRecord():
            return of_plan(told, parts)
        case TrendRecord():
            return of_trends(told, parts)


def of_run(run: RunRecord, parts: Template) -> Report:
    """Return the report of a run."""
    counts = Counter(row.outcome for row in run.rows)
    when = f" of {run.started_at:%Y-%m-%d %H:%M UTC}" if run.started_at else ""
    return Report(
        run.test,
        f"Run {run.id}{when}, {run.seconds:.1f} s",
        run.state,
        _counted(counts, "row"),
        [block for part in _RUN if part[0] in parts.parts for block in part[1](run, parts)],
    )


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


def _counted(counts: Mapping[str, int], what: str) -> str:
    return " · ".join(
        f"{count} {what if count == 1 else what + 's'} {outcome}"
        for outcome, count in counts.items()
    )


# -- parts of both --------------------------------------------------------------------------------


def _causes(causes: Sequence[CauseRecord]) -> Iterator[Block]:
    if not causes:
        return
    yield Heading("Whose fault")
    yield Listed([_cause(one) for one in causes])


def _cause(one: CauseRecord) -> Item:
    failures = "failure" if one.count == 1 else "failures"
    if one.author:
        share = f"says {one.author}" + (f": “{one.word}”" if one.word else "")
    else:
        share = "" if one.kind == "not clear" else f"{one.share:.0%}"
    text = " · ".join(filter(None, (share, f"{one.count} {failures}", one.sentence)))
    return Item(text, strong=one.kind, aside=one.reason)


def _comments(comments: Sequence[CommentRecord]) -> Iterator[Block]:
    if not comments:
        return
    yield Heading("Comments")
    yield Listed([_comment(one) for one in comments])


def _comment(one: CommentRecord) -> Item:
    looked = "looked at it" if one.looked else ""
    of = f"on {one.of}" if one.of != "the run" else ""
    below = (Words(one.text),) if one.text else ()
    about = " ".join(filter(None, (looked, of)))
    return Item(about, one.author or "somebody", aside=f"{one.at:%Y-%m-%d %H:%M UTC}", below=below)


def _changes(changes: Sequence[ChangeRecord]) -> Iterator[Block]:
    if not changes:
        return
    yield Heading("Since the time before")
    yield Listed([Item(one.test, strong=one.what, outcome=one.outcome) for one in changes])


def _defects(found: Sequence[DefectRecord]) -> Iterator[Block]:
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


def _shares(counts: Mapping[str, int]) -> Iterator[Block]:
    whole = sum(counts.values())
    if not whole:
        return
    passed = counts.get("passed", 0) + counts.get("unsteady", 0)
    yield Words(f"{passed} of {whole} rows passed: {passed / whole:.0%}.")


def _failed(row: RowRecord, run: RunRecord, parts: Template, *, named: bool) -> Iterator[Block]:
    """Yield what a row says that did not plainly pass; `named` says of which test it is."""
    yield from _row(row, run.test if named else "")
    failed = [step for step in row.steps if step.outcome == "failed"]
    if failed:
        yield Listed([_sentence(step, "pictures" in parts.parts) for step in failed])


def _row(row: RowRecord, test: str) -> Iterator[Block]:
    """Yield what there is to say of a row as a whole."""
    yield Heading(_row_name(row, test), 2, row.outcome, f"{row.seconds:.1f} s")
    if row.message:
        yield Words(row.message)
    if row.values:
        yield Facts(list(row.values.items()))
    if row.kept:
        yield Words("Kept", quiet=True)
        yield Facts(list(row.kept.items()))


def _row_name(row: RowRecord, test: str) -> str:
    number = f"row {row.number}" if row.number else ("" if test else "without rows")
    within = f" in {row.browser}" if row.browser else ""
    name = ", ".join(filter(None, (test, number)))
    return name[:1].upper() + name[1:] + within


def _sentence(step: StepRecord, pictured: bool) -> Item:
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


def _strip(run: RunRecord) -> Iterator[Block]:
    left = MOST_FRAMES
    for row in run.rows:
        frames = [
            Frame(step.sentence, step.outcome, step.picture, step.then)
            for step in row.steps
            if step.picture or step.then
        ][:left]
        left -= len(frames)
        if len(frames) > 1:
            yield Strip(_row_name(row, ""), frames)


# -- a run ----------------------------------------------------------------------------------------


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
        yield from _row(row, "")
        steps = [_sentence(step, "pictures" in parts.parts) for step in row.steps]
        if steps:
            yield Listed(steps, counted=True)


def _failures_of_run(run: RunRecord, parts: Template) -> Iterator[Block]:
    if "rows" in parts.parts:
        return  # all of them are told
    yield from _some_failures([(run, row) for row in run.rows], parts, named=False)


def _some_failures(
    rows: Iterable[tuple[RunRecord, RowRecord]], parts: Template, *, named: bool
) -> Iterator[Block]:
    bad = [(run, row) for run, row in rows if row.outcome in BAD]
    most = len(bad) if "pictures" in parts.parts else MOST_FAILED
    for run, row in bad[:most]:
        yield from _failed(row, run, parts, named=named)
    if len(bad) > most:
        yield Words(f"{len(bad) - most} more rows did not plainly pass.")


_RunPart = tuple[Part, Callable[[RunRecord, Template], Iterable[Block]]]
_RUN: tuple[_RunPart, ...] = (
    ("facts", _facts_of_run),
    ("shares", lambda run, _: _shares(Counter(row.outcome for row in run.rows))),
    ("changes", lambda run, _: _changes(run.changes)),
    ("causes", lambda run, _: _causes(run.causes)),
    ("defects", lambda run, _: _defects(run.defects)),
    ("comments", lambda run, _: _comments(run.comments)),
    ("strip", lambda run, _: _strip(run)),
    ("failures", _failures_of_run),
    ("rows", _rows_of_run),
)


# -- a run of a plan ------------------------------------------------------------------------------


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
            yield Listed([_comment(one) for one in run.comments])


def _failures_of_plan(told: PlanRecord, parts: Template) -> Iterator[Block]:
    rows = ((run, row) for run in told.runs for row in run.rows)
    yield from _some_failures(rows, parts, named=True)


_PlanPart = tuple[Part, Callable[[PlanRecord, Template], Iterable[Block]]]
_PLAN: tuple[_PlanPart, ...] = (
    ("facts", _facts_of_plan),
    ("shares", lambda told, _: _shares(told.counts)),
    ("matrix", _matrix),
    ("changes", lambda told, _: _changes(told.changes)),
    ("causes", lambda told, _: _causes(told.causes)),
    ("defects", lambda told, _: _defects(told.defects)),
    ("comments", _comments_of_plan),
    ("failures", _failures_of_plan),
)


# -- trends ---------------------------------------------------------------------------------------


def of_trends(told: TrendRecord, parts: Template) -> Report:
    """Return the report of trends; the short one tells of no days, that for managers of no pace."""
    counts: Counter[str] = Counter()
    for _, some in told.by_day:
        counts.update(some)
    blocks: list[Block] = [*_shares(counts), *_standing(told.tests)]
    if parts.title != TEMPLATES["short"].title:
        blocks += _days(told)
    blocks += _steadiness(told.tests)
    if parts.title != TEMPLATES["managers"].title:
        blocks += _pace(told)
    aside = f"The last {told.days} days, to {told.at:%Y-%m-%d %H:%M UTC}"
    return Report("Trends", aside, "", _counted(counts, "row"), blocks)


STANDINGS = {
    "new": "Fails newly",
    "failing": "Still fails",
    "fixed": "Passes again",
}


def _standing(tests: Sequence[StandingRecord]) -> Iterator[Block]:
    for standing, words in STANDINGS.items():
        some = [one for one in tests if one.standing == standing]
        if some:
            yield Heading(words)
            yield Listed(
                [
                    Item(one.name, aside=f"since {one.since:%Y-%m-%d}" if one.since else "")
                    for one in some
                ]
            )


def _days(told: TrendRecord) -> Iterator[Block]:
    outcomes = list(dict.fromkeys(name for _, counts in told.by_day for name in counts))
    if outcomes:
        yield Heading("Rows by day")
        rows = [
            [Cell(day), *(Cell(str(counts.get(name, "") or "")) for name in outcomes)]
            for day, counts in told.by_day
        ]
        yield Grid(("Day", *outcomes), rows)


def _steadiness(tests: Sequence[StandingRecord]) -> Iterator[Block]:
    if not tests:
        yield Words("Nothing was played on record.")
        return
    yield Heading("Tests")
    rows = [
        [
            Cell(one.name),
            Cell(str(one.plays)),
            Cell(str(one.failed)),
            Cell(f"{one.unsteady:.1%} ({one.low:.1%} to {one.high:.1%})"),
        ]
        for one in tests
    ]
    yield Grid(("Test", "Rows", "Failed", "Unsteady, with 95 % confidence"), rows)


def _pace(told: TrendRecord) -> Iterator[Block]:
    if told.slow:
        yield Heading("Slowest sentences")
        rows = [
            [Cell(one.test), Cell(one.sentence), Cell(f"{one.now:.2f}"), Cell(f"{one.usual:.2f}"),
             Cell("slower" if one.slower else "")]
            for one in told.slow
        ]  # fmt: skip
        yield Grid(("Test", "Sentence", "Seconds", "Usually", ""), rows)
