"""Value templates as Python expressions."""

from __future__ import annotations

from lantern.core.values.made import call_in
from lantern.core.values.sources import SOURCES
from lantern.core.values.templates import INSIDE, PLACE


def expression(template: str) -> str:
    """Return the Python expression that gives what a template stands for."""
    pieces: list[str] = []
    last = 0
    for place in PLACE.finditer(template):
        if place.start() > last:
            pieces.append(repr(template[last : place.start()]))
        last = place.end()
        if place.group().startswith("$$"):
            pieces.append(repr(place.group()[1:]))
        else:
            pieces.append(_place(place.group(1)))
    if last < len(template) or not pieces:
        pieces.append(repr(template[last:]))
    return " + ".join(pieces)


def _place(inside: str) -> str:
    if call_in(inside):
        name, _, arguments = inside.strip().partition("(")
        return f"made_{name.strip()}({arguments}"
    match = INSIDE.fullmatch(inside)
    if match is None:
        return repr(f"${{{inside}}}")
    source, name = match.groups()
    if (source, name) == ("env", "base_url"):
        return "BASE"
    return SOURCES[source].python.format(repr(name))
