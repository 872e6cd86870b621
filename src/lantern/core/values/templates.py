"""Values with names in them: `Moon jar`, `${row.clay}`, `${env.base_url}/quote`, `${secret.pin}`.

Plain text is itself. `$${` stands for a literal `${`. Made-up values are calls: `${uuid()}`.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from urllib.parse import quote, quote_plus

from lantern.core.problems import BadInput, UnknownName, nearest
from lantern.core.values.made import FUNCTIONS, call_in, draw
from lantern.core.values.redaction import MASK, SHORTEST, redacted
from lantern.core.values.sources import SOURCES, Names

_NAME = r"[A-Za-z_][A-Za-z0-9_]*"
PLACE = re.compile(r"\$?\$\{([^{}]*)\}")
"""A place in a template; `$$` before it says that it is meant literally."""
INSIDE = re.compile(rf"\s*({_NAME})\.({_NAME})\s*")
_WHOLE_NAME = re.compile(rf"{_NAME}\Z")


def check_name(name: str, what: str = "column") -> str:
    """Return `name` if it may name a column or variable.

    Raises BadInput with a proposed name when it has other characters than letters, digits and
    underscores, or starts with a digit.
    """
    if _WHOLE_NAME.match(name):
        return name
    proposed = propose_name(name)
    raise BadInput(
        f"{name!r} can not be the name of a {what}: use letters, digits and underscores.",
        where=name,
        hint=f"For example {proposed}.",
    )


def propose_name(text: str) -> str:
    """Turn any text into a name: lower case words joined by underscores."""
    words = re.findall(r"[A-Za-z0-9]+", text.lower())
    name = "_".join(words)[:40].strip("_") or "value"
    return f"v_{name}" if name[0].isdigit() else name


def places(template: str) -> list[tuple[str, str]]:
    """Return the (source, name) pairs used in a template, in order; raises BadInput if odd."""
    found = []
    for place in PLACE.finditer(template):
        if place.group().startswith("$$") or call_in(place.group(1)):
            continue
        inside = INSIDE.fullmatch(place.group(1))
        if not inside or inside.group(1) not in SOURCES:
            source = place.group(1).split(".")[0].strip()
            close = nearest(source, SOURCES)
            known = ", ".join(
                [
                    *(f"${{{name}.…}}" for name in SOURCES),
                    *(f"${{{name}(…)}}" for name in FUNCTIONS),
                ]
            )
            raise BadInput(
                f"{place.group()!r} is not a value that Lantern knows. Known: {known}.",
                where=template,
                hint=f"Did you mean ${{{close}.…}}?" if close else "",
            )
        found.append((inside.group(1), inside.group(2)))
    return found


def has_made(template: str) -> bool:
    """Tell whether a template holds a made-up value."""
    return any(
        not place.group().startswith("$$") and call_in(place.group(1)) is not None
        for place in PLACE.finditer(template)
    )


def resolve(template: str, names: Names, key: str = "") -> str:
    """Return the template with its names replaced by their values.

    `key` tells apart the places for which values are made up, such as sentences. Raises
    UnknownName (listing what exists) or BadInput.
    """
    return _fill(template, names, key, mask=False)


def shown(template: str, names: Names, key: str = "") -> str:
    """Return what `resolve` returns, with secrets masked: fit for results and logs."""
    return _fill(template, names, key, mask=True)


def _fill(template: str, names: Names, key: str, *, mask: bool) -> str:
    places(template)

    def value(place: re.Match[str]) -> str:
        if place.group().startswith("$$"):
            return place.group()[1:]
        if call_in(place.group(1)):
            return _made(place, names, key)[1]
        source, _, name = place.group(1).strip().partition(".")
        known = SOURCES[source].reach(names)
        if name not in known:
            raise UnknownName(SOURCES[source].what, name, known, where=template)
        return MASK if mask and SOURCES[source].hidden else known[name]

    return PLACE.sub(value, template)


def _made(place: re.Match[str], names: Names, key: str) -> tuple[str, str]:
    """Return what is made up for a place, behind the name of that place."""
    seed = f"{names.seed}|{key}|{place.start()}"
    if seed in names.instead:
        return seed, names.instead[seed]
    return seed, draw(place.group(1), seed, names.today, names.of_field)


def made_in(template: str, names: Names, key: str = "") -> list[tuple[str, str, str]]:
    """Return what a template makes up: the place it is made up for, the call, and the value.

    Raises BadInput where a call can not be carried out.
    """
    return [
        (*_made(place, names, key)[:1], place.group(1).strip(), _made(place, names, key)[1])
        for place in PLACE.finditer(template)
        if not place.group().startswith("$$") and call_in(place.group(1)) is not None
    ]


def renamed(template: str, source: str, old: str, new: str) -> str:
    """Return the template with one name of a source replaced by another."""

    def change(place: re.Match[str]) -> str:
        inside = INSIDE.fullmatch(place.group(1))
        if place.group().startswith("$$") or not inside or inside.groups() != (source, old):
            return place.group()
        return f"${{{source}.{new}}}"

    return PLACE.sub(change, template)


_HANDED = re.compile(r"\$\{input\.([A-Za-z_]\w*)\}")


def handed_in(template: str, outer: Mapping[str, str]) -> str:
    """Return what a sentence of a flow is given, with what its call hands in for its inputs.

    What is handed in are templates of the caller; an input that is not handed in stays as it is.
    """
    return _HANDED.sub(lambda place: outer.get(place[1], place[0]), template)


def literal(text: str) -> str:
    """Return a template that resolves to exactly `text`."""
    return text.replace("${", "$${")


def masked(text: str, secrets: Mapping[str, str]) -> str:
    """Replace every secret value that occurs in `text`, in any usual form, by a mask."""
    return redacted(text, secrets.values())


def named(text: str, secrets: Mapping[str, str]) -> str:
    """Return a template for a text in which secret values stand by their names.

    Also where they are percent-encoded, as in addresses; other forms of them are masked.
    """
    for name, value in sorted(secrets.items(), key=lambda entry: len(entry[1]), reverse=True):
        if len(value) >= SHORTEST:
            for form in (value, quote(value), quote(value, safe=""), quote_plus(value)):
                text = text.replace(form, f"${{secret.{name}}}")
    return masked(text, secrets)
