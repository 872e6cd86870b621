"""Why an element was not found or could not be used, and whose fault that is."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lantern.core.elements.facts import Facts, numbers_open
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.repair import found_by
from lantern.core.engine.finding import MISSED, unready_in
from lantern.core.review.case import Case, Line
from lantern.core.review.verdicts import Sign
from lantern.core.review.words import first, saying
from lantern.core.searching.naming import said
from lantern.core.searching.pages import path_of

LIKE = frozenset({"case", "number", "clue", "kind", "text"})
"""Answers of the search that find the element in another shape."""
ENOUGH = 0.4
REDESIGNED = 0.35
"""Share of the things of a page from which on it counts as made anew."""
MANY = 8
"""Things on a page from which on it is worth telling that most are not there."""
DRAWN = 0.34
"""New things for each that is gone, under which a page is rather empty than made anew."""


def not_found(case: Case) -> Iterator[Sign]:
    """What the search for the element says: it is another now, on another page, or gone."""
    if case.reason not in ("not found", "found several") or not case.answers:
        return
    best = case.answers[0]
    if case.changes.element and case.reason == "not found":
        yield Sign("test", 3.2, "Its clues were changed since it passed.", "accept repair")
    elif case.trouble:
        return  # the page says itself what is the matter
    elif best.cause in LIKE and best.share >= ENOUGH:
        weight = 1.2 + 2.4 * best.share
        yield Sign("test", weight, f"It is there in another shape. {best.told}", "accept repair")
    elif best.cause == "sign in":
        yield from _sign_in(case, best.told)
    elif best.cause == "dialog":
        yield Sign("test", 1.6, f"{best.told} When it passed nothing was asked.")
    elif best.cause in ("error page", "other page"):
        yield from _other_page(case, best.told)
    elif best.cause == "other window":
        yield Sign("test", 1.5, best.told)
    elif best.cause == "hidden":
        yield Sign("product", 1.4, best.told)
    elif best.cause in ("gone", *LIKE) and not list(page_changed(case)):
        weight = 2.2 if case.nodes_then else 1.0
        yield Sign("product", weight * max(best.share, 0.4), best.told)


def _sign_in(case: Case, told: str) -> Iterator[Sign]:
    """A page that asks for a password where another one belongs."""
    asked = [line for line in case.before if "secret." in " ".join(line.given.values())]
    refusal = first(case.said, "refused")
    if not asked:
        yield Sign("test", 1.5, f"{told} The test never signs in.")
    elif refusal:
        weight = 3.0 if case.changes.variables or not case.green else 1.2
        yield Sign("data", weight, f"The sign-in was refused: “{refusal}”.", "edit value")
    elif any(line.title and line.title != asked[-1].title for line in _after(case, asked[-1].step)):
        yield Sign("environment", 4.2, f"{told} It was signed in before: the sign-in ran out.")
    else:
        if case.late.get("pending"):
            return  # it is still signing in
        led = f"{told} The sign-in itself led nowhere: its name or password may be wrong."
        yield Sign("data", 2.9, led, "edit value")
        yield Sign("environment", 0.6, "")


def _after(case: Case, step: str) -> list[Line]:
    steps = [line.step for line in case.before]
    return list(case.before[steps.index(step) + 1 :])


def _other_page(case: Case, told: str) -> Iterator[Sign]:
    if case.changes.before or case.changes.sentence:
        yield Sign("test", 2.2, f"{told} The test was changed since it passed.")
    elif any(saying(text) for text in case.said):
        yield Sign("product", 0.3, told)  # what the page says weighs more
    elif case.late.get("pending"):
        yield Sign("timing", 1.0, told)
    elif _same_place(case):
        yield Sign("test", 2.0, f"{told} It is at the same address: its title is another now.")
    else:
        yield Sign("product", 1.2, told)


def _same_place(case: Case) -> bool:
    looked = case.looked
    if looked is None or not looked.wanted_address:
        return False
    return path_of(looked.wanted_address) == path_of(looked.address)


def page_changed(case: Case) -> Iterator[Sign]:
    """How much of the page is other than when it passed: made anew, empty, or this thing alone."""
    if case.reason != "not found" or not case.nodes_then or not case.looked:
        return
    if case.changes.element or case.trouble:
        return
    if case.answers and case.answers[0].cause in ("sign in", "error page", "dialog"):
        return
    then, now = _shapes(case.nodes_then), _shapes(case.nodes)
    gone, new = then - now, now - then
    kinds = _of_kind(case, case.nodes)
    fresh = [one for one in kinds if _shape(one) in new]
    many = len(gone) >= 3 and len(gone) > REDESIGNED * len(then)
    if gone and len(new) < max(DRAWN * len(gone), 1) and (many or _bare(case)):
        told = "Most of what was on the page is not there, and hardly anything is new:"
        yield Sign("product", 1.8, f"{told} it was not drawn, or not yet.")
        yield Sign("timing", 0.8, "")
    elif many:
        told = f"{len(gone)} of {len(then)} things on the page are others than when it passed."
        yield Sign("test", 2.4, f"{told} The page was made anew.", "accept repair")
    elif fresh and len(kinds) == len(_of_kind(case, case.nodes_then)):
        told = f"As many things of its kind are there as before, and “{said(fresh[0])}” is new."
        yield Sign("test", 2.6, told, "accept repair")
    elif not new and case.changes.sentence:
        yield Sign("test", 2.2, "It is not there where the changed sentence looks for it.")
        yield Sign("product", 0.6, "")
    elif not new:
        told = "It is gone, and nothing else on the page changed."
        yield Sign("product", 2.8, told)


def _shape(facts: Facts) -> tuple[str, ...]:
    return facts.tag, facts.role, numbers_open(facts.name or facts.own), facts.label


def _shapes(nodes: Sequence[Facts]) -> set[tuple[str, ...]]:
    return {_shape(one) for one in nodes if one.visible and (one.name or one.label)}


def _bare(case: Case) -> bool:
    """Whether much less is there than when it passed, many of one shape counted one by one."""
    then, now = (sum(one.visible for one in nodes) for nodes in (case.nodes_then, case.nodes))
    return then >= MANY and now < then / 2


def _of_kind(case: Case, nodes: Sequence[Facts]) -> list[Facts]:
    kind = case.looked.element.kind if case.looked else ""
    return [one for one in nodes if one.visible and kind_of(one) == kind]


def several(case: Case) -> Iterator[Sign]:
    """More than one thing fits its clues."""
    if case.reason != "found several":
        return
    then = found_by(case.looked.element, case.nodes_then) if case.looked else []
    now = found_by(case.looked.element, case.nodes) if case.looked else []
    if case.changes.element:
        yield Sign("test", 2.0, "Its clues were made wider since it passed.", "accept repair")
    elif case.looked and len(then) == 1 and len({one.text for one in now}) < len(now):
        told = "The same thing is there more than once; it was there once when it passed."
        yield Sign("product", 1.8, told)
        yield Sign("test", 1.0, "", "accept repair")
    else:
        yield Sign("test", 2.2, "Its clues do not tell these apart.", "accept repair")


def not_ready(case: Case) -> Iterator[Sign]:
    """It is there, but something keeps input away from it."""
    if case.reason != "not ready":
        return
    message, state = case.message, unready_in(case.message)
    busy = any(saying(word) == "busy" for word in (*case.said, message))
    if state == "moving":
        yield Sign("timing", 2.4, "It did not come to rest within the limit.")
    elif MISSED in message:
        yield Sign("timing", 2.2, message)
    elif state == "covered":
        if busy:
            yield Sign("timing", 2.6, f"What covers it says that it is busy: {message}")
        else:
            yield Sign("test", 1.7, f"Something lies over it that was not there: {message}")
            yield Sign("product", 0.9, "")
    elif state in ("disabled", "hidden"):
        yield Sign("product", 1.6, f"It stayed {state}; when it passed it could be used.")
    elif "The page asks" in message:
        yield Sign("test", 2.0, message)
    elif "went away" in message:
        yield Sign("timing", 1.6, "The page was replaced while the sentence was carried out.")
