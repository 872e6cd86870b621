"""Which node of a page is which thing, by marks that only the bench looks at."""

from __future__ import annotations

from lantern.browser.chromium import ChromiumWindow
from lantern.core.elements.facts import Facts
from lantern.station.lookup import survey

Marked = dict[str, Facts]


def marked(page: ChromiumWindow, attribute: str) -> tuple[list[Facts], Marked]:
    """Return everything that is recognised on a page, and what of it bears which mark.

    Of several nodes with one mark the first counts; what is not shown is not among the marked.
    """
    marks: dict[tuple[str, int], str] = {}
    for frame in page.frames():
        place = 0
        while handle := page.probe("handleAt", f"[{attribute}]", place, frame=frame):
            own = "" if frame == page.main_frame else frame
            marks[own, handle] = page.probe("read", handle, f"attribute {attribute}", frame=frame)
            place += 1
    nodes = survey(page)
    known = {(node.frame, node.handle): node for node in nodes if node.visible}
    parts: Marked = {}
    for key, mark in marks.items():
        if key in known:
            parts.setdefault(mark, known[key])
    return nodes, parts
