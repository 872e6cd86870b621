"""Looking at a page with its frames: for an element, or for everything that can be recognised."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

from lantern.browser.errors import BrowserError, CommandFailed, DialogOpen
from lantern.browser.session import Window
from lantern.core.elements.facts import Box, Facts
from lantern.core.elements.kinds import special_selector
from lantern.core.engine import requests as ask

PAUSE = 0.02
"""Seconds to let pass when a document is just being replaced."""
SHORTEST = 3
"""Letters of a secret that is looked for: shorter ones are everywhere."""


def look(page: Window, request: ask.Lookup, pause: Callable[[float], object]) -> ask.Seen:
    """Answer a lookup: the candidates of all frames, the main one first.

    Raises BrowserGone or NoAnswer; a frame that goes away meanwhile has no candidates.
    """
    if page.dialog:
        return ask.Seen(dialog=page.dialog.message)
    page.settled(max(request.wait, PAUSE))
    query = {
        "selector": request.query.selector,
        "clues": [clue.as_json() for clue in request.query.clues],
        "aim": request.aim,
        "after": request.after,
        "wait": request.wait * 1000,
    }
    seen = ask.Seen()
    for number, frame in enumerate(page.frames() or [""]):
        query["after"] = request.after if number == 0 else None
        try:
            raw = page.probe("lookup", query, frame=frame)
            if raw["hosts"] and page.look_into(raw["hosts"], frame):
                raw = page.probe("lookup", {**query, "after": None}, frame=frame)
            part = _seen(page, raw, frame, len(seen.candidates))
        except DialogOpen as error:
            return ask.Seen(dialog=str(error))
        except CommandFailed:
            pause(PAUSE)
            continue
        seen = replace(
            part,
            candidates=(*seen.candidates, *part.candidates),
            total=seen.total + part.total,
            stamp=part.stamp if number == 0 else seen.stamp,
            aimed=seen.aimed or part.aimed,
        )
    return seen


def _seen(page: Window, raw: dict[str, Any], frame: str, first: int) -> ask.Seen:
    facts = in_frame(page, raw["candidates"], frame, first)
    ready = aimed(page, raw["aimed"], frame) if raw["aimed"] else None
    return ask.Seen(tuple(facts), int(raw["total"]), int(raw["stamp"]), ready)


def in_frame(page: Window, raws: list[dict[str, Any]], frame: str, first: int = 0) -> list[Facts]:
    """Read facts that a frame reported: numbered on from `first`, their boxes in the window."""
    own = "" if frame == page.main_frame else frame
    path = page.frame_path(own)
    dx, dy = page.frame_offset(own) if own and raws else (0.0, 0.0)
    found = []
    for number, raw in enumerate(raws, first):
        raw |= {"frame": own, "frames": path, "order": number, "view": page.viewport}
        raw |= {name: raw[name] + first for name in ("inside", "in_row") if raw.get(name)}
        if own:
            box = raw["box"]
            raw["box"] = box | {"x": box["x"] + dx, "y": box["y"] + dy}
        found.append(Facts.read(raw))
    return found


def aimed(
    page: Window, raw: dict[str, Any], frame: str, at: tuple[float, float] | None = None
) -> ask.Aimed:
    """Read where to press a node, in the coordinates of the window.

    A frame knows neither whether it is in view itself nor what lies over it: that is looked at
    here, and the node is brought to the middle of the window where input would not reach it.
    """
    own = "" if frame == page.main_frame else frame
    found = _in_window(page, raw, own)
    if not own or found.problem:
        return found
    if page.probe("beingMade"):
        return replace(found, problem="moving")  # the frame will be elsewhere when that is done
    if _reached(page, own, found):
        return found
    if page.probe("centre", raw["handle"], frame=own):
        again = page.probe("aim", raw["handle"], at, frame=own, timeout=30)
        if again:
            found = _in_window(page, again, own)
    if found.problem or _reached(page, own, found):
        return found
    return replace(found, problem="covered")


def _in_window(page: Window, raw: dict[str, Any], frame: str) -> ask.Aimed:
    dx, dy = page.frame_offset(frame)
    box = raw["box"]
    return ask.Aimed(
        handle=raw["handle"],
        x=raw["x"] + dx,
        y=raw["y"] + dy,
        box=Box(box["x"] + dx, box["y"] + dy, box["width"], box["height"]),
        problem=raw["problem"],
        by=raw["by"],
    )


def _reached(page: Window, frame: str, aimed: ask.Aimed) -> bool:
    """Tell whether input at a place goes to a frame."""
    width, height = page.viewport
    if not (0 <= aimed.x < width and 0 <= aimed.y < height):
        return False
    try:
        return page.frame_at(aimed.x, aimed.y) == frame
    except CommandFailed:
        return False


def survey(page: Window, also: int = 0) -> list[Facts]:
    """Return the facts of all that is recognised on the page, frame by frame in document order.

    `also` is the handle of a node that is to be among them whatever it is.
    """
    found: list[Facts] = []
    for frame in page.frames():
        try:
            page.look_into(page.probe("unsure", frame=frame), frame)
            raws = page.probe("survey", special_selector(), also, frame=frame, timeout=60)
            found += in_frame(page, raws, frame, len(found))
        except (CommandFailed, DialogOpen):
            continue  # a frame that went away shows nothing
    return found


def hiding(
    page: Window, secrets: Iterable[str], *, dots: bool = True, timeout: float = 15.0
) -> list[Box]:
    """Return where in the window secrets show, and where filled fields of secrets are.

    Fields whose values the browser shows as dots are left out without `dots`. Raises NoAnswer
    when the page takes longer than `timeout` seconds, DialogOpen while it can not answer,
    CommandFailed while its document is being replaced.
    """
    values = [value for value in secrets if len(value) >= SHORTEST]
    found: list[Box] = []
    frames = page.frames()
    if page.main_frame not in frames:
        raise CommandFailed("The document is being replaced.")
    for frame in frames:
        try:
            raws, hosts = page.probe("hiding", values, dots, frame=frame, timeout=timeout)
            if hosts and page.look_into(hosts, frame):
                raws, _ = page.probe("hiding", values, dots, frame=frame, timeout=timeout)
            own = "" if frame == page.main_frame else frame
            dx, dy = page.frame_offset(own) if own and raws else (0.0, 0.0)
        except CommandFailed:
            if frame == page.main_frame:
                raise
            continue  # a frame that went away shows nothing
        found += [Box(r["x"] + dx, r["y"] + dy, r["width"], r["height"]) for r in raws]
    return found


def xpaths(page: Window, nodes: list[Facts]) -> list[str]:
    """Return the absolute XPath of each node in its own document, "" inside a shadow root."""
    found: list[str] = []
    for facts in nodes:
        try:
            found += page.probe("xpaths", [facts.handle], frame=facts.frame)
        except BrowserError:
            found.append("")
    return found
