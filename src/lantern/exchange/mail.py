"""Mails about runs of plans: as HTML and as text, with the matrix and the first failures.

Format: RFC 5322 with MIME (RFC 2045 to 2049); pictures lie inside and are shown by their Content-ID
(RFC 2392), so that a mail shows itself without asking anybody for anything.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from email.headerregistry import Address
from email.message import EmailMessage
from email.utils import format_datetime

from jinja2 import Environment, PackageLoader

from lantern.core.review.records import PlanRecord, RowRecord, RunRecord, StepRecord
from lantern.core.review.reporting.blocks import MARKS

MOST_FAILURES = 10
"""Failures that a mail tells of in full; it says how many more there are."""
MOST_PICTURES = 3
LONGEST = 2000
"""Letters of what a failure says that a mail repeats."""


@dataclass(frozen=True)
class Letter:
    """To whom a mail goes and from where; `address` is where people reach Lantern."""

    key: str
    sender: str
    name: str
    email: str
    why: str
    address: str
    at: datetime = field(default_factory=lambda: datetime.now(UTC))


@dataclass(frozen=True)
class Failure:
    """A row that failed: its run, itself, the sentence, and the Content-ID of its picture."""

    run: RunRecord
    row: RowRecord
    step: StepRecord | None
    picture: str


def about_run(letter: Letter, told: PlanRecord, *, fixed: bool) -> EmailMessage:
    """Return the mail about one run of a plan; `fixed` says that it failed the time before."""
    bad = [
        (run, row)
        for run in told.runs
        for row in run.rows
        if row.outcome in ("failed", "interrupted", "unsteady")
    ]
    pictures: dict[str, bytes] = {}
    failures = [_failure(run, row, pictures) for run, row in bad[:MOST_FAILURES]]
    verdict = "passes again" if fixed and told.state == "passed" else told.state
    subject = f"{told.name}: {verdict}"
    more = {"told": told, "failures": failures, "left": len(bad) - len(failures)}
    return _message(letter, subject, "run", pictures, verdict=verdict, **more)


def _failure(run: RunRecord, row: RowRecord, pictures: dict[str, bytes]) -> Failure:
    step = next((one for one in row.steps if one.outcome == "failed"), None)
    name = ""
    if step and step.picture and len(pictures) < MOST_PICTURES:
        name = f"picture{len(pictures) + 1}@lantern"
        pictures[name] = step.picture
    return Failure(run, row, step, name)


@dataclass(frozen=True)
class Brief:
    """A run of a plan in a digest."""

    id: int
    name: str
    state: str
    message: str
    counts: dict[str, int]
    ended_at: datetime | None


def digest(letter: Letter, runs: Sequence[Brief]) -> EmailMessage:
    """Return the mail about all runs of plans that ended in a day."""
    bad = sum(one.state in ("failed", "interrupted") for one in runs)
    said = f"{len(runs)} run{'s' if len(runs) != 1 else ''} of plans, "
    subject = said + (f"{bad} failed" if bad else "none failed")
    return _message(letter, subject, "digest", {}, runs=runs)


@dataclass(frozen=True)
class Enclosed:
    """A report that goes with a mail, as a file; `title` says what it is of and how it stands."""

    name: str
    mime: str
    content: bytes
    title: str


def with_report(letter: Letter, enclosed: Enclosed, *, word: str, path: str) -> EmailMessage:
    """Return the mail that brings a report; `word` is what its sender says, `path` leads to it."""
    message = _message(
        letter, enclosed.title, "report", {}, enclosed=enclosed, word=word, path=path
    )
    kind, _, sub = enclosed.mime.partition(";")[0].partition("/")
    message.add_attachment(enclosed.content, kind, sub, filename=enclosed.name)
    return message


def trial(letter: Letter) -> EmailMessage:
    """Return the mail that shows that mails arrive."""
    return _message(letter, "Mails of Lantern arrive here", "try", {})


def _message(
    letter: Letter, subject: str, kind: str, pictures: dict[str, bytes], **more: object
) -> EmailMessage:
    message = EmailMessage()
    message["Subject"] = " ".join(f"[Lantern] {subject}".split())
    message["From"] = Address("Lantern", addr_spec=letter.sender)
    message["To"] = Address(" ".join(letter.name.split()), addr_spec=letter.email)
    message["Date"] = format_datetime(letter.at)
    message["Message-ID"] = f"<{letter.key}@{letter.sender.rpartition('@')[2]}>"
    message["Auto-Submitted"] = "auto-generated"  # RFC 3834: nobody's absence is answered to it
    values = {"letter": letter, "kind": kind, "marks": MARKS, "longest": LONGEST, **more}
    message.set_content(_templates(escape=False).get_template("mail.txt").render(values))
    html = _templates(escape=True).get_template("mail.html").render(values)
    message.add_alternative(html, subtype="html")
    part = message.get_body(("html",))
    for name, content in pictures.items():
        assert part is not None  # noqa: S101 - it was added above
        part.add_related(content, "image", "jpeg", cid=f"<{name}>")
    return message


def _templates(*, escape: bool) -> Environment:
    loader = PackageLoader("lantern.exchange", "")
    return Environment(autoescape=escape, trim_blocks=True, lstrip_blocks=True, loader=loader)  # noqa: S701 - the mail's text is no HTML
