"""Handing defects over to an outside tracker: how its fields and words are named.

A tracker keeps items as JSON. A mapping says where in an item each part of a defect goes, by a
path of names with dots between ("fields.summary"), and what the tracker's words for states and
weights are. All of it is data that a lead writes in the settings.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, field, fields
from typing import Any

from lantern.core.problems import BadInput, UnknownName
from lantern.core.review.defects import PRIORITIES, SEVERITIES, STATES

PARTS = (
    "title", "description", "state", "severity", "priority", "owner", "environment", "browser",
    "release", "fixed_in", "requirements", "address", "reference", "steps", "expected", "found",
    "notes",
)  # fmt: skip
"""What of a defect may go over. `description` is all of its texts in one; `address` leads back."""
WORDED = {"state": STATES, "severity": SEVERITIES, "priority": PRIORITIES}
"""The parts whose words the tracker may call otherwise."""
LONGEST_PATH, MOST_WORDS = 200, 60

Json = dict[str, Any]


@dataclass(frozen=True)
class FieldMap:
    """How a tracker's items are written.

    `fields` says where each part goes; what is not in it is not sent. `words` are the tracker's
    words for those of Lantern, by part; `back` are Lantern's states for the tracker's. `fixed` are
    values that every new item gets, by path. `key`, `link` and `said` are where the tracker's
    answers hold an item's id, its page, and where the text of a comment goes.
    """

    fields: Mapping[str, str]
    words: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    back: Mapping[str, str] = field(default_factory=dict)
    fixed: Mapping[str, Any] = field(default_factory=dict)
    key: str = "id"
    link: str = "url"
    said: str = "text"

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> FieldMap:
        """Build it from JSON; raises BadInput or UnknownName with what is wrong where."""
        known = {one.name for one in fields(cls)}
        try:
            made = cls(**{name: value for name, value in raw.items() if name in known})
            made.check()
        except (TypeError, AttributeError) as error:
            raise BadInput("That is no mapping of fields.", where="mapping") from error
        return made

    def write(self) -> Json:
        """Return it as JSON."""
        return asdict(self)

    def check(self) -> None:
        """Raise BadInput or UnknownName where it can not be used."""
        for part in self.fields:
            if part not in PARTS:
                raise UnknownName("part of a defect", part, PARTS, where="fields")
        if "title" not in self.fields:
            raise BadInput("Say where the title goes.", where="fields")
        for path in (*self.fields.values(), *self.fixed, self.key, self.link, self.said):
            _check_path(path)
        _check_apart([*self.fields.values(), *self.fixed])
        for part, words in self.words.items():
            if part not in WORDED:
                raise UnknownName("part with words", part, WORDED, where="words")
            for ours in words:
                if ours not in WORDED[part]:
                    raise UnknownName(part, ours, WORDED[part], where="words")
        if len(self.back) > MOST_WORDS:
            raise BadInput(f"There are up to {MOST_WORDS} states.", where="back")
        for ours in self.back.values():
            if ours not in STATES:
                raise UnknownName("state", ours, STATES, where="back")


USUAL = FieldMap(
    fields={
        "title": "title", "description": "text", "state": "state", "severity": "severity",
        "priority": "priority", "release": "seen_in", "fixed_in": "fixed_in",
        "address": "origin", "reference": "reference",
    },
    words={"state": {"open": "new", "in work": "doing", "fixed": "done", "closed": "closed"}},
    back={"new": "open", "doing": "in work", "done": "fixed", "closed": "closed"},
)  # fmt: skip
"""The plain shape, with which nothing needs to be mapped."""


def _check_path(path: str) -> None:
    if not isinstance(path, str) or len(path) > LONGEST_PATH or not all(path.split(".")):
        raise BadInput(
            f"“{path}” is no path to a field.", where="fields", hint="Such as title or item.title."
        )


def _check_apart(paths: Iterable[str]) -> None:
    """Raise BadInput where two parts would be written to one field, or one into the other."""
    seen: list[str] = []
    for path in paths:
        for other in seen:
            if path == other or path.startswith(other + ".") or other.startswith(path + "."):
                raise BadInput(f"“{other}” and “{path}” are the same field.", where="fields")
        seen.append(path)


def put(item: Json, path: str, value: object) -> None:
    """Put a value into an item at a path."""
    *way, last = path.split(".")
    for name in way:
        item = item.setdefault(name, {})
    item[last] = value


def get(item: object, path: str) -> str:
    """Return the text at a path, "" where there is none; numbers are written out."""
    for name in path.split("."):
        item = item.get(name) if isinstance(item, dict) else None
    return str(item) if isinstance(item, str | int | float) and not isinstance(item, bool) else ""


def told(mapping: FieldMap, parts: Mapping[str, str]) -> dict[str, str]:
    """Return what a tracker is to know of a defect: by path, in its own words."""
    found = {}
    for part, path in mapping.fields.items():
        value = parts.get(part, "")
        found[path] = mapping.words.get(part, {}).get(value, value)
    return found


def item_of(values: Mapping[str, Any]) -> Json:
    """Return the JSON in which values stand at their paths."""
    item: Json = {}
    for path, value in values.items():
        put(item, path, value)
    return item


@dataclass(frozen=True)
class Seen:
    """What a tracker says of an item: its key, its page, its state and the release of its fix."""

    key: str
    link: str
    state: str
    fixed_in: str


def seen(mapping: FieldMap, item: object) -> Seen:
    """Read what a tracker answered."""
    link = get(item, mapping.link)
    return Seen(
        key=get(item, mapping.key)[:LONGEST_PATH],
        link=link if link.startswith(("http://", "https://")) else "",
        state=get(item, mapping.fields.get("state", "state")),
        fixed_in=get(item, mapping.fields.get("fixed_in", "fixed_in")),
    )


def news(mapping: FieldMap, before: Seen, now: Seen) -> dict[str, str]:
    """Return what of a defect changed at the tracker since it was seen last: state, fixed_in.

    A state that the mapping has no word for changes nothing.
    """
    found = {}
    if now.state != before.state and now.state in mapping.back:
        found["state"] = mapping.back[now.state]
    if now.fixed_in != before.fixed_in:
        found["fixed_in"] = now.fixed_in
    return found


def description(parts: Mapping[str, str]) -> str:
    """Return the texts of a defect as one, in Markdown."""
    heads = (
        ("steps", "Steps"),
        ("expected", "Expected"),
        ("found", "Found"),
        ("notes", "Notes"),
    )
    texts = [f"**{head}**\n\n{parts[part]}" for part, head in heads if parts.get(part)]
    where = [parts[part] for part in ("environment", "browser", "release") if parts.get(part)]
    return "\n\n".join([*texts, *([" · ".join(where)] if where else [])])
