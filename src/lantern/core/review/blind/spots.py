"""Blind spots of a test: what of its pages may change unnoticed, and what to check."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from lantern.core.elements.facts import Box, Facts
from lantern.core.elements.suggesting import suggest
from lantern.core.review.blind.changes import Change, carried_out, changes, holder_of, words_of
from lantern.core.review.blind.sight import ROWS, Moment, Sentence, blind_checks, noticed
from lantern.core.review.blind.tree import Tree
from lantern.core.steps.properties import avoided
from lantern.core.values.templates import literal

MOST = 600
"""Most changes of one page that are tried, those that weigh most first."""
SHORTEST = 2
"""Fewest letters of a value of a row by which something on a page is known to follow it."""


ROWS_OF = frozenset({"row", "count", "order"})
"""Changes that are about whole rows."""


@dataclass(frozen=True)
class Seen:
    """A page of a test: its title, its moments in order, and the same moments in another row.

    `row` holds the values of the row that was played, by column.
    """

    title: str
    moments: tuple[Moment, ...]
    others: tuple[Moment | None, ...] = ()
    row: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Offer:
    """A check that would notice: of a property of a node of a saved page, after a sentence."""

    page: int
    node: int
    after: str
    property: str
    expected: str
    adds: float = 0.0


@dataclass(frozen=True)
class Spot:
    """Something of a page that may change, and the sentence that would notice; None for none."""

    page: str
    moment: Moment
    change: Change
    node: Facts
    by: Sentence | None
    offer: Offer | None = None

    @property
    def box(self) -> Box:
        """Where it is in the window: of a row, all of its cells."""
        if self.change.kind not in ROWS_OF:
            return self.node.box
        boxes = [
            self.moment.tree.by[one].box
            for one in self.moment.tree.rows[self.change.at]
            if self.moment.tree.by[one].visible
        ]
        x, y = min(one.x for one in boxes), min(one.y for one in boxes)
        right = max(one.x + one.width for one in boxes)
        return Box(x, y, right - x, max(one.y + one.height for one in boxes) - y)

    @property
    def blind(self) -> bool:
        """Whether no sentence would notice."""
        return self.by is None


@dataclass(frozen=True)
class Look:
    """All that may change on the pages of a test.

    `untried` are sentences that do not hold on the saved pages, so that nothing can be told of
    them; `never` why checks can never fail, by sentence; `left_out` how many changes were not
    tried.
    """

    spots: tuple[Spot, ...]
    never: Mapping[str, str]
    untried: tuple[Sentence, ...]
    left_out: int = 0

    @property
    def whole(self) -> float:
        """The weight of all that may change."""
        return sum(one.change.weight for one in self.spots)

    @property
    def seen(self) -> float:
        """The weight of what would be noticed."""
        return sum(one.change.weight for one in self.spots if not one.blind)

    @property
    def share(self) -> float | None:
        """The share that would be noticed, 0 to 1; None where nothing is known."""
        return round(self.seen / self.whole, 3) if self.whole else None


_Key = tuple[str, str, str, str]


def _key(tree: Tree, change: Change) -> _Key:
    """Return by what a thing is known to be the same at another moment of its page."""
    rows = change.kind in ROWS_OF
    node = tree.by[tree.rows[change.at][0]] if rows else tree.by[change.at]
    return change.kind, node.frame + "/".join(node.frames), node.path, change.before


def look(pages: Sequence[Seen]) -> Look:
    """Change one thing after the other on each page, and tell what the sentences would notice."""
    spots: list[Spot] = []
    left_out = 0
    judged: set[str] = set()
    every: dict[str, Sentence] = {}
    for page in pages:
        found = _things(page)
        ordered = sorted(found.items(), key=lambda entry: -entry[1][0][1].weight)
        left_out += max(0, len(ordered) - MOST)
        for _, places in ordered[:MOST]:
            spots.append(_spot(page, places))
        for moment in page.moments:
            judged |= moment.judged.keys()
            every |= {one.id: one for one in moment.sentences if one.element}
    moments = [moment for page in pages for moment in page.moments]
    untried = tuple(one for key, one in every.items() if key not in judged)
    whole = sum(one.change.weight for one in spots)
    return Look(tuple(_worth(spots, whole)), blind_checks(moments), untried, left_out)


def _worth(spots: Sequence[Spot], whole: float) -> Iterator[Spot]:
    """Yield the spots, offers with the share that each would add; a check notices several."""
    more: dict[tuple[int, int, str], float] = {}
    for spot in spots:
        if spot.offer and spot.blind:
            key = spot.offer.page, spot.offer.node, spot.offer.property
            more[key] = more.get(key, 0.0) + spot.change.weight
    for spot in spots:
        if not spot.offer:
            yield spot
            continue
        key = spot.offer.page, spot.offer.node, spot.offer.property
        adds = round(more.get(key, 0.0) / whole, 3) if whole else 0.0
        yield replace(spot, offer=replace(spot.offer, adds=adds))


def _things(page: Seen) -> dict[_Key, list[tuple[Moment, Change]]]:
    """Return what may change on a page, each with the moments at which it is there."""
    found: dict[_Key, list[tuple[Moment, Change]]] = {}
    for number, moment in enumerate(page.moments):
        other = page.others[number] if number < len(page.others) else None
        for change in changes(moment.tree, _depending(moment, other, page)):
            found.setdefault(_key(moment.tree, change), []).append((moment, change))
    for places in found.values():
        there = {id(moment) for moment, _ in places}
        for moment in page.moments:
            alone = _alone(moment, *places[0]) if id(moment) not in there else None
            if alone:
                places.append((moment, alone))
    return found


def _alone(moment: Moment, known: Moment, change: Change) -> Change | None:
    """Return a change of a row where that is the only one of its set at another moment."""
    if change.kind not in ("row", "count"):
        return None
    words = words_of(known.tree, change.at)
    rows = (row for row in moment.tree.rows if words_of(moment.tree, row) == words)
    return next((replace(change, at=row) for row in rows), None)


def _depending(moment: Moment, other: Moment | None, page: Seen) -> set[int]:
    """Return the nodes, by handle, that show something else in another row, or a value of it."""
    tree = moment.tree
    if other is not None:
        then = {(one.path, one.tag): one.text for one in other.nodes}
        return {
            one.handle
            for one in tree.nodes
            if tree.is_leaf(one) and then.get((one.path, one.tag), one.text) != one.text
        }
    values = [value for value in page.row.values() if len(value) >= SHORTEST]
    return {
        one.handle
        for one in tree.nodes
        if tree.is_leaf(one) and any(value in one.text for value in values)
    }


def _spot(page: Seen, places: Sequence[tuple[Moment, Change]]) -> Spot:
    by = None
    for moment, change in places:
        by = noticed(moment, carried_out(moment.tree, change))
        if by:
            break
    moment, change = places[-1]
    rows = change.kind in ROWS_OF
    node = moment.tree.by[moment.tree.rows[change.at][0] if rows else change.at]
    return Spot(page.title, moment, change, node, by, None if by else _offer(page, moment, change))


def _offer(page: Seen, moment: Moment, change: Change) -> Offer | None:
    """Return the check that would notice a change, as a sentence after the last one played here."""
    after = moment.sentences[-1].id if moment.sentences else ""
    tree = moment.tree
    if change.kind in ROWS_OF:
        holder = next(
            (
                one
                for one in tree.around(holder_of(tree, change.at))
                if tree.kinds[one.handle] in ("table", "list")
            ),
            None,
        )
        if holder is None:
            return None
        if change.kind == "order":
            return Offer(moment.page, holder.handle, after, "text", literal(holder.text))
        rows = len(_rows_in(tree, holder.handle))
        return Offer(moment.page, holder.handle, after, ROWS, str(rows))
    if change.kind == "state":
        enabled = "yes" if tree.by[change.at].enabled else "no"
        return Offer(moment.page, change.at, after, "enabled", enabled)
    if change.kind == "presence":
        return Offer(moment.page, change.at, after, "shown", "yes")
    if _known_by_its_words(moment, change.at):  # it is not found where they are others
        return Offer(moment.page, change.at, after, "shown", "yes")
    return Offer(moment.page, change.at, after, "text", _expected(page, change))


def _known_by_its_words(moment: Moment, handle: int) -> bool:
    """Tell whether an element made of a node would be known by what it says.

    A check of its text could never fail then. What is nothing but a text is known by other things.
    """
    tree = moment.tree
    if avoided(tree.kinds[handle], "text"):
        return False
    clues = suggest(tree.by[handle], tree.nodes).clues
    return any(one.fact in ("text", "name", "own") for one in clues)


def _rows_in(tree: Tree, table: int) -> set[int]:
    """Return the numbers of the rows of a table that are not its headers."""
    return {
        one.in_row
        for one in tree.within(table)
        if one.in_row and one.tag != "th" and one.role != "columnheader"
    }


def _expected(page: Seen, change: Change) -> str:
    """Return what to expect: the column that says it where one does, else the text itself."""
    if change.depends:
        for name, value in page.row.items():
            if value and value == change.before:
                return f"${{row.{name}}}"
    return literal(change.before)
