"""Files: giving them to the page, and taking what it lets one download."""

from __future__ import annotations

from collections.abc import Callable

from lantern.core.engine import requests as ask
from lantern.core.engine.finding import WAIT, find
from lantern.core.engine.outcomes import StepFailed
from lantern.core.steps.actions.base import Action, Call, Input, recorded
from lantern.core.steps.actions.navigating import same_title, title_pattern
from lantern.core.steps.properties import COMPARISONS, compare
from lantern.core.values.templates import literal


def _upload(call: Call) -> ask.Play[None]:
    names = tuple(line.strip() for line in call.inputs["file"].splitlines() if line.strip())
    if not names:
        raise StepFailed("bad value", "Say which file of this test is to be given.")
    # Pages hide the field itself behind a button of their own: it need not be ready for a press.
    target = yield from find(call.target(), call.limit, call.evidence, ready=False)
    yield from call.picture()
    missing = yield from ask.GiveFiles(target.facts.handle, names, target.facts.frame)
    if missing:
        raise StepFailed(
            "bad value",
            f"This test keeps no file named “{missing}”.",
            hint="Add it under Files in the drawer, or give it on the stage while recording.",
        )


def _download(call: Call) -> ask.Play[None]:
    wanted = call.inputs["name"].strip()
    start: float = yield from ask.Now()
    while True:
        listed: list[ask.Download] = list((yield from ask.Downloads()))
        for download in reversed(listed):
            if wanted in ("", "newest") or same_title(download.name, wanted):
                if download.state == "done":
                    kept = yield from ask.KeepDownload(download.id)
                    call.evidence.files.append({**kept})
                    call.evidence.found = f"{download.name}, {download.size} bytes"
                    yield from call.picture()
                    return
                if download.state == "failed":
                    raise StepFailed("page error", f"The download of {download.name} failed.")
        now: float = yield from ask.Now()
        if now - start >= call.limit:
            names = ", ".join(f"“{one.name}”" for one in listed) or "none"
            raise StepFailed(
                "not found",
                f"No download “{wanted}” was complete within {call.limit:g} s. Downloads: {names}.",
                expected=wanted,
                found=names,
            )
        yield from ask.Wait(WAIT)


DETAILS: dict[str, Callable[[ask.Download], str]] = {
    "name": lambda download: download.name,
    "size": lambda download: str(download.size),
    "text": lambda download: download.text,
}
"""What can be checked of a download; its size is in bytes."""


def _check_download(call: Call) -> ask.Play[None]:
    listed: list[ask.Download] = [
        one for one in (yield from ask.Downloads()) if one.state == "done"
    ]
    yield from call.picture()
    if not listed:
        raise StepFailed(
            "not found", "Nothing was downloaded yet.", hint="Take the download first."
        )
    detail, operator = call.inputs["detail"], call.inputs["comparison"]
    found, wanted = DETAILS[detail](listed[-1]), call.inputs["expected"]
    call.evidence.expected = wanted if operator == "is" else f"{operator} {wanted}"
    call.evidence.found = found[:400]
    if not compare(found, operator, wanted):
        raise StepFailed(
            "check differed",
            f"The {detail} of the download {listed[-1].name} was “{found[:200]}”.",
            expected=call.evidence.expected,
            found=found[:400],
        )


ENTRIES = (
    Action(
        "upload",
        "Give a file",
        "Give the file {file} to {element}",
        _upload,
        (Input("file", "file"),),
        frozenset({"file box"}),
        help="Gives the page a file that is kept with this test; several stand in lines.",
        recorded=recorded("files", reads=lambda event: {"file": event.value}),
    ),
    Action(
        "download",
        "Take the download",
        "Take the download {name}",
        _download,
        (Input("name", default="newest"),),
        kinds=None,
        help="Waits until it is complete and keeps it with the result. # stands for a number.",
        recorded=recorded(
            "download", reads=lambda event: {"name": literal(title_pattern(event.value))}
        ),
    ),
    Action(
        "check download",
        "Check the download",
        "Check that the {detail} of the download {comparison} {expected}",
        _check_download,
        (
            Input("detail", "choice", tuple(DETAILS), "name"),
            Input("comparison", "comparison", tuple(COMPARISONS), "is"),
            Input("expected"),
        ),
        kinds=None,
        help="Compares the name, the size in bytes or the text of the newest download.",
    ),
)
