"""A saved page as a tree, and the same page with one thing changed."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cached_property

from lantern.core.elements.facts import Facts, tidy
from lantern.core.elements.kinds import kind_of

Changed = dict[int, Facts | None]
"""What is other on a changed page: nodes by handle, None for what is gone; new ones have handles
below 0."""
NEAR = 8
"""How many nodes away what comes right before a node, or right behind it, may be said of it."""
CELLS = frozenset({"cell", "gridcell", "columnheader", "rowheader"})
_NAMED_BY_TEXT = (
    frozenset("button link heading option menuitem tab treeitem tooltip switch".split()) | CELLS
)


def outer(node: Facts) -> int:
    """Return the number of the node that holds another one, which comes before it; 0 for none."""
    return node.inside if node.inside < node.handle else 0


class Tree:
    """The nodes of a saved page in document order, by handle, with what holds what."""

    def __init__(self, nodes: Sequence[Facts]) -> None:
        self.nodes = tuple(nodes)
        self.by = {node.handle: node for node in nodes}
        self.held: dict[int, list[int]] = {}
        self.rows: dict[int, list[int]] = {}
        for node in nodes:
            self.held.setdefault(outer(node), []).append(node.handle)
            if node.in_row:
                self.rows.setdefault(node.in_row, []).append(node.handle)
        self._kinds: dict[str, list[Facts]] = {}
        self._leaves: dict[int, list[Facts]] = {}

    @cached_property
    def kinds(self) -> Mapping[int, str]:
        """The kind of each node, by handle."""
        return {node.handle: kind_of(node) for node in self.nodes}

    def of_kind(self, kind: str) -> list[Facts]:
        """Return the nodes of a kind."""
        if kind not in self._kinds:
            self._kinds[kind] = [one for one in self.nodes if self.kinds[one.handle] == kind]
        return self._kinds[kind]

    def around(self, handle: int) -> Iterator[Facts]:
        """Yield a node and all that hold it, from the inside out."""
        while handle in self.by:
            yield self.by[handle]
            handle = outer(self.by[handle])

    def within(self, handle: int) -> Iterator[Facts]:
        """Yield all that a node holds, in document order."""
        waiting = self.held.get(handle, [])[::-1]
        while waiting:  # pages may nest more deeply than functions can call one another
            inner = waiting.pop()
            yield self.by[inner]
            waiting += self.held.get(inner, [])[::-1]

    def leaves(self, handle: int) -> list[Facts]:
        """Return what a node holds that says something and holds nothing that does, or itself."""
        if handle not in self._leaves:
            inner = [one for one in self.within(handle) if self.is_leaf(one)]
            self._leaves[handle] = inner or [self.by[handle]]
        return self._leaves[handle]

    def _says_more(self, node: Facts) -> bool:
        return any(self.by[one].text for one in self.held.get(node.handle, ()))

    def is_leaf(self, node: Facts) -> bool:
        """Tell whether a node says something that nothing inside it says."""
        return bool(node.text) and not self._says_more(node)

    @cached_property
    def _sayings(self) -> Mapping[str, list[int]]:
        """Nodes of which a text is said: as their label, name, section or column."""
        found: dict[str, list[int]] = {}
        for node in self.nodes:
            for text in {node.label, node.section, node.column, *node.cells} - {""}:
                found.setdefault(text, []).append(node.handle)
            if node.name and node.name != node.text:
                found.setdefault(node.name, []).append(node.handle)
        return found

    def told_of(self, node: Facts, rows: Iterable[int], texts: Iterable[str]) -> list[int]:
        """Return the nodes, by handle, of which something may be said that a node says.

        Those of its rows, those near it, and those whose label, name, section or column it is.
        """
        place = bisect_left(self._orders, node.order)
        near = self.nodes[max(0, place - NEAR) : place + NEAR + 1]
        found = {one.handle for one in near}
        for row in rows:
            found.update(self.rows.get(row, ()))
        for text in texts:
            found.update(self._sayings.get(text, ()))
        return sorted(found)

    @cached_property
    def _orders(self) -> list[int]:
        return [node.order for node in self.nodes]

    def with_changes(self, changed: Changed) -> list[Facts]:
        """Return the nodes of the changed page in document order."""
        kept = (changed.get(node.handle, node) for node in self.nodes)
        new = [node for handle, node in changed.items() if handle < 0 and node]
        return sorted([*(one for one in kept if one), *new], key=lambda one: one.order)


def _swapped(text: str, old: str, new: str, place: int) -> str:
    """Return a text with its occurrence number `place` (from 0) of another replaced."""
    at = -1
    for _ in range(place + 1):
        at = text.find(old, at + 1)
        if at < 0:
            return text
    return tidy(text[:at] + new + text[at + len(old) :])


class Page:
    """A page that is being changed, one thing after the other; `changed` is what came of it."""

    def __init__(self, tree: Tree) -> None:
        self._tree = tree
        self.changed: Changed = {}

    def now(self, handle: int) -> Facts | None:
        """Return a node as it is now."""
        return self.changed.get(handle, self._tree.by.get(handle))

    def _let(self, handle: int, change: Callable[..., Facts], *more: object) -> None:
        before = self.now(handle)
        if before is not None and (after := change(before, *more)) != before:
            self.changed[handle] = after

    def says(self, at: int, new: str) -> None:
        """Let a node say something else, in all facts that repeat what it says."""
        node = self._tree.by[at]
        old = node.text
        if not old or old == new:
            return
        wholes = {}
        for one in self._tree.around(at):
            place = self._said_before(one, at, old)
            now = self.now(one.handle)
            if now is None:
                continue
            whole = _swapped(now.text, old, new, place)
            wholes[one.handle] = now.text, whole
            self._let(one.handle, _renamed, old, new, whole)
        self._repeat(at, wholes)

    def _said_before(self, outer: Facts, at: int, old: str) -> int:
        """Return how often a node says a text before it comes to the one that is meant."""
        now = self.now(outer.handle)
        if outer.handle == at or now is None or now.text.count(old) < 2:
            return 0
        before = 0
        for leaf in self._tree.leaves(outer.handle):
            if leaf.handle >= at:
                break
            now = self.now(leaf.handle)
            before += now.text.count(old) if now and now.visible else 0
        return before

    def _repeat(self, at: int, wholes: Mapping[int, tuple[str, str]]) -> None:
        """Let all that is said of other nodes after what a node says follow it."""
        around = list(self._tree.around(at))
        texts = {old: new for old, new in wholes.values() if old != new and old}
        node = self._tree.by[at]
        rows = {one.in_row for one in around if one.in_row}
        labels = {wholes[one.handle] for one in around if one.tag in ("label", "legend")}
        heads = {
            wholes[one.handle]
            for one in around
            if self._tree.kinds[one.handle] == "heading" or one.tag in ("legend", "summary")
        }
        columns = {
            wholes[one.handle] for one in around if one.tag == "th" or one.role == "columnheader"
        }
        holders = {one.handle for one in around}
        for handle in self._tree.told_of(node, rows, texts):
            if handle not in holders:
                self._follow(self._tree.by[handle], node, texts, rows, labels, heads, columns)

    def _follow(
        self,
        other: Facts,
        node: Facts,
        texts: Mapping[str, str],
        rows: Collection[int],
        labels: Collection[tuple[str, str]],
        heads: Collection[tuple[str, str]],
        columns: Collection[tuple[str, str]],
    ) -> None:
        """Let what is said of a node follow what another one, near it or of its row, says now."""
        if other.in_row in rows and (other.row or other.cells):
            self._let(other.handle, _row_with, texts)
        for old, new in columns:
            if other.column == old or old in other.cells:
                self._let(other.handle, _under, old, new)
        for old, new in labels:
            if old and other.label == old:
                self._let(other.handle, _labelled, old, new)
        if other.name in texts and other.name != other.text and not other.label:
            self._let(other.handle, _named, texts[other.name])  # it is called by what is there
        for old, new in heads:
            if old and other.section == old and other.order > node.order:
                self._let(other.handle, _in_section, new)
        if abs(other.order - node.order) <= NEAR:
            self._let(other.handle, _beside, texts)

    def hide(self, at: int) -> None:
        """Let a node, with all that it holds, be there but not shown."""
        self._unsay(at)
        for one in [self._tree.by[at], *self._tree.within(at)]:
            now = self._tree.by[one.handle]
            self.changed[one.handle] = replace(now, visible=False)

    def take_out(self, handles: Iterable[int]) -> None:
        """Let nodes be gone, such as those of a row."""
        gone = set(handles)
        for handle in sorted(gone):
            if self._tree.by[handle].inside not in gone:
                self._unsay(handle)
        self.changed |= dict.fromkeys(gone)

    def _unsay(self, at: int) -> None:
        for leaf in self._tree.leaves(at):
            self.says(leaf.handle, "")

    def put_again(self, handles: Sequence[int]) -> None:
        """Let nodes be there a second time, right behind the first."""
        last = max(self._tree.by[one].order for one in handles)
        leaf = self._tree.leaves(handles[-1])[-1]
        words = " ".join(
            one.text for one in (self._tree.by[h] for h in handles) if self._tree.is_leaf(one)
        )
        holders = [one for one in self._tree.around(leaf.handle) if one.handle not in handles]
        for one in holders:
            place = self._said_before(one, leaf.handle, leaf.text)
            self._let(one.handle, _saying, leaf.text, f"{leaf.text} {words}", place)
        for handle in handles:
            twin = self._tree.by[handle]
            self.changed[-handle] = replace(twin, handle=-handle, order=last, in_row=-twin.in_row)

    def exchange(self, one: Sequence[int], other: Sequence[int]) -> None:
        """Let two runs of nodes stand in each other's place."""
        by = self._tree.by
        orders = sorted(by[handle].order for handle in [*one, *other])
        for handle, order in zip([*other, *one], orders, strict=True):
            self._let(handle, _at, order)
        first, second = (
            " ".join(by[h].text for h in run if self._tree.is_leaf(by[h])) for run in (one, other)
        )
        for holder in self._tree.around(by[one[0]].inside):
            both = f"{first} {second}"
            if both in holder.text:
                text = holder.text.replace(both, f"{second} {first}", 1)
                self._let(holder.handle, _saying, holder.text, text, 0)

    def disable(self, at: int) -> None:
        """Let a node be switched off, or on."""
        self._let(at, _switched)


def _renamed(facts: Facts, old: str, new: str, whole: str) -> Facts:
    """Return a node that says `whole` now; what it is called follows where its text names it."""
    name = facts.name
    if name == facts.text or (facts.role in _NAMED_BY_TEXT and old in name):
        name = whole if name == facts.text else _swapped(name, old, new, 0)
    own = _swapped(facts.own, old, new, 0) if facts.own else ""
    return replace(facts, text=whole, name=name, own=own)


def _saying(facts: Facts, old: str, new: str, place: int) -> Facts:
    return replace(facts, text=_swapped(facts.text, old, new, place))


def _at(facts: Facts, order: int) -> Facts:
    return replace(facts, order=order)


def _named(facts: Facts, name: str) -> Facts:
    return replace(facts, name=name)


def _in_section(facts: Facts, section: str) -> Facts:
    return replace(facts, section=section)


def _switched(facts: Facts) -> Facts:
    return replace(facts, enabled=not facts.enabled)


def _row_with(facts: Facts, texts: Mapping[str, str]) -> Facts:
    return replace(
        facts,
        row=tuple(new for cell in facts.row if (new := texts.get(cell, cell)) or cell == ""),
        cells={head: texts.get(cell, cell) for head, cell in facts.cells.items()},
    )


def _under(facts: Facts, old: str, new: str) -> Facts:
    cells = {new if head == old else head: cell for head, cell in facts.cells.items()}
    return replace(facts, column=new if facts.column == old else facts.column, cells=cells)


def _labelled(facts: Facts, old: str, new: str) -> Facts:
    return replace(facts, label=new, name=new if facts.name == old else facts.name)


def _beside(facts: Facts, texts: Mapping[str, str]) -> Facts:
    return replace(
        facts,
        after=texts.get(facts.after, facts.after) if facts.after else "",
        followed=texts.get(facts.followed, facts.followed) if facts.followed else "",
    )
