"""Why an element can not be used although something fits its clues."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Sequence

from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.repair import contradicts, propose
from lantern.core.searching.looked import Answer, Looked
from lantern.core.searching.naming import learned, mended, said
from lantern.core.steps.model import LIMIT_RANGE

_CLOSES = re.compile(
    r"close|dismiss|got it|understood|ok(?:ay)?|accept|agree|no,? thanks|not now|later|skip|hide"
    r"|continue|×|✕|✖|x",
    re.IGNORECASE,
)
_PRESSABLE = ("button", "link")


def comes_later(looked: Looked) -> Iterator[Answer]:
    """Tell of what came, but only after its time limit."""
    if looked.after is None:
        return
    limit = higher(looked.limit, looked.after)
    told = (
        f"It came after {looked.after:.1f} s; the sentence waits {looked.limit:g} s."
        if looked.after > 0
        else f"It is there now: it came only after the {looked.limit:g} s that the sentence waits."
    )
    label = f"Raise the limit to {limit:g} s"
    yield Answer("later", told, 0.98, tuple(looked.found), "raise limit", label, {"limit": limit})


def higher(limit: float, after: float) -> float:
    """Return a time limit that would have been enough, with room, in round seconds."""
    wanted = max(2 * limit, 1.5 * after)
    return min(float(math.ceil(wanted)), LIMIT_RANGE[1])


_UNREADY = {
    "hidden": ("hidden", "is on the page, but not shown."),
    "disabled": ("disabled", "is shown, but disabled: the page does not take input there."),
    "moving": ("moving", "does not stop moving."),
    "outside": ("outside", "lies outside of what can be scrolled to."),
}


def not_ready(looked: Looked) -> Iterator[Answer]:
    """Tell of what is there alone, but covered, disabled, hidden, moving or out of reach."""
    if not looked.is_it or looked.after is not None:
        return
    one = looked.found[0]
    problem = looked.aimed.problem if looked.aimed else "" if one.visible else "hidden"
    if problem == "covered":
        yield from _covered(looked, one)
    elif problem in _UNREADY:
        cause, words = _UNREADY[problem]
        watched = f" It stayed so for {looked.watched:.0f} s." if looked.watched >= 1 else ""
        yield Answer(cause, f"“{said(one)}” {words}{watched}", 0.95, (one,))  # type: ignore[arg-type]


def _covered(looked: Looked, one: Facts) -> Iterator[Answer]:
    by = (looked.aimed.by if looked.aimed else "") or "something"
    told = f"“{said(one)}” is covered by {by}."
    closer = closer_of(looked.cover, looked.nodes)
    if closer is None:
        yield Answer("covered", told, 0.95, (one, *looked.cover[:1]))
        return
    yield Answer(
        "covered",
        f"{told} “{said(closer)}” in it may close it.",
        0.95,
        (one, closer),
        "close first",
        f"Press “{said(closer)}” first, if it appears",
        {"element": learned(closer, looked.nodes, looked.title).as_json()},
    )


def closer_of(cover: Sequence[Facts], nodes: Sequence[Facts]) -> Facts | None:
    """Return what would close the thing that lies over a place, None when nothing seems to.

    `cover` is what lies there, the innermost first: the first that has a button in it decides.
    """
    for around in cover:
        inside = [
            facts
            for facts in nodes
            if kind_of(facts) in _PRESSABLE
            and facts.visible
            and facts.enabled
            and _within(facts, around)
        ]
        named = [facts for facts in inside if _CLOSES.fullmatch(said(facts).strip("!. "))]
        named = named or [facts for facts in inside if _CLOSES.search(said(facts))]
        if named:
            return named[0]
        if len(inside) == 1:
            return inside[0]
    return None


def _within(facts: Facts, around: Facts) -> bool:
    x, y = facts.box.centre
    box = around.box
    return (
        facts.frame == around.frame
        and box.x <= x <= box.x + box.width
        and box.y <= y <= box.y + box.height
    )


def several(looked: Looked) -> Iterator[Answer]:
    """Tell of several that fit, and how to tell the likeliest apart."""
    if len(looked.found) < 2 or looked.after is not None:
        return
    listed = ", ".join(f"“{said(one)}”" for one in looked.found[:3])
    told = f"{len(looked.found)} things fit its clues: {listed}."
    right = _likeliest(looked)
    if right is None:
        yield Answer("several", told, 0.95, tuple(looked.found))
        return
    yield Answer(
        "several",
        told,
        0.95,
        (right, *(one for one in looked.found if one is not right)),
        "use clues",
        "Use clues that only the likeliest has",
        mended(looked, right),
    )


def _likeliest(looked: Looked) -> Facts | None:
    """Return the likeliest of several that fit; of equals the one that is where it was."""
    best = propose(looked.element, looked.found, most=len(looked.found))
    if not best:
        return None
    equal = [one.facts for one in best if one.score >= best[0].score - 0.02]
    seen = looked.element.seen
    if seen is None:
        return equal[0]
    x, y = seen.box.centre
    return min(
        equal,
        key=lambda one: (math.hypot(one.box.centre[0] - x, one.box.centre[1] - y), one.order),
    )


def another(looked: Looked) -> Iterator[Answer]:
    """Tell of what fits its clues, but is another thing."""
    if len(looked.found) != 1 or looked.is_it:
        return
    one = looked.found[0]
    why = contradicts(looked.element, one) or "it looks like another thing"
    yield Answer("another", f"Its clues lead to “{said(one)}”, but {why}.", 0.5, (one,))
