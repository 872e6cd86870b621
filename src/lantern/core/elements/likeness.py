"""How likely a node is the one that was seen before: records matched by their evidence.

Each feature of a node agrees, is similar or differs. A feature speaks for "the same" as much as
it agrees more often between releases of one thing than between two things of the page; the
logarithms of these ratios add up (I. P. Fellegi, A. B. Sunter, "A Theory for Record Linkage",
Journal of the American Statistical Association 64, 1969). How often two things of a page agree
by chance is counted on the page itself, so that what is rare there weighs more.
"""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from rapidfuzz import fuzz

from lantern.core.addresses import parts_of
from lantern.core.elements.facts import Facts
from lantern.core.elements.generated import how_made
from lantern.core.elements.kinds import kind_of

SIMILAR = 0.7
"""From this share of equal letters on (0 to 1) two texts count as similar."""

SHORT = 8
"""Texts of fewer letters have to agree more to count as similar."""

Value = str | tuple[str, ...]


@dataclass(frozen=True)
class Feature:
    """Something by which nodes are compared.

    `same` and `similar` say how often it agrees, or nearly does, between two releases of one
    thing; the rest differs. Features of one `group` say much the same, so only the strongest
    counts in full.
    """

    name: str
    group: str
    read: Callable[[Facts], Value]
    same: float
    similar: float = 0.0
    rare: float = 0.02


def _chosen(fact: str) -> Callable[[Facts], str]:
    def read(facts: Facts) -> str:
        value = str(facts.get(fact))
        return "" if how_made(value) == "noise" else value

    return read


_TOKEN = re.compile(r"\w+")


def _words(fact: str) -> Callable[[Facts], str]:
    return lambda facts: " ".join(_TOKEN.findall(str(facts.get(fact)).casefold()))


def _path_of(address: str) -> str:
    parts = parts_of(address)
    return parts.path + (f"#{parts.fragment}" if parts.fragment else "")


def _classes(facts: Facts) -> tuple[str, ...]:
    words = str(facts.attributes.get("class", "")).split()
    return tuple(word for word in words if how_made(word) != "noise")


def _size(facts: Facts) -> str:
    if not facts.box.width:
        return ""
    return f"{round(facts.box.width / 24)}x{round(facts.box.height / 12)}"


FEATURES = (
    Feature("test id", "mark", lambda f: str(f.get("test id")), 0.96, rare=0.01),
    Feature("field name", "mark", _chosen("field name"), 0.93, rare=0.01),
    Feature("id", "mark", _chosen("id"), 0.7, 0.05, rare=0.005),
    Feature("name", "words", _words("name"), 0.8, 0.12),
    Feature("label", "words", _words("label"), 0.78, 0.12),
    Feature("text", "words", _words("text"), 0.75, 0.12),
    Feature("hint text", "words", _words("hint text"), 0.8, 0.1),
    Feature("title", "words", _words("title"), 0.8, 0.1),
    Feature("alt", "words", _words("alt"), 0.8, 0.1),
    Feature("href", "target", lambda f: _path_of(str(f.get("href"))), 0.82, 0.1),
    Feature("src", "target", lambda f: _path_of(str(f.get("src"))), 0.75, 0.1),
    Feature("row", "row", lambda f: tuple(filter(None, f.row)), 0.75, 0.2),
    Feature("column", "column", _words("column"), 0.85, 0.1, rare=0.1),
    Feature("options", "options", lambda f: f.options, 0.8, 0.15),
    Feature("section", "place", _words("section"), 0.75, 0.1, rare=0.2),
    Feature("after", "place", _words("after"), 0.6, 0.08, rare=0.02),
    Feature("followed", "place", _words("followed"), 0.6, 0.08, rare=0.02),
    Feature("path", "tree", lambda f: f.path, 0.25, 0.3, rare=0.01),
    Feature("frames", "frames", lambda f: f.frames, 0.95, rare=0.5),
    Feature("kind", "form", kind_of, 0.95, rare=0.25),
    Feature("tag", "form", lambda f: f.tag, 0.92, rare=0.2),
    Feature("type", "form", lambda f: str(f.get("type")), 0.97, rare=0.3),
    Feature("class", "look", _classes, 0.5, 0.2, rare=0.1),
    Feature("size", "look", _size, 0.3, rare=0.1),
)
"""All features; adding one is one entry here."""

TOLD = frozenset([*"name label text title alt section after followed column".split(), "hint text"])
_LATER = 0.35
"""Share with which further features of a group count."""
_MOST = 7.0
"""Largest weight of one feature (natural logarithm of a ratio)."""


def _level(old: Value, new: Value) -> float:
    """Return how far two values agree: 1 the same, above SIMILAR similar, 0 different."""
    if old == new:
        return 1.0
    if isinstance(old, tuple) and isinstance(new, tuple):
        union = len({*old, *new})
        return len({*old} & {*new}) / union * 1.2 if union else 0.0
    if isinstance(old, str) and isinstance(new, str) and old and new:
        if old.replace(" ", "") == new.replace(" ", ""):
            return 1.0
        ratio = fuzz.ratio(old, new) / 100
        if " " in old and " " in new:  # the same words in another order, or with others between
            ratio = max(ratio, fuzz.token_set_ratio(old, new) / 100 * 0.9)
        shorter, longer = sorted((old, new), key=len)
        if len(shorter) >= 4 and shorter in longer:
            return max(ratio, 0.75)
        # In short words one other letter makes another word: Price is not a kind of Piece.
        return ratio if len(shorter) >= SHORT or ratio > 0.85 else ratio * 0.7
    return 0.0


class Page:
    """The nodes of a page as a background: how often a value occurs there by chance."""

    def __init__(self, nodes: Sequence[Facts]) -> None:
        self.size = len(nodes)
        self._counts = {
            feature.name: Counter(feature.read(facts) for facts in nodes) for feature in FEATURES
        }

    def chance(self, feature: Feature, value: Value) -> float:
        """Return the share of nodes (0 to 1) that have the value, smoothed to the usual one."""
        weight = 4.0
        count = self._counts[feature.name][value]
        return (count + weight * feature.rare) / (self.size + weight)


@dataclass(frozen=True)
class Evidence:
    """What speaks for or against a node: the feature, the weight, and both values."""

    feature: str
    weight: float
    before: str
    now: str


def _weight(feature: Feature, old: Value, new: Value, page: Page) -> float:
    level = _level(old, new)
    chance = min(max(page.chance(feature, old), 0.002), 0.98)
    if level >= 1.0:
        ratio = feature.same / chance
    elif level >= SIMILAR and feature.similar:
        near = min(max(chance * 1.5, 0.004), 0.6)
        ratio = max(feature.similar / near * 2 * (level - SIMILAR / 2), 0.2)
        ratio = min(ratio, feature.same / chance)
    else:
        rest = max(1 - feature.same - feature.similar, 0.02)
        if not new:
            rest *= 1.6  # a fact that went away says less than one that says something else
        ratio = rest / max(1 - chance, 0.02)
    return max(-_MOST, min(_MOST, math.log(ratio)))


_WITH_KIND = frozenset(("href", "type", "src", "options"))


def evidence(old: Facts, new: Facts, page: Page) -> list[Evidence]:
    """Return what each feature that the old node had says about the new one being the same."""
    found = []
    for feature in FEATURES:
        before, now = feature.read(old), feature.read(new)
        if not before:
            continue
        if feature.name in _WITH_KIND and not now and kind_of(old) != kind_of(new):
            continue  # a link that became a button has no address: that is one change, told once
        weight = _weight(feature, before, now, page)
        told = (before, now)
        if feature.name in TOLD:  # compared without case and spacing, told as it stands there
            told = (old.get(feature.name), new.get(feature.name))
        found.append(Evidence(feature.name, weight, shown(told[0]), shown(told[1])))
    return found


def shown(value: Value) -> str:
    """Return a value as people read it."""
    return " | ".join(value) if isinstance(value, tuple) else value


GROUPS = {feature.name: feature.group for feature in FEATURES}
"""The group of each feature by its name."""


def total(found: Sequence[Evidence]) -> float:
    """Add up evidence; within a group the strongest piece counts in full, others by a share."""
    groups: dict[str, list[float]] = {}
    for piece in found:
        groups.setdefault(GROUPS[piece.feature], []).append(piece.weight)
    result = 0.0
    for weights in groups.values():
        weights.sort(key=abs, reverse=True)
        result += weights[0] + _LATER * sum(weights[1:])
    return result


def likeness(old: Facts, new: Facts, page: Page) -> float:
    """Return the logarithm of how many times likelier the nodes are one thing than two."""
    return total(evidence(old, new, page))
