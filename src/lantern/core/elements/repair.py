"""Proposals: which node of a page is likely the one that an element's clues do not find."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from rapidfuzz import fuzz

from lantern.core.elements.clues import POSITION, Element, loosened, matching
from lantern.core.elements.facts import ATTRIBUTE_OF, CELL, OWN_FACTS, Facts
from lantern.core.elements.generated import how_made
from lantern.core.elements.kinds import KIN, kind_of
from lantern.core.elements.likeness import GROUPS, Evidence, Page, evidence, total
from lantern.core.elements.suggesting import Suggestion, suggest

HIGH = 0.8
"""From this score on a proposal is likely right; below it a person has to look closely."""
GONE = 0.35
"""How likely it is, before anything is seen, that the thing is no longer on the page."""
SHOWN = 0.02
"""Lowest score of a proposal that is worth showing."""
DAMP = 0.75
"""Features lean on each other, so that their sum says too much; it is taken by this share."""


@dataclass(frozen=True)
class Proposal:
    """A node that may be the element: `score` from 0 to 1, what agrees and what differs."""

    facts: Facts
    score: float
    agrees: tuple[str, ...]
    differs: tuple[str, ...]

    @property
    def high(self) -> bool:
        """Whether it is likely right."""
        return self.score >= HIGH


def remembered(element: Element) -> Facts:
    """Return what is known of the element's node: as it was seen, or what its clues say."""
    if element.seen is not None:
        return element.seen
    known: dict[str, str] = {}
    for clue in (*element.spare, *element.clues):
        if clue.operator == "is" and clue.fact != POSITION:
            known[clue.fact] = clue.value
    raw: dict[str, object] = {key: known.pop(key) for key in OWN_FACTS & known.keys()}
    if "row" in raw:
        raw["row"] = [raw["row"]]
    raw["attributes"] = {ATTRIBUTE_OF.get(key, key): value for key, value in known.items()}
    return Facts.read(raw)


def propose(element: Element, nodes: Sequence[Facts], *, most: int = 5) -> list[Proposal]:
    """Return the likeliest nodes for an element, best first, at most `most`.

    `nodes` are the facts of all that the page shows. The score is the probability that the node
    is the element, given that one of the nodes is it, or none. A node that is better explained
    by one of the element's lookalikes loses accordingly.
    """
    old = remembered(element)
    shown = [facts for facts in nodes if facts.visible] or list(nodes)
    page = Page(shown)
    scored = sorted(((_score(old, facts, page), n) for n, facts in enumerate(shown)), reverse=True)
    top = scored[0][0] if scored else 0.0
    base = math.log(GONE / (1 - GONE)) + math.log(max(len(shown), 1))
    highest = max(top, base)
    sum_of_all = sum(math.exp(score - highest) for score, _ in scored)
    sum_of_all += math.exp(base - highest)
    found = []
    for score, n in scored[:most]:
        share = math.exp(score - highest) / sum_of_all
        share *= _against_lookalikes(element, score, shown[n], page)
        share *= _certainty(old, shown[n], page)
        if share >= SHOWN:
            found.append(_proposal(old, shown[n], share, page))
    return sorted(found, key=lambda one: -one.score)


def _score(old: Facts, facts: Facts, page: Page) -> float:
    return total(evidence(old, facts, page)) * DAMP


def _against_lookalikes(element: Element, own: float, facts: Facts, page: Page) -> float:
    """Return the share (0 to 1) that is left to the element beside its best lookalike."""
    if not element.lookalikes:
        return 1.0
    rival = max(_score(other, facts, page) for other in element.lookalikes)
    return 1.0 / (1.0 + math.exp(max(min(rival - own, 30.0), -30.0)))


_TELLING = frozenset(("mark", "words", "target", "row", "column", "options"))


def _certainty(old: Facts, facts: Facts, page: Page) -> float:
    """Return 1, or less when nothing that tells this thing from others agrees.

    Place, look and form alone never make a proposal certain: whatever took the place of a thing
    that is gone looks just like it.
    """
    pieces = [one for one in evidence(old, facts, page) if GROUPS[one.feature] in _TELLING]
    if not pieces:
        return 0.75
    best = max(piece.weight for piece in pieces)
    worst = min(piece.weight for piece in pieces)
    if best < 0.5:
        return 0.7
    if any(one.feature == "column" and one.weight < 0 for one in pieces):
        return 0.6  # another cell of the same row has all the row in common
    return 0.75 if best + worst < 0.0 else 1.0


_DULL = frozenset(("path", "size", "class"))
"""Features that count, but say nothing to people."""


def _proposal(old: Facts, facts: Facts, score: float, page: Page) -> Proposal:
    pieces = sorted(
        (piece for piece in evidence(old, facts, page) if piece.feature not in _DULL),
        key=lambda piece: -abs(piece.weight),
    )
    return Proposal(
        facts,
        round(min(score, 0.999), 3),
        tuple(_words(piece) for piece in pieces if piece.weight > 0.2 and piece.before)[:6],
        tuple(_words(piece) for piece in pieces if piece.weight < -0.2)[:6],
    )


def _words(piece: Evidence) -> str:
    if piece.before == piece.now:
        return f"{piece.feature} “{piece.now}”"
    now = f"“{piece.now}”" if piece.now else "missing"
    return f"{piece.feature} was “{piece.before}”, is {now}"


def repaired(element: Element, facts: Facts, rivals: Sequence[Facts]) -> Element:
    """Return the element with clues for the node that it is now; its id and name stay."""
    suggestion: Suggestion = suggest(facts, rivals)
    return replace(
        element,
        kind=kind_of(facts),
        clues=suggestion.clues,
        spare=suggestion.spare,
        seen=facts,
        lookalikes=suggestion.lookalikes,
    )


def explained(element: Element, facts: Facts, nodes: Sequence[Facts]) -> bool:
    """Tell whether a node that satisfies the clues really is the element, as far as can be seen.

    False when something that is known not to be it explains the node clearly better.
    """
    if element.seen is None:
        return True
    page = Page(nodes)
    own = total(evidence(element.seen, facts, page))
    rivals = [total(evidence(other, facts, page)) for other in element.lookalikes]
    return own > -4.0 and own >= max(rivals, default=-99.0) - 1.0


KIN_SURE = 3.0
"""From this evidence on (natural logarithm) a thing of another kind is taken for the element."""


def found_by(element: Element, nodes: Sequence[Facts]) -> list[Facts]:
    """Return the nodes that an element means: of its kind, or the one that it plainly became.

    A link that became a button with the same words is still it; its kind is evidence like all
    else, but alone it must not lead to another thing of those words.
    """
    found = element.among(nodes)
    kin = KIN.get(element.kind, ())
    if found or not kin or element.seen is None:
        return found
    others = [
        facts for kind in kin for facts in matching(kind, element.clues, nodes) if facts.visible
    ]
    if len(others) != 1:
        return []
    page = Page(nodes)
    # That it is of another kind is known; what else there is has to speak for it.
    pieces = [
        one for one in evidence(element.seen, others[0], page) if GROUPS[one.feature] != "form"
    ]
    return others if total(pieces) >= KIN_SURE and explained(element, others[0], nodes) else []


_MARKS = ("id", "field name", "test id")


def contradicts(element: Element, facts: Facts) -> str:
    """Tell in words why a node that satisfies the clues is another one by what it was; or "".

    A field, an id or a name with a running number belongs to whatever is in that place today. What
    the row of the thing was called, or its label, then and now, decides.
    """
    seen = element.seen
    if seen is None:
        return ""
    by_number = [
        clue
        for clue in element.clues
        if clue.fact == POSITION
        or (clue.fact in _MARKS and clue.operator == "is" and how_made(clue.value) == "counted")
    ]
    if not by_number or any(
        clue.fact == "row" or clue.fact.startswith(CELL) for clue in element.clues
    ):
        return ""
    then, now = _called(seen.row), _called(facts.row)
    if then and now and then not in facts.row:
        return (
            f"What is at “{by_number[0].value}” now is in the row of “{now}”; it was in that of "
            f"“{then}”."
        )
    if seen.label and facts.label and not _alike(seen.label, facts.label):
        return f"What is at “{by_number[0].value}” now is “{facts.label}”; it was “{seen.label}”."
    return ""


def _called(row: Sequence[str]) -> str:
    """Return what people would call a row: its first words, before dates and numbers."""
    return next((cell for cell in row if any(map(str.isalpha, cell))), "")


def _alike(one: str, other: str) -> bool:
    return fuzz.ratio(loosened(one), loosened(other)) >= ALIKE


ALIKE = 60
"""From this share of equal letters (percent) on two labels may be one reworded."""
_WEAK = frozenset(("path", "src", "type", "tag", "role", "class", "section", "after", POSITION))
"""Facts that any other node can come to hold when a page is rearranged."""


def is_weak(element: Element) -> bool:
    """Tell whether nothing but weak clues says what an element is; see `doubted`."""
    return all(clue.fact in _WEAK for clue in element.clues)


def doubted(element: Element, facts: Facts, nodes: Sequence[Facts]) -> bool:
    """Tell whether what weak clues alone lead to looks like another thing; it must not be used."""
    return is_weak(element) and not explained(element, facts, nodes)


@dataclass(frozen=True)
class Verdict:
    """What an element's clues find: the word, and the nodes."""

    word: str
    found: tuple[Facts, ...]


HIDDEN = "is there, but not shown"
"""What is not shown is not found: a closed calendar's button is none that anybody can press."""
FINDS, FINDS_MANY, FINDS_ANOTHER, FINDS_NOTHING = (
    "finds it",
    "finds several",
    "finds another one",
    "finds nothing",
)


def verdict(element: Element, nodes: Sequence[Facts], meant: int = 0) -> Verdict:
    """Tell what an element finds among the nodes of a page.

    With `meant`, the handle of the node that is meant, that one alone counts as "finds it";
    without, whatever does not look like another one does.
    """
    found = tuple(found_by(element, nodes))
    if not found:
        return Verdict(FINDS_NOTHING, ())
    if len(found) > 1:
        return Verdict(FINDS_MANY, found)
    if not found[0].visible and not meant:
        return Verdict(HIDDEN, found)
    if contradicts(element, found[0]) and found[0].handle != meant:
        return Verdict(FINDS_ANOTHER, found)
    right = found[0].handle == meant if meant else explained(element, found[0], nodes)
    return Verdict(FINDS if right else FINDS_ANOTHER, found)
