"""What pages say when they refuse, fail or are down: kinds of words, tried in this order."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Literal

Saying = Literal["session", "down", "broken", "refused", "busy"]

_SAYINGS: tuple[tuple[Saying, str], ...] = (
    (
        "session",
        r"session (?:has |is |was )?(?:expired|ended|timed out|over|invalid)|signed out|logged out"
        r"|(?:sign|log) in again|no longer signed in",
    ),
    (
        "down",
        r"no space left|(?:disk|volume|storage) (?:is )?(?:almost )?full|read-?only (?:mode|file)"
        r"|out of (?:memory|disk)|too many (?:requests|connections)|rate limit|maintenance"
        r"|(?:temporarily|currently) (?:un|not )available|service unavailable|bad gateway"
        r"|gateway time-?out|(?:connection|host) (?:was )?(?:refused|reset|timed out|unreachable)"
        r"|could not (?:connect|reach|be reached)|can(?:not|.t) (?:connect to|reach|be reached)"
        r"|(?:database|server|backend|upstream)\b.{0,30}\b(?:down|unavailable|locked|unreachable"
        r"|not respond|not answer)|overload|certificate|proxy error|quota (?:is )?exceeded"
        r"|licen[cs]e (?:has )?expired|name (?:could )?not (?:be )?resolved"
        r"|\bERR_[A-Z_]+|\bNS_ERROR\w+|try again (?:later|in a)|\b(?:429|502|503|504|507)\b",
    ),
    (
        "broken",
        r"internal server error|(?:something|that) went wrong|unexpected error|unhandled"
        r"|\bexception\b|traceback|stack ?trace|\b500\b|undefined|\bNaN\b|\[object Object\]"
        r"|not implemented|assertion",
    ),
    (
        "refused",
        r"\b(?:in)?valid\b|required|must (?:be|have|not|contain)|already (?:exists|taken|used"
        r"|booked|there)|we know no|unknown|no such|does not exist|not (?:a|an) |has passed"
        r"|in the past|out of range|too (?:long|short|many|few|large|small|early|late|high|low)"
        r"|^(?:please )?"
        r"(?:choose|enter|tell us|fill|select|give)\b|not allowed|can ?not be|cannot|can.t be"
        r"|not right|incorrect|wrong (?:password|name|user)|holds? \d+ to|at (?:most|least)"
        r"|between .+ and|is closed|not accepted|refused|declined|not available|sold out"
        r"|has no name|is missing|no match|nothing found|is fired at",
    ),
    (
        "busy",
        r"^(?:loading|please wait|working|saving|one moment|just a moment)|\bloading\b.{0,3}$",
    ),
)
_PATTERNS = tuple((kind, re.compile(words, re.IGNORECASE)) for kind, words in _SAYINGS)


def saying(text: str) -> Saying | None:
    """Return what kind of words a text of a page is, None for any other."""
    return next((kind for kind, pattern in _PATTERNS if pattern.search(text)), None)


def first(texts: Iterable[str], kind: Saying) -> str:
    """Return the first text of a kind, "" for none."""
    return next((text for text in texts if saying(text) == kind), "")


_STATUS = re.compile(r"^(\d{3})\b|\b(?:status|answered(?: with)?(?: the error)?) (\d{3})\b")


def status_of(text: str) -> int:
    """Return the HTTP status that a line about a request or a page names, 0 for none."""
    match = _STATUS.search(text)
    return int(match[1] or match[2]) if match else 0
