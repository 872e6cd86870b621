"""What the text form calls things that documents know by ids."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from lantern.core.elements.clues import Element
from lantern.core.problems import nearest


@dataclass(frozen=True)
class Known:
    """Names by id, of elements, flows and shared tables; `elements` as `labels` gives them."""

    elements: Mapping[str, str] = field(default_factory=dict)
    flows: Mapping[str, str] = field(default_factory=dict)
    tables: Mapping[str, str] = field(default_factory=dict)


def labels(elements: Iterable[Element]) -> dict[str, str]:
    """Return what each element is called, by id: its name and page, and the id if need be."""
    found: dict[str, str] = {}
    taken: dict[str, str] = {}
    for element in sorted(elements, key=lambda one: one.id):
        label = f"{element.name} on {element.page}" if element.page else element.name
        if label in taken:
            label = f"{label} #{element.id}"
        taken[label] = element.id
        found[element.id] = label
    return found


def id_of(name: str, known: Mapping[str, str]) -> str | None:
    """Return the id of a thing by its name, or by the id itself; None when there is none."""
    if name in known:
        return name
    return next((key for key, called in known.items() if called == name), None)


def close_to(name: str, known: Mapping[str, str]) -> str:
    """Return a hint at the nearest name."""
    close = nearest(name, known.values())
    return f"Did you mean {close}?" if close else ""


def slug(name: str, taken: Iterable[str]) -> str:
    """Return a name for a file, made of the name of a thing; different from those taken."""
    plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:60] or "unnamed"
    found, number = plain, 2
    while found in taken:
        found, number = f"{plain}-{number}", number + 1
    return found
