"""Value templates as Python expressions."""

from __future__ import annotations

from dataclasses import fields

from lantern.core.elements.facts import Facts
from lantern.core.values.fitting import limits_of
from lantern.core.values.made import FUNCTIONS, call_in
from lantern.core.values.sources import SOURCES
from lantern.core.values.templates import INSIDE, PLACE, has_made

FITTING = "fitting(limits, DRAWS, date.today())"


def expression(template: str, seen: Facts | None = None) -> str:
    """Return the Python expression that gives what a template stands for.

    What is made up is drawn until the field takes it of which `seen` are the facts.
    """
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
    text = " + ".join(pieces)
    limits = limits_of(seen)
    if not has_made(template) or not (limits.known or FITTING in text):
        return text
    given = ", ".join(
        f"{one.name}={getattr(limits, one.name)!r}"
        for one in fields(limits)
        if getattr(limits, one.name) != one.default
    )
    return f"fits(Limits({given}), lambda limits: {text})"


def _place(inside: str) -> str:
    call = call_in(inside)
    if call:
        made = FUNCTIONS[call[0]]
        if made.of_field:
            return FITTING
        return f"made({', '.join([made.draw.__name__, *map(repr, call[1])])})"
    match = INSIDE.fullmatch(inside)
    if match is None:
        return repr(f"${{{inside}}}")
    source, name = match.groups()
    if (source, name) == ("env", "base_url"):
        return "BASE"
    return SOURCES[source].python.format(repr(name))
