"""What the sentences of a test see of a changed page: which of them would notice."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from lantern.core.data.table import REFUSED
from lantern.core.elements.clues import POSITION, Clue, Element
from lantern.core.elements.facts import Facts, tidy
from lantern.core.elements.kinds import kind_of
from lantern.core.elements.repair import contradicts, doubted, found_by, is_weak
from lantern.core.problems import Problem
from lantern.core.review.blind.tree import CELLS, Changed, Tree
from lantern.core.steps.catalogue import action_of
from lantern.core.steps.properties import compare, shown_by
from lantern.core.steps.tables import Table, aspect

ROWS = "number of rows"
ONE_THING = 40
"""Letters up to which a text with a number in it is a value; a longer one says more than that."""
_WORDS = frozenset({"text", "name", "own"})
_SAYING_THE_SAME = frozenset({"is", "contains", "starts with", "ends with"})


@dataclass(frozen=True)
class Sentence:
    """A sentence of a test as it was played: what it is given is filled in.

    `found` is what it found in the run that passed, "" for nothing; `raw` is what it is given
    before values are filled in, `keeps` the name under which it keeps a value, and `matters` tells
    that a sentence compares that elsewhere.
    """

    id: str
    words: str
    action: str
    element: Element | None = None
    onto: Element | None = None
    inputs: Mapping[str, str] = field(default_factory=dict)
    found: str = ""
    raw: Mapping[str, str] = field(default_factory=dict)
    keeps: str = ""
    matters: bool = False

    def given(self, kept: Mapping[str, str]) -> Sentence:
        """Return the sentence where some kept values are others."""
        inputs = dict(self.inputs)
        for name, text in self.raw.items():
            for one, value in kept.items():
                text = text.replace(f"${{kept.{one}}}", value)
            if text != self.raw[name] and "${" not in text:
                inputs[name] = text
        return replace(self, inputs=inputs) if inputs != self.inputs else self

    @property
    def compares(self) -> bool:
        """Whether it holds a property of its element against what is expected."""
        return (
            bool(self.element)
            and not action_of(self.action).block
            and ({"property", "comparison", "expected"} <= self.inputs.keys())
        )

    @property
    def checks(self) -> bool:
        """Whether it is there to notice something."""
        return self.compares or self.action == "check outcome"


@dataclass(frozen=True)
class Known:
    """What an element finds on a page as it is, and all nodes that hold its clues."""

    found: list[Facts]
    holders: list[Facts]


@dataclass(frozen=True)
class Moment:
    """A page as it was while some sentences were played: the saved page (its id), its picture."""

    page: int
    nodes: tuple[Facts, ...]
    sentences: tuple[Sentence, ...] = ()
    picture: str = ""

    @cached_property
    def tree(self) -> Tree:
        """The page as a tree."""
        return Tree(self.nodes)

    @cached_property
    def _at_first(self) -> dict[tuple[str, tuple[Clue, ...]], Known]:
        return {}

    def found_at_first(self, element: Element) -> Known:
        """Return what an element finds on the page as it is, and what else may be it."""
        key = element.id, element.clues  # a flow is called with other values, which clues may name
        if key not in self._at_first:
            holders = [one for one in self.tree.of_kind(element.kind) if _may_be(element, one)]
            self._at_first[key] = Known(_as_played(element, self.nodes), holders)
        return self._at_first[key]

    @cached_property
    def judged(self) -> dict[str, Sentence]:
        """The sentences of which it can be told what they see: on this very page they hold."""
        return {one.id: one for one in self.sentences if one.element and not notices(self, one, {})}


def noticed(moment: Moment, changed: Changed) -> Sentence | None:
    """Return the first sentence that would not pass on the changed page; None where all would."""
    kept: dict[str, str] = {}
    for sentence in moment.judged.values():
        if notices(moment, sentence.given(kept), changed):
            return sentence
        if sentence.keeps and (value := _kept(moment, sentence, changed)) != sentence.found:
            kept[sentence.keeps] = value
    return None


def _kept(moment: Moment, sentence: Sentence, changed: Changed) -> str:
    found = _found(moment, sentence.element, changed)
    prop = sentence.inputs.get("property", "")
    value = _read(moment, prop, found[0], sentence, changed) if len(found) == 1 else None
    return sentence.found if value is None else value


def notices(moment: Moment, sentence: Sentence, changed: Changed) -> str:
    """Return why a sentence would not pass on the changed page, or "" where it would.

    A condition of a block passes whatever it finds.
    """
    action = action_of(sentence.action)
    element = sentence.element
    if element is None or action.block:
        return ""
    if sentence.action == "check outcome":
        return _outcome(moment, sentence, changed)
    nodes = _found(moment, element, changed)
    prop = sentence.inputs.get("property", "")
    if sentence.compares and prop == "shown" and len(nodes) <= 1:
        value: str | None = "yes" if nodes and nodes[0].visible else "no"
        return "" if _holds(sentence, value) else "it is not shown as expected"
    if len(nodes) != 1:
        return "it is not found" if not nodes else "several are found"
    if sentence.onto and len(_found(moment, sentence.onto, changed)) != 1:
        return "the second thing is not found"
    node = nodes[0]
    if sentence.compares:
        value = _read(moment, prop, node, sentence, changed)
        return "" if _holds(sentence, value) else f"“{value}” is not as expected"
    if prop and sentence.matters:
        value = _read(moment, prop, node, sentence, changed)
        return "" if value == sentence.found else "what is kept of it is compared later"
    if prop:  # it is kept, and nothing depends on it
        return ""
    return "" if node.visible and node.enabled else "it is not ready"


def _holds(sentence: Sentence, value: str | None) -> bool:
    try:
        return value is not None and compare(
            value, sentence.inputs["comparison"], sentence.inputs["expected"]
        )
    except Problem:
        return False


def _outcome(moment: Moment, sentence: Sentence, changed: Changed) -> str:
    wanted = sentence.inputs.get("expected", "")
    said = [one for one in _found(moment, sentence.onto, changed) if one.visible]
    words = said[0].text if said else None
    if words is not None and (wanted == REFUSED or tidy(wanted) in words):
        return ""
    shown = _found(moment, sentence.element, changed)
    right = len(shown) == 1 and words is None and shown[0].text == tidy(wanted)
    return "" if right else "neither the value nor the refusal is there"


def _found(moment: Moment, element: Element | None, changed: Changed) -> list[Facts]:
    """Return what an element finds on the changed page, as playing does."""
    if element is None:
        return []
    known = moment.found_at_first(element)
    now = [one for one in changed.values() if one and _may_be(element, one)]
    if not now and not any(node.handle in changed for node in known.holders):
        return known.found
    left = [node for node in known.holders if node.handle not in changed]
    nodes = sorted([*left, *now], key=lambda one: one.order)
    found = element.among(nodes)
    if not found or is_weak(element):  # all else that there is has its say
        return _as_played(element, moment.tree.with_changes(changed))
    return [] if len(found) == 1 and contradicts(element, found[0]) else found


def _may_be(element: Element, node: Facts) -> bool:
    """Tell whether a node is of the element's kind and holds its clues, but for those of place."""
    return kind_of(node) == element.kind and all(
        clue.fact == POSITION or clue.holds(node) for clue in element.clues
    )


def _as_played(element: Element, nodes: Sequence[Facts]) -> list[Facts]:
    found = found_by(element, nodes)
    if len(found) == 1 and (doubted(element, found[0], nodes) or contradicts(element, found[0])):
        return []
    return found


def _read(
    moment: Moment, prop: str, node: Facts, sentence: Sentence, changed: Changed
) -> str | None:
    """Return a property as it is on the changed page.

    What facts do not tell, such as what a field holds, is what the sentence found when it passed.
    """
    told = shown_by(node)
    if prop in told:
        return tidy(told[prop])
    if prop.startswith("attribute "):
        return node.attributes.get(prop.removeprefix("attribute "), sentence.found)
    if prop == ROWS:
        return _rows_now(moment, node, sentence.found, changed)
    worked_out = aspect(prop)
    if worked_out:
        work, of_what = worked_out
        try:
            return tidy(work(_table(moment, node, changed), of_what))
        except Problem:
            return None
    return sentence.found


def _rows_now(moment: Moment, table: Facts, found: str, changed: Changed) -> str:
    """Return the number of rows, from what it was and the rows that went and came."""
    tree = moment.tree
    held = {one.handle for one in tree.within(table.handle)}
    gone = {tree.by[h].in_row for h, now in changed.items() if h in held and now is None}
    came = {tree.by[-h].in_row for h in changed if h < 0 and -h in held}
    try:
        return str(int(found) - len(gone) + len(came))
    except ValueError:
        return found


def _table(moment: Moment, table: Facts, changed: Changed) -> Table:
    """Return what a table shows, put together from its cells."""
    tree = moment.tree
    held = {one.handle for one in tree.within(table.handle)}
    rows: dict[int, list[str]] = {}
    heads: list[str] = []
    for node in tree.with_changes(changed):
        if abs(node.handle) not in held or not (node.tag in ("td", "th") or node.role in CELLS):
            continue
        if node.tag == "th" or node.role == "columnheader":
            heads.append(node.text)
        else:
            rows.setdefault(node.in_row, []).append(node.text)
    return Table(tuple(heads), tuple(tuple(row) for row in rows.values()))


def blind_checks(moments: Sequence[Moment]) -> dict[str, str]:
    """Return why checks can never fail for what they are about, in words by the sentence's id."""
    told: dict[str, str] = {}
    for moment in moments:
        for sentence in moment.judged.values():
            if sentence.compares and (why := _never_fails(moment, sentence)):
                told[sentence.id] = why
    return told


def _never_fails(moment: Moment, sentence: Sentence) -> str:
    prop, element = sentence.inputs["property"], sentence.element
    nodes = _found(moment, element, {})
    if element is None or len(nodes) != 1 or prop == "shown":
        return ""
    value = _read(moment, prop, nodes[0], sentence, {})
    if not value:
        return ""
    by_itself = any(
        one.fact in _WORDS and one.operator == "is" and tidy(one.value) == value
        for one in element.clues
    )
    if by_itself and sentence.inputs["comparison"] in _SAYING_THE_SAME:
        return (
            f"“{element.name}” is known by this very text: where it says something else it is not "
            "found, and the check is never come to."
        )
    others = _other_values(value)
    if others and all(_holds(sentence, other) for other in others):
        asked = f"{sentence.inputs['comparison']} “{sentence.inputs['expected']}”"
        return (
            f"It holds for “{_briefly(others[0])}” as well as for “{_briefly(value)}”: both pass "
            f"as “{asked}”."
        )
    return ""


def _briefly(text: str) -> str:
    return text if len(text) <= ONE_THING else f"{text[: ONE_THING - 1]}…"


def _other_values(value: str) -> list[str]:
    """Return values that a thing could plainly have instead: other numbers, else other words."""
    if value in ("yes", "no"):
        return ["no" if value == "yes" else "yes"]
    found = []
    if any(c.isdecimal() for c in value):
        for shift in (1, 3, 5):
            found.append("".join(str((int(c) + shift) % 10) if c.isdecimal() else c for c in value))
        found.append("".join("0" if c.isdecimal() else c for c in value))
        found = [one for one in found if one != value]
        if len(value) <= ONE_THING:
            return found
    words = value.split()
    return [*found, "Something else", " ".join([*words[:-1], "otherwise"])]
