"""Which things of a page may change, one at a time, and what of the page is other then."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from typing import Literal, get_args

from lantern.core.elements.facts import Facts
from lantern.core.review.blind.tree import CELLS, Changed, Page, Tree

ChangeKind = Literal["value", "text", "message", "count", "row", "order", "state", "presence"]
CHANGE_KINDS: tuple[ChangeKind, ...] = get_args(ChangeKind)
WEIGHTS: dict[ChangeKind, float] = {
    "value": 2.0,
    "text": 1.0,
    "message": 3.0,
    "count": 2.0,
    "row": 2.0,
    "order": 1.0,
    "state": 0.5,
    "presence": 1.0,
}
"""How much it matters that a change is noticed; a choice, not a measure."""
LABEL = 0.3
"""What a text counts that only says what something is: a label, a header, a button's words."""
DEPENDS = 3.0
"""How many times as much counts what depends on the inputs: it is what the test is about."""
MESSAGES = frozenset({"status", "alert", "log", "alertdialog"})
_CONTROLS = frozenset(
    {"button", "link", "text box", "choice list", "tick box", "radio", "slider", "file box"}
)
_SHOWN = _CONTROLS | {"heading", "picture"}
_DIGITS = re.compile(r"\d+")
_WORD = re.compile(r"\w+")


@dataclass(frozen=True)
class Change:
    """One thing that may change: the node (its handle), what it says now and then, its weight.

    For rows `at` is the number of the row (`Facts.in_row`); `depends` tells that it follows the
    inputs of the row that was played.
    """

    kind: ChangeKind
    at: int
    before: str
    after: str
    weight: float
    depends: bool = False


def other_value(text: str) -> str:
    """Return a text in which the last digit of its first number is another: "€ 5.40" -> "€ 5.41".

    What comes out is never what went in.
    """
    found = list(_DIGITS.finditer(text))
    if not found:
        return text
    # The decimals of a price belong to it: "5.40" is one number to people.
    last = found[0]
    for one in found[1:]:
        if text[last.end() : one.start()] not in (".", ","):
            break
        last = one
    at = last.end() - 1
    return text[:at] + str((int(text[at]) + 1) % 10) + text[at + 1 :]


def other_words(text: str) -> str:
    """Return a text with its first word replaced: "Moon jar" -> "Otherwise jar"."""
    return _WORD.sub("Otherwise", text, count=1) if _WORD.search(text) else f"{text} otherwise"


def changes(tree: Tree, depends: Collection[int] = ()) -> list[Change]:
    """Return all that may change on a page; `depends` are handles of what follows the inputs."""
    return [*_said(tree, depends), *_rows(tree, depends), *_states(tree)]


def _is_message(tree: Tree, node: Facts) -> bool:
    return any(
        one.role in MESSAGES or one.attributes.get("aria-live") in ("polite", "assertive")
        for one in tree.around(node.handle)
    )


def _is_label(tree: Tree, node: Facts) -> bool:
    return any(
        one.tag in ("label", "th", "nav", "legend", "dt", "footer")
        or one.role in ("columnheader", "navigation", "rowheader")
        or tree.kinds[one.handle] in ("button", "link", "option")
        for one in tree.around(node.handle)
    )


def _said(tree: Tree, depends: Collection[int]) -> Iterator[Change]:
    for node in tree.nodes:
        if not node.visible or not tree.is_leaf(node) or len(node.text) > 300:
            continue
        kind: ChangeKind = "value" if any(c.isdigit() for c in node.text) else "text"
        if _is_message(tree, node):
            kind = "message"
        weight = WEIGHTS[kind]
        follows = node.handle in depends
        if not follows and kind in ("text", "value") and _is_label(tree, node):
            weight = LABEL
        after = other_value(node.text) if any(c.isdigit() for c in node.text) else ""
        after = after or other_words(node.text)
        yield Change(
            kind, node.handle, node.text, after, weight * (DEPENDS if follows else 1), follows
        )


def _rows(tree: Tree, depends: Collection[int]) -> Iterator[Change]:
    """Yield rows that go, come twice or change places, for each set of rows on the page."""
    for rows in row_sets(tree):
        texts = [words_of(tree, row) for row in rows]
        follows = any(handle in depends for row in rows for handle in tree.rows[row])
        times = DEPENDS if follows else 1
        for kind, place in (("row", 0), ("count", len(rows) - 1)):
            yield Change(kind, rows[place], texts[place], "", WEIGHTS[kind] * times, follows)  # type: ignore[arg-type,index]
        pair = next((n for n in range(len(rows) - 1) if texts[n] != texts[n + 1]), None)
        if pair is not None:
            before, after = texts[pair], texts[pair + 1]
            yield Change("order", rows[pair], before, after, WEIGHTS["order"] * times, follows)


def words_of(tree: Tree, row: int) -> str:
    """Return what a row says, its parts apart by dots, at most 120 letters."""
    return " · ".join(tree.by[one].text for one in tree.rows[row] if tree.is_leaf(tree.by[one]))[
        :120
    ]


def row_sets(tree: Tree) -> list[list[int]]:
    """Return the rows that belong together, as numbers: those of one table, list or repeated block.

    Rows of headers do not count; a set has two rows at least.
    """
    sets: dict[tuple[object, ...], list[int]] = {}
    for row, handles in tree.rows.items():
        first = tree.by[handles[0]]
        shown = [tree.by[one] for one in handles if tree.by[one].visible]
        if not shown or all(one.tag == "th" or one.role == "columnheader" for one in shown):
            continue
        shape = first.tag, first.role if first.role in CELLS else ""
        sets.setdefault((holder_of(tree, row), shape), []).append(row)
    return [rows for rows in sets.values() if len(rows) > 1]


def holder_of(tree: Tree, row: int) -> int:
    """Return the node, by handle, that holds a row; 0 for the page."""
    handles = set(tree.rows[row])
    around = tree.around(tree.rows[row][0])
    return next((one.handle for one in around if one.handle not in handles), 0)


def row_after(tree: Tree, row: int) -> int:
    """Return the row that follows another in its set; 0 for none."""
    for rows in row_sets(tree):
        if row in rows and rows.index(row) + 1 < len(rows):
            return rows[rows.index(row) + 1]
    return 0


def _states(tree: Tree) -> Iterator[Change]:
    for node in tree.nodes:
        kind = tree.kinds[node.handle]
        if not node.visible or kind not in _SHOWN:
            continue
        said = node.name or node.label or node.text
        yield Change("presence", node.handle, said, "", WEIGHTS["presence"])
        if kind in _CONTROLS and kind != "link":
            yield Change("state", node.handle, said, "", WEIGHTS["state"])


def carried_out(tree: Tree, change: Change) -> Changed:
    """Return what is other on the page after a change."""
    page = Page(tree)
    if change.kind in ("value", "text", "message"):
        page.says(change.at, change.after)
    elif change.kind == "row":
        page.take_out(tree.rows[change.at])
    elif change.kind == "count":
        page.put_again(tree.rows[change.at])
    elif change.kind == "order":
        page.exchange(tree.rows[change.at], tree.rows[row_after(tree, change.at)])
    elif change.kind == "state":
        page.disable(change.at)
    else:
        page.hide(change.at)
    return page.changed
