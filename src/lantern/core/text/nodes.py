"""Reading YAML (1.1, as PyYAML reads it) with the line of everything, for errors at their place.

Every plain value is the text that stands there: `04` stays `04`, `yes` stays `yes`.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import yaml

from lantern.core.problems import BadInput, Problem, nearest

LONGEST = 20_000_000
MOST_DEEP = 60
_Loader: Any = getattr(yaml, "CSafeLoader", yaml.SafeLoader)


@dataclass(frozen=True)
class Trouble:
    """What is wrong in a text; `line` from 1. What does not `block` may be put in place."""

    line: int
    message: str
    hint: str = ""
    blocks: bool = True


class Spot:
    """A place in a text. What is wrong there is noted in `log`, and reading goes on."""

    def __init__(self, node: yaml.Node | None, line: int, log: list[Trouble]) -> None:
        self.node, self.line, self.log = node, line, log

    def wrong(self, message: str, hint: str = "") -> None:
        """Take note of something wrong here."""
        self.log.append(Trouble(self.line, message, hint))

    def problem(self, error: Problem) -> None:
        """Take note of a problem of what stands here."""
        self.wrong(error.message, error.hint)

    @property
    def there(self) -> bool:
        """Whether anything stands here; an empty value counts as nothing."""
        empty = isinstance(self.node, yaml.ScalarNode) and self.node.tag.endswith(":null")
        return self.node is not None and not empty

    def text(self, default: str = "") -> str:
        """Return the text here."""
        if not self.there:
            return default
        if not isinstance(self.node, yaml.ScalarNode):
            self.wrong("A single value is wanted here.")
            return default
        return str(self.node.value)

    def items(self) -> list[Spot]:
        """Return the places of a list."""
        if not self.there:
            return []
        if not isinstance(self.node, yaml.SequenceNode):
            self.wrong("A list is wanted here.", "Begin each entry with “- ”.")
            return []
        return [self._at(node) for node in self.node.value]

    def texts(self) -> tuple[str, ...]:
        """Return the texts of a list."""
        return tuple(item.text() for item in self.items())

    def entries(self) -> Iterator[tuple[str, Spot]]:
        """Yield the names and places of a mapping."""
        if not self.there:
            return
        if not isinstance(self.node, yaml.MappingNode):
            self.wrong("Names with values are wanted here.", "Write name: value.")
            return
        seen: set[str] = set()
        for key, value in self.node.value:
            name = str(key.value) if isinstance(key, yaml.ScalarNode) else ""
            if name in seen:
                self._at(key).wrong(f"“{name}” is there twice.")
            seen.add(name)
            yield name, self._at(value)

    def parts(self, known: Iterable[str]) -> dict[str, Spot]:
        """Return the parts of a mapping by name; those that are missing are empty places.

        Names that are not known are noted as wrong, with the nearest that is.
        """
        names = list(known)
        found = {name: Spot(None, self.line, self.log) for name in names}
        for name, spot in self.entries():
            if name in found:
                found[name] = spot
                continue
            close = nearest(name, names)
            hint = f"Did you mean {close}?" if close else f"Known: {', '.join(names)}."
            spot.wrong(f"“{name}” is not known here.", hint)
        return found

    def mapping(self) -> dict[str, Any]:
        """Return a mapping as plain data, {} for nothing."""
        found = self._plain()
        if found is None or isinstance(found, dict):
            return found or {}
        self.wrong("Names with values are wanted here.", "Write name: value.")
        return {}

    def _plain(self) -> Any:  # noqa: ANN401 - any JSON value
        if self.node is None:
            return None
        try:
            return yaml.SafeLoader("").construct_document(self.node)
        except (yaml.YAMLError, ValueError, TypeError) as error:
            self.wrong(f"This can not be read: {getattr(error, 'problem', None) or error}.")
            return None

    def _at(self, node: yaml.Node) -> Spot:
        return Spot(node, node.start_mark.line + 1, self.log)


def read(text: str) -> Spot:
    """Return the top of a text; raises BadInput, with the line, for what is no YAML."""
    if len(text) > LONGEST:
        raise BadInput(f"The text has more than {LONGEST // 1_000_000} million characters.")
    try:
        _plain_enough(text)
        node = yaml.compose(text, Loader=_Loader)
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        line = mark.line + 1 if mark else 1
        raise BadInput(
            f"The text can not be read: {error.problem or error.context}.", where=f"line {line}"
        ) from error
    except yaml.YAMLError as error:
        raise BadInput(f"The text can not be read: {error}.", where="line 1") from error
    if node is None:
        raise BadInput("The text is empty.", where="line 1")
    return Spot(node, node.start_mark.line + 1, [])


def _plain_enough(text: str) -> None:
    """Raise BadInput for what could make a small text enormous, or endless to read."""
    deep = 0
    for event in yaml.parse(text, Loader=_Loader):
        line = f"line {event.start_mark.line + 1}"
        if isinstance(event, yaml.AliasEvent):
            raise BadInput("References (*name) are not part of this format.", where=line)
        deep += isinstance(event, yaml.CollectionStartEvent)
        deep -= isinstance(event, yaml.CollectionEndEvent)
        if deep > MOST_DEEP:
            raise BadInput(f"This is nested more than {MOST_DEEP} deep.", where=line)


class Flow(dict[str, Any]):
    """A mapping that is written on one line."""


class FlowList(list[Any]):
    """A list that is written on one line."""


class _Dumper(yaml.SafeDumper):  # type: ignore[misc]
    def increase_indent(self, flow: bool = False, indentless: bool = False) -> None:
        super().increase_indent(flow, indentless)


def _flow_mapping(dumper: yaml.SafeDumper, data: Flow) -> yaml.Node:
    return dumper.represent_mapping("tag:yaml.org,2002:map", data, flow_style=True)


def _flow_list(dumper: yaml.SafeDumper, data: FlowList) -> yaml.Node:
    return dumper.represent_sequence("tag:yaml.org,2002:seq", data, flow_style=True)


def _string(dumper: yaml.SafeDumper, data: str) -> yaml.Node:
    if "\n" in data and _shown(data):
        return dumper.represent_scalar("tag:yaml.org,2002:str", data, style="|")
    style = None if _shown(data) else '"'
    return dumper.represent_scalar("tag:yaml.org,2002:str", data, style=style)


def _shown(data: str) -> bool:
    """Tell whether a text can stand as it is, without escapes."""
    return all(letter == "\n" or letter.isprintable() for letter in data)


_Dumper.add_representer(Flow, _flow_mapping)
_Dumper.add_representer(FlowList, _flow_list)
_Dumper.add_representer(str, _string)


def write(data: dict[str, Any]) -> str:
    """Return data as YAML, in the order that it has."""
    made = yaml.dump(data, Dumper=_Dumper, sort_keys=False, allow_unicode=True, width=10_000)
    return str(made)
