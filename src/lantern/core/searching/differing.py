"""Why nothing fits an element's clues: it is another now, it is not shown, or it is gone."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace

from lantern.core.elements.clues import POSITION, Clue, Element, loosened, matching
from lantern.core.elements.facts import Facts, tidy
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.repair import Proposal, found_by, propose
from lantern.core.searching.looked import Answer, Cause, Looked
from lantern.core.searching.naming import mended, said
from lantern.core.searching.pages import other_title

_DIGITS = re.compile(r"\d+")


def is_like(looked: Looked) -> Iterator[Answer]:
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
            mended(looked, proposal.facts),
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


def hidden(looked: Looked) -> Iterator[Answer]:
    """Tell of what is likely it, but not shown: a hidden thing may have lost its name with that."""
    if looked.found:
        return
    for one in looked.hidden[:1]:
        told = f"“{said(one.facts)}” is on the page, but not shown."
        yield Answer("hidden", told, min(one.score, 0.92), (one.facts,))


def left_out(looked: Looked) -> Iterator[Answer]:
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
            mended(looked, found[0]),
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


def only_words(looked: Looked) -> Iterator[Answer]:
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


def gone(looked: Looked) -> Iterator[Answer]:
    """Tell that nothing is it, and in which run it was there."""
    if looked.found or looked.dialog is not None or looked.after is not None:
        return
    right_page = not other_title(looked)
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
