"""Names of elements, as a person would say them."""

from __future__ import annotations

from lantern.core.elements.facts import Facts
from lantern.core.elements.generated import as_words, how_made, tells_what
from lantern.core.elements.kinds import kind_of

LONGEST = 60
SHORT = 40
LONG_DATE = 10
"""Letters of a whole date, such as 2027-03-12."""


def _as_name(text: str) -> str:
    """Return a text that can stand as a name: short, and words rather than data; else ""."""
    return text if len(text) <= SHORT and not any(map(str.isdigit, text)) else ""


def propose_name(target: Facts) -> str:
    """Propose a name for the element from what people see of it, at most 60 characters.

    First what it is called, then what it says, then what it is in or beside, last what its makers
    called it; never what it merely holds at the moment.
    """
    kind = kind_of(target)
    if kind == "page":
        return "the page"
    seen = _day(target) or (_of_text(target) if kind == "text" else _of_control(target, kind))
    seen = seen or _made(target) or _beside(target, kind)
    seen = seen.rstrip(" :*") or seen
    return seen[: LONGEST - 3] + "…" if len(seen) > LONGEST else seen


def _day(target: Facts) -> str:
    """Return the day of a calendar that it is, "" for all else."""
    if not target.calendar:
        return ""
    dated = str(target.get("data-date"))
    full = str(target.get("aria-label") or target.get("title") or dated)
    if len(dated) >= LONG_DATE:
        return dated
    if len(full) > 2:
        return full
    return f"Day {target.text}" if target.text.isdigit() else ""


def _of_text(target: Facts) -> str:
    if target.role == "row" and target.text:
        return f"Row {target.text[:SHORT]}".strip()
    called = target.name if target.name != target.text else ""
    found = target.label or called or target.column or _as_name(target.own)
    if target.parts < 2:
        found = found or _as_name(target.text)
    found = found or str(target.get("title") or target.get("alt"))
    found = found or ("" if target.text and target.parts < 2 else _made(target))
    return found or (target.section if target.grouped else "")


def _of_control(target: Facts, kind: str) -> str:
    found = target.label or target.name
    if kind not in ("choice list", "text box"):
        found = found or (target.text if len(target.text) <= LONGEST else target.own)
    for fact in ("hint text", "title", "alt"):
        found = found or str(target.get(fact))
    if kind in ("text box", "choice list", "tick box"):
        found = found or target.column
    return found


def _made(target: Facts) -> str:
    """Return what its makers called it, as words: from its field name, test id, id or class."""
    for fact in ("field name", "test id", "id"):
        value = str(target.get(fact))
        if len(value) > 1 and how_made(value) == "":
            return value if fact != "test id" else as_words(value)
    words = [word for word in target.attributes.get("class", "").split() if tells_what(word)]
    return as_words(max(words, key=len)) if words else ""


def _beside(target: Facts, kind: str) -> str:
    """Return a name by what is around it: better than none."""
    if target.text and target.parts < 2:
        return target.text
    kind = PARTS.get(target.tag, kind) if kind == "text" else kind
    for words, near in (
        ("in", target.section),
        ("after", target.after),
        ("before", target.followed),
    ):
        if near:
            return f"{kind} {words} {near[:SHORT]}"
    return f"{target.role or kind} on the page"


PARTS = {
    "form": "form", "div": "box", "section": "part", "article": "part", "aside": "part",
    "ul": "list", "ol": "list", "tr": "row", "nav": "menu", "header": "head", "footer": "foot",
}  # fmt: skip
"""What people call a part of a page that has no name of its own, by its tag."""
