"""Strength: which likely changes of a page an element's clues survive.

Each mutation makes of the page's facts those of a page on which one thing was changed, as a
redesign, a new wording or new data changes it. The strength of a set of clues is the share of
these changes, by how likely they are, after which it still finds the one node it is meant for.
Only changes that can befall the node count: what has no id does not get stronger by that.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from lantern.core.elements.clues import Clue, Element, matching
from lantern.core.elements.facts import Facts
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.suggesting import shared

SEED = 5
TRIALS = 3
"""How often each mutation is tried, with other random choices each time."""
NEAR = 150
"""Nodes of a page that are changed."""
ELSEWHERE = 5000.0
"""Pixels further down at which another part of the page lies."""
MOST_SETS = 40
"""Sets of clues that are tried when a stronger one is looked for."""

Nodes = list[Facts]
Mutate = Callable[[Nodes, int, random.Random], Nodes]
"""Takes the page's nodes, the place of the target and chance; returns the changed nodes, with
the target at the place that holds its handle."""


@dataclass(frozen=True)
class Mutation:
    """A likely change: its name as people say it, how likely it is, and what it does."""

    name: str
    weight: float
    apply: Mutate


def _with(facts: Facts, **attributes: str) -> Facts:
    return replace(facts, attributes={**facts.attributes, **attributes})


def _attribute(name: str, new: Callable[[str, random.Random], str]) -> Mutate:
    def mutate(nodes: Nodes, place: int, chance: random.Random) -> Nodes:
        target = nodes[place]
        if target.attributes.get(name):
            nodes[place] = _with(target, **{name: new(target.attributes[name], chance)})
        return nodes

    return mutate


def _noise(_: str, chance: random.Random) -> str:
    return f"x-{chance.randrange(16**6):06x}"


def _reworded(text: str, chance: random.Random) -> str:
    words = text.split() or [text]
    place = chance.randrange(len(words))
    words[place] = chance.choice(("Your", "New", "All", "This")) if len(words) > 1 else f"{text}s"
    return " ".join(words)


def _recased(text: str) -> str:
    return f"{text.swapcase()}:"


def _words(change: Callable[[str, random.Random], str]) -> Mutate:
    """Change the words that people see of the target, in all facts that repeat them."""

    def mutate(nodes: Nodes, place: int, chance: random.Random) -> Nodes:
        target = nodes[place]
        old = target.name or target.text
        if not old:
            return nodes
        new = change(old, chance)
        attributes = {k: new if v == old else v for k, v in target.attributes.items()}
        nodes[place] = replace(
            target,
            name=new if target.name == old else target.name,
            text=new if target.text == old else target.text,
            label=new if target.label == old else target.label,
            attributes=attributes,
        )
        return nodes

    return mutate


def _label(nodes: Nodes, place: int, chance: random.Random) -> Nodes:
    """Change a label that is not the name: with the name, it is reworded as its words are."""
    target = nodes[place]
    if target.label and target.label != (target.name or target.text):
        nodes[place] = replace(target, label=_reworded(target.label, chance))
    return nodes


def _other_data(nodes: Nodes, place: int, chance: random.Random) -> Nodes:
    """Let the numbers in what the target shows be others."""

    def other(text: str) -> str:
        return "".join(chance.choice("123456789") if c.isdigit() else c for c in text)

    target = nodes[place]
    nodes[place] = replace(target, text=other(target.text), name=other(target.name))
    return nodes


def _wrapped(nodes: Nodes, place: int, _: random.Random) -> Nodes:
    """Put a container around everything: paths change, nothing that people see does."""
    return [replace(node, path=node.path.replace(" > ", " > div > ", 1)) for node in nodes]


def _reordered(nodes: Nodes, place: int, chance: random.Random) -> Nodes:
    order = list(range(len(nodes)))
    chance.shuffle(order)
    return [
        replace(node, order=order[n], path=f"{node.path}:nth-of-type({order[n] + 2})", after="",
                followed="")
        for n, node in enumerate(nodes)
    ]  # fmt: skip


def _sibling(nodes: Nodes, place: int, chance: random.Random) -> Nodes:
    """Add a new thing of the same kind right before the target."""
    target = nodes[place]
    new = replace(
        target,
        handle=-1,
        name="Something new" if target.name else "",
        text="Something new" if target.text else "",
        label="Something new" if target.label else "",
        attributes={"class": target.attributes.get("class", ""),
                    "type": target.attributes.get("type", ""), "id": "something-new"},
        order=target.order,
        row=("Something new",) * len(target.row),
    )  # fmt: skip
    later = [replace(node, order=node.order + (node.order >= target.order)) for node in nodes]
    return [*later[:place], new, *later[place:]]


def _twin(nodes: Nodes, place: int, _: random.Random) -> Nodes:
    """Show the same words a second time in another part of the page."""
    target = nodes[place]
    last = max(node.order for node in nodes) + 1
    twin = replace(
        target,
        handle=-1,
        section="Another part",
        path="#another > " + target.tag,
        order=last,
        box=replace(target.box, y=target.box.y + ELSEWHERE),
        row=(),
        after="",
        followed="",
        attributes={"type": target.attributes.get("type", "")},
    )
    return [*nodes, twin]


def _section(nodes: Nodes, place: int, chance: random.Random) -> Nodes:
    section = nodes[place].section
    new = _reworded(section, chance) if section else ""
    return [replace(n, section=new) if n.section == section else n for n in nodes]


def _row_moved(nodes: Nodes, place: int, chance: random.Random) -> Nodes:
    """Move the target's row to the end of its table, as sorting does."""
    row = {nodes[place].row}
    if not nodes[place].row:
        return nodes
    last = max(node.order for node in nodes)
    return [replace(n, order=last + 1 + n.order) if n.row in row else n for n in nodes]


def _row_drawn_otherwise(nodes: Nodes, place: int, _: random.Random) -> Nodes:
    """Let what is a row to people, but no row of a table, be built in another way."""
    target = nodes[place]
    if target.row and not target.column and not target.cells:
        nodes[place] = replace(target, row=())
    return nodes


def _role(nodes: Nodes, place: int, _: random.Random) -> Nodes:
    target = nodes[place]
    swap = {"button": "link", "link": "button"}.get(target.role)
    if swap:
        tag = "a" if swap == "link" else "button"
        nodes[place] = replace(target, role=swap, tag=tag)
    return nodes


MUTATIONS = (
    Mutation("its id changes", 6.0, _attribute("id", _noise)),
    Mutation("its class changes", 4.0, _attribute("class", _noise)),
    Mutation("a container is put around it", 3.0, _wrapped),
    Mutation("the order of the page changes", 3.0, _reordered),
    Mutation("something like it is added before it", 3.0, _sibling),
    Mutation("its words appear elsewhere as well", 0.5, _twin),
    Mutation("its text is reworded", 3.0, _words(_reworded)),
    Mutation("case or spacing of its text changes", 1.0, _words(lambda text, _: _recased(text))),
    Mutation("its label is reworded", 0.7, _label),
    Mutation("the data that it shows is other", 2.0, _other_data),
    Mutation("the part of the page that it is in is renamed", 1.0, _section),
    Mutation("its row moves", 1.0, _row_moved),
    Mutation("its row is built in another way", 2.0, _row_drawn_otherwise),
    Mutation("its field name changes", 0.7, _attribute("name", _noise)),
    Mutation("its hint text changes", 0.7, _attribute("placeholder", _reworded)),
    Mutation("its title changes", 0.7, _attribute("title", _reworded)),
    Mutation("its address changes", 1.0, _attribute("href", lambda v, _: f"{v}?from=new")),
    Mutation("its test id changes", 0.3, _attribute("data-testid", _noise)),
    Mutation("a button becomes a link, or the other way round", 0.3, _role),
)
"""All mutations; adding one is one entry here.

How likely each is follows what befalls pages between releases: what only programs read (ids,
classes) changes most, then what wraps and orders things, then words. `bench recognise` shows
whether strength so made tells what is lost.
"""


@dataclass(frozen=True)
class Strength:
    """The share (0 to 1) of likely changes that are survived, and what is not, worst first."""

    share: float
    lost: Mapping[str, float]

    @property
    def weakest(self) -> str:
        """The change that hurts most, in words; "" when none does."""
        return next(iter(self.lost), "")


class Worlds:
    """A page's nodes after each mutation, for trying any number of clue sets on them.

    Of a large page the NEAR nodes around the target count: what is far away and shares nothing
    with it stays out of reach of its clues. The same seed gives the same worlds.
    """

    def __init__(self, nodes: Sequence[Facts], handle: int, *, seed: int = SEED) -> None:
        target = next((node for node in nodes if node.handle == handle), None)
        if target is None:
            raise ValueError(f"no node has the handle {handle}")
        self._tag, self._handle = target.tag, handle
        near = _around(target, nodes)
        place = near.index(target)
        self._changed: list[tuple[Mutation, list[Nodes]]] = []
        self._whole = 0.0
        for number, mutation in enumerate(MUTATIONS):
            trials = []
            for trial in range(TRIALS):
                chance = random.Random(f"{seed}/{number}/{trial}")  # noqa: S311 - to be repeatable
                trials.append(mutation.apply(list(near), place, chance))
            if any(nodes != near for nodes in trials):
                self._changed.append((mutation, trials))
                self._whole += mutation.weight

    def strength(self, kind: str, clues: Sequence[Clue]) -> Strength:
        """Return how many of the changes a set of clues survives."""
        lost: dict[str, float] = {}
        for mutation, trials in self._changed:
            failed = sum(not self._found(kind, clues, nodes) for nodes in trials)
            if failed:
                lost[mutation.name] = mutation.weight * failed / len(trials)
        ordered = dict(sorted(lost.items(), key=lambda entry: -entry[1]))
        return Strength(round(1 - sum(lost.values()) / max(self._whole, 1.0), 3), ordered)

    def _found(self, kind: str, clues: Sequence[Clue], nodes: Nodes) -> bool:
        found = matching(kind, clues, nodes, prefer=self._tag)
        return len(found) == 1 and found[0].handle == self._handle


def _around(target: Facts, nodes: Sequence[Facts]) -> Nodes:
    """Return the nodes of the target's kind, of a large page those that are most like it."""
    kind = kind_of(target)
    same = [node for node in nodes if kind_of(node) == kind or node is target]
    if len(same) > NEAR:
        same.sort(key=lambda node: (-shared(target, node), abs(node.order - target.order)))
        same = sorted(same[:NEAR], key=lambda node: node.order)
    return same


def strength(
    kind: str, clues: Sequence[Clue], nodes: Sequence[Facts], handle: int, *, seed: int = SEED
) -> Strength:
    """Return how strong clues are for the node with that handle among the nodes of its page.

    The same seed gives the same result. Raises ValueError when the node is not among them.
    """
    return Worlds(nodes, handle, seed=seed).strength(kind, clues)


def stronger(
    element: Element, nodes: Sequence[Facts], worlds: Worlds, handle: int
) -> tuple[tuple[Clue, ...], Strength] | None:
    """Return the strongest other set of at most two of the clues at hand, if it is stronger.

    Only sets that find the node alone are considered, at most MOST_SETS of them.
    """
    best_share = worlds.strength(element.kind, element.clues).share
    same = [node for node in nodes if kind_of(node) == element.kind]
    tag = next(node.tag for node in nodes if node.handle == handle)
    known = list(dict.fromkeys([*element.clues, *element.spare]))
    sets: list[tuple[Clue, ...]] = [(one,) for one in known]
    sets += [(a, b) for n, a in enumerate(known) for b in known[n + 1 :]]
    best: tuple[tuple[Clue, ...], Strength] | None = None
    for clues in sets[:MOST_SETS]:
        found = matching(element.kind, clues, same, prefer=tag)
        if len(found) != 1 or found[0].handle != handle:
            continue
        its = worlds.strength(element.kind, clues)
        if its.share > best_share:
            best, best_share = (clues, its), its.share
    return best
