"""The reasons why an element is not found or can not be used; each is one entry in REASONS."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from urllib.parse import urlsplit

from lantern.core.elements.clues import POSITION, Clue, Element, loosened, matching
from lantern.core.elements.facts import Facts, tidy
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.repair import (
    Proposal,
    contradicts,
    explained,
    found_by,
    propose,
    repaired,
)
from lantern.core.elements.suggesting import suggest
from lantern.core.searching.looked import Answer, Cause, Looked
from lantern.core.steps.actions.navigating import title_pattern
from lantern.core.steps.model import LIMIT_RANGE

MOST = 8
"""Answers that are told."""
WORTH = 0.05
"""Share below which an answer is not told."""
_DIGITS = re.compile(r"\d+")
_ERROR = re.compile(
    r"\b(?:4[01][0-9]|50[0-9]|not found|error|went wrong|unavailable|forbidden|denied)\b",
    re.IGNORECASE,
)
_CLOSES = re.compile(
    r"close|dismiss|got it|understood|ok(?:ay)?|accept|agree|no,? thanks|not now|later|skip|hide"
    r"|continue|×|✕|✖|x",
    re.IGNORECASE,
)
_PRESSABLE = ("button", "link")


def answers(looked: Looked) -> list[Answer]:
    """Return why the element was not found or could not be used, the likeliest reason first."""
    found = [answer for reason in REASONS for answer in reason(looked)]
    best: dict[tuple[str, tuple[int, ...]], Answer] = {}
    for one in sorted(found, key=lambda answer: -answer.share):
        shown = tuple(facts.handle for facts in one.nodes)
        best.setdefault((one.cause, shown), one)
    return [one for one in best.values() if one.share >= WORTH][:MOST]


def said(facts: Facts) -> str:
    """Return what people would call a node."""
    return tidy(facts.name or facts.label or facts.text or facts.tag)[:80]


def _dialog(looked: Looked) -> Iterator[Answer]:
    if looked.dialog is not None:
        told = f"The page asks “{looked.dialog}” and waits for an answer."
        label = "Answer it with OK before this sentence"
        yield Answer("dialog", told, 0.99, (), "answer dialog", label, {"answer": "OK"})


def _later(looked: Looked) -> Iterator[Answer]:
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


def _unready(looked: Looked) -> Iterator[Answer]:
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


def learned(target: Facts, nodes: Sequence[Facts], title: str) -> Element:
    """Return an element, without an id, for a node of a page."""
    suggestion = suggest(target, nodes)
    return Element(
        "",
        said(target)[:60],
        kind_of(target),
        suggestion.clues,
        suggestion.spare,
        title_pattern(title),
        target,
        suggestion.lookalikes,
    )


def _several(looked: Looked) -> Iterator[Answer]:
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
        _mended(looked, right),
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


def _another(looked: Looked) -> Iterator[Answer]:
    if len(looked.found) != 1 or looked.is_it:
        return
    one = looked.found[0]
    why = contradicts(looked.element, one) or "it looks like another thing"
    yield Answer("another", f"Its clues lead to “{said(one)}”, but {why}.", 0.5, (one,))


# -- the page itself -----------------------------------------------------------------------------


def _page(looked: Looked) -> Iterator[Answer]:
    if looked.is_it or len(looked.found) > 1 or looked.dialog is not None:
        return
    other = _other_title(looked)
    wanted = looked.wanted_title or "another page"
    doubt = 1.0 - 0.7 * max((one.score for one in looked.proposals), default=0.0)
    passwords = [facts for facts in looked.nodes if _asks_password(facts)]
    knew = _knew_password(looked)
    if passwords and (other or not knew):
        told = f"The stage shows a sign-in page (“{looked.title}”) instead of “{wanted}”."
        flow = looked.flow_that_signs_in
        act = ("sign in", "Sign in again before this sentence", {"flow": flow}) if flow else ()
        share = (0.85 if knew else 0.97 if other else 0.7) * doubt
        yield Answer("sign in", told, share, tuple(passwords[:1]), *act)
    error = _error_in(looked)
    if error and other:
        told = f"The stage shows an error page: “{error}”."
        yield Answer("error page", told, 0.96 * doubt)
    if other:
        told = f"The stage shows “{looked.title or 'nothing'}”; the sentence belongs to “{wanted}”."
        yield Answer("other page", told, 0.8 * doubt)
    elif looked.wanted_address and path_of(looked.wanted_address) != path_of(looked.address):
        told = (
            f"The stage is at {path_of(looked.address)}; the sentence was played at "
            f"{path_of(looked.wanted_address)}."
        )
        yield Answer("other page", told, 0.45 * doubt)


def _other_title(looked: Looked) -> bool:
    wanted = looked.wanted_title
    return bool(wanted) and title_pattern(wanted) != title_pattern(looked.title)


def _asks_password(facts: Facts) -> bool:
    return facts.visible and facts.attributes.get("type") == "password"


def _knew_password(looked: Looked) -> bool:
    """Tell whether the page that is wanted asks for a password itself."""
    seen = looked.element.seen
    around = [*looked.green, *looked.element.lookalikes, *([seen] if seen else [])]
    return any(_asks_password(facts) for facts in around)


def _error_in(looked: Looked) -> str:
    if _ERROR.search(looked.title):
        return looked.title
    heads = [
        facts for facts in looked.nodes if facts.role == "heading" or facts.tag in ("h1", "h2")
    ]
    return next((said(facts) for facts in heads[:3] if _ERROR.search(said(facts))), "")


def path_of(address: str) -> str:
    """Return the part of an address that says which page it is; numbers in it differ by record."""
    parts = [("#" if one.isdigit() else one) for one in urlsplit(address).path.split("/")]
    return "/".join(parts).rstrip("/") or "/"


def _windows(looked: Looked) -> Iterator[Answer]:
    if looked.is_it:
        return
    for other in looked.windows:
        found = [one for one in found_by(looked.element, other.nodes) if one.visible]
        if len(found) == 1 and explained(looked.element, found[0], other.nodes):
            told = f"It is in another window: “{other.title}”."
            window = title_pattern(other.title)
            label = f"Go to the window “{other.title}” before this sentence"
            yield Answer("other window", told, 0.97, (), "go to window", label, {"window": window})


# -- its clues -------------------------------------------------------------------------------------


def _likeness(looked: Looked) -> Iterator[Answer]:
    """Tell of what is like it, and which of its clues differ there."""
    if looked.is_it or len(looked.found) > 1:
        return
    for proposal in looked.proposals:
        cause = cause_of(looked.element, proposal.facts)
        if cause is None:
            continue
        told = f"It is likely “{said(proposal.facts)}”: {_differing(looked.element, proposal)}."
        shown = "" if proposal.facts.visible else " It is not shown."
        frame = _frames(looked.element, proposal.facts)
        yield Answer(
            cause,
            told + frame + shown,
            proposal.score,
            (proposal.facts,),
            "use clues",
            f"Use the clues of “{said(proposal.facts)}”",
            _mended(looked, proposal.facts),
        )


def cause_of(element: Element, facts: Facts) -> Cause | None:
    """Return in what a node differs from what the clues say; None for in nothing."""
    failing = [clue for clue in element.clues if clue.fact != POSITION and not clue.holds(facts)]
    if not failing:
        return "kind" if kind_of(facts) != element.kind else None
    ways = {_way(clue, _now(clue, facts)) for clue in failing}
    if ways == {"case"}:
        return "case"
    return "number" if ways <= {"case", "number"} else "clue"


def _now(clue: Clue, facts: Facts) -> str:
    found = facts.get(clue.fact)
    return " ".join(found) if isinstance(found, tuple) else found


def _way(clue: Clue, now: str) -> Cause:
    if now and loosened(now) == loosened(clue.value):
        return "case"
    if now and _DIGITS.sub("#", loosened(now)) == _DIGITS.sub("#", loosened(clue.value)):
        return "number"
    return "clue"


def _differing(element: Element, proposal: Proposal) -> str:
    told = [
        f"{clue.sentence()}, here “{_now(clue, proposal.facts)}”"
        for clue in element.clues
        if clue.fact != POSITION and not clue.holds(proposal.facts)
    ]
    if kind_of(proposal.facts) != element.kind:
        told.append(f"it was a {element.kind} and is a {kind_of(proposal.facts)}")
    return f"{'; '.join(told)} ({proposal.score:.0%} likely)"


def _frames(element: Element, facts: Facts) -> str:
    if element.seen is not None and element.seen.frames != facts.frames and facts.frames:
        return f" It is in the frame “{facts.frames[-1]}” now."
    return ""


def _hidden(looked: Looked) -> Iterator[Answer]:
    """Tell of what is likely it, but not shown: a hidden thing may have lost its name with that."""
    if looked.found:
        return
    for one in looked.hidden[:1]:
        told = f"“{said(one.facts)}” is on the page, but not shown."
        yield Answer("hidden", told, min(one.score, 0.92), (one.facts,))


def _left_out(looked: Looked) -> Iterator[Answer]:
    """Try each clue left out, each looser, and the spare ones instead."""
    if looked.found:
        return
    element = looked.element
    for told, clues in _variants(element):
        found = [one for one in matching(element.kind, clues, looked.nodes) if one.visible]
        if len(found) != 1:
            continue
        likely = propose(element, found, most=1)
        share = min(0.4, likely[0].score) if likely else 0.1
        yield Answer(
            cause_of(element, found[0]) or "clue",
            f"{told} one thing is found: “{said(found[0])}”.",
            share,
            (found[0],),
            "use clues",
            f"Use the clues of “{said(found[0])}”",
            _mended(looked, found[0]),
        )


def _variants(element: Element) -> Iterator[tuple[str, tuple[Clue, ...]]]:
    for place, clue in enumerate(element.clues):
        rest = (*element.clues[:place], *element.clues[place + 1 :])
        if rest:
            yield f"Without “{clue.sentence()}”", rest
        if clue.fact == POSITION:
            continue
        for how, looser in _looser(clue):
            yield f"With {how}", (*element.clues[:place], looser, *element.clues[place + 1 :])
    alone = element.clues if len(element.clues) > 1 else ()
    for clue in (*alone, *element.spare):
        if clue.fact != POSITION:
            yield f"With “{clue.sentence()}” alone", (clue,)


def _looser(clue: Clue) -> Iterator[tuple[str, Clue]]:
    if not clue.loose:
        yield f"“{clue.sentence()}” whatever its case and spaces", replace(clue, loose=True)
    if clue.operator == "is":
        contains = replace(clue, operator="contains")
        yield f"“{contains.sentence()}”", contains
        if _DIGITS.search(clue.value):
            pattern = r"\d+".join(map(re.escape, _DIGITS.split(clue.value)))
            open_number = replace(clue, operator="matches", value=pattern)
            yield f"any number in “{clue.sentence()}”", open_number


def _mended(looked: Looked, facts: Facts) -> dict[str, object]:
    return {"element": repaired(looked.element, facts, looked.nodes).as_json()}


# -- words, and nothing at all ---------------------------------------------------------------------


def _words(looked: Looked) -> Iterator[Answer]:
    """Tell of its words where they stand in something of another kind."""
    if looked.is_it or looked.found:
        return
    for text in _texts(looked.element):
        where = [
            facts
            for facts in looked.nodes
            if facts.visible
            and kind_of(facts) != looked.element.kind
            and loosened(text) in loosened(facts.own or facts.text)
        ]
        if where:
            told = f"Its words “{text}” are on the page, as {kind_of(where[-1]) or 'text'}."
            yield Answer("text", told, 0.12, (where[-1],))
            return


def _texts(element: Element) -> list[str]:
    seen = element.seen
    known = [seen.name, seen.own, seen.text] if seen else []
    known += [clue.value for clue in element.clues if clue.fact in ("name", "text", "label")]
    return [text for text in dict.fromkeys(map(tidy, known)) if 3 <= len(text) <= 80]


def _gone(looked: Looked) -> Iterator[Answer]:
    if looked.found or looked.dialog is not None or looked.after is not None:
        return
    right_page = not _other_title(looked)
    best = max((one.score for one in (*looked.proposals, *looked.hidden)), default=0.0)
    before = [one for one in found_by(looked.element, looked.green) if one.visible]
    share = (1.0 - best) * (0.9 if right_page else 0.2)
    watched = f" It did not come within {looked.watched:.0f} s more." if looked.watched >= 1 else ""
    told = f"Nothing on the page is it.{watched}"
    if before:
        told = f"It was there in run {looked.green_run}, which passed, and is gone.{watched}"
    yield Answer(
        "gone", told, share, tuple(before[:1]), "raise defect", "It is gone: raise a defect"
    )


Reason = Callable[[Looked], Iterator[Answer]]
REASONS: tuple[Reason, ...] = (
    _dialog,
    _later,
    _unready,
    _several,
    _another,
    _page,
    _windows,
    _likeness,
    _hidden,
    _left_out,
    _words,
    _gone,
)
"""Every reason that is looked for."""
