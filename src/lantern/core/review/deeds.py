"""What people call a sentence, held against what it really did."""

from __future__ import annotations

import re
from collections.abc import Sequence

from lantern.core.steps.titles import same

_HOW = frozenset(
    "press click tap push hit choose select pick fill enter type write put set go look check verify"
    " make sure wait until confirm that see test do use with the and for from into onto its this"
    " then there here all any now new first last next again into button link field box list menu"
    " page item row value text name step sentence please should must will can not our your".split()
)
"""Words that say how something is done, or nothing; they name no thing."""
_MAKES = frozenset(
    "accept add apply approve assign book buy complete confirm create open order pay publish"
    " release reopen restore save send share sign start submit subscribe unlock upload".split()
)
_ENDS = frozenset(
    "archive cancel clear close decline delete deny discard dismiss finish hide leave logout reject"
    " remove reset stop undo unsubscribe withdraw".split()
)
_DEEDS = (
    _MAKES
    | _ENDS
    | frozenset(
        "download edit export import login print put rename replace return show update".split()
    )
)
"""Verbs of what pages offer: a title with one of them says what is to be done. With the same thing
named, only one that makes and one that ends contradict each other."""
_WORD = re.compile(r"[^\W\d_]{3,}")
_ENDINGS = ("ations", "ation", "ings", "ing", "ments", "ment", "ies", "ed", "es", "s", "e", "y")


def _stem(word: str) -> str:
    for ending in _ENDINGS:
        if word.endswith(ending) and len(word) - len(ending) >= 3:
            return word[: -len(ending)]
    return word


_HOW_STEMS = frozenset(map(_stem, _HOW)) - frozenset(map(_stem, _DEEDS))
_DEED_STEMS = frozenset(map(_stem, _DEEDS))


def _meant(text: str) -> set[str]:
    """Return the stems of the words of a text that name something."""
    return {_stem(word) for word in _WORD.findall(text.casefold())} - _HOW_STEMS


def contradiction(said: str, did: str, around: Sequence[str] = ()) -> str:
    """Tell in words that what people call a sentence is not what it did, "" when it may well be.

    `said` is a title, a comment or the name of an element; `did` what the thing that was acted on
    is called; `around` what else belongs to it: its row, section, page, the values given. Only
    what says that something else is done contradicts: a title may speak of a reason.
    """
    words, done = _meant(said), _meant(did)
    if not words & _DEED_STEMS or not done:
        return ""
    told = f"It says “{said}”, but what it acted on is “{did}”."
    if any(same(one, other) for one in words for other in done):
        return told if _opposed(words - done, done - words) else ""
    known = set().union(*map(_meant, around))
    return "" if any(same(one, other) for one in words for other in known) else told


def _opposed(mine: set[str], its: set[str]) -> bool:
    """Tell of two things that are done to the same: *cancel the booking*, *confirm booking*."""
    makes, ends = frozenset(map(_stem, _MAKES)), frozenset(map(_stem, _ENDS))
    return bool((mine & makes and its & ends) or (mine & ends and its & makes))
