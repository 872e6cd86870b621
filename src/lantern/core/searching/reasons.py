"""Why an element is not found or can not be used: every reason that is looked for."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from lantern.core.searching import differing, found, pages
from lantern.core.searching.looked import Answer, Looked

MOST = 8
"""Answers that are told."""
WORTH = 0.05
"""Share below which an answer is not told."""

Reason = Callable[[Looked], Iterator[Answer]]
REASONS: tuple[Reason, ...] = (
    pages.asks,
    found.comes_later,
    found.not_ready,
    found.several,
    found.another,
    pages.wrong_page,
    pages.other_window,
    differing.is_like,
    differing.hidden,
    differing.left_out,
    differing.only_words,
    differing.gone,
)


def answers(looked: Looked) -> list[Answer]:
    """Return why the element was not found or could not be used, the likeliest reason first."""
    told = [answer for reason in REASONS for answer in reason(looked)]
    best: dict[tuple[str, tuple[int, ...]], Answer] = {}
    for one in sorted(told, key=lambda answer: -answer.share):
        shown = tuple(facts.handle for facts in one.nodes)
        best.setdefault((one.cause, shown), one)
    return [one for one in best.values() if one.share >= WORTH][:MOST]
