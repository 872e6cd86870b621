"""The items of the tracker, kept in a file so that they outlive it."""

from __future__ import annotations

import json
import os
import threading
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

STATES = ("new", "doing", "done", "closed", "dropped")
WEIGHTS = ("critical", "major", "minor", "cosmetic")
OWN = frozenset({"id", "url", "comments", "made_at"})
"""What the tracker itself says of an item."""


@dataclass
class Item:
    """An item: `values` are what anybody may write, with at least a title and a state."""

    id: str
    values: dict[str, Any]
    made_at: str
    comments: list[dict[str, str]] = field(default_factory=list)
    keys: list[str] = field(default_factory=list)
    """The idempotency keys of what made it and its comments."""

    @property
    def title(self) -> str:
        """Its title."""
        return str(self.values.get("title", ""))

    @property
    def state(self) -> str:
        """Its state."""
        return str(self.values.get("state", "new"))


class Items:
    """All items, to be used from any thread; `file` None keeps them in memory alone."""

    def __init__(self, file: Path | None = None) -> None:
        self._file = file
        self._lock = threading.RLock()
        self._items: dict[str, Item] = {}
        if file is not None and file.exists():
            raw = json.loads(file.read_text("utf-8"))
            self._items = {one["id"]: Item(**one) for one in raw}

    def all(self) -> list[Item]:
        """Return the items, newest first."""
        with self._lock:
            return list(reversed(self._items.values()))

    def get(self, key: str) -> Item | None:
        """Return an item, None when there is none."""
        return self._items.get(key)

    def make(self, values: Mapping[str, Any], key: str = "") -> Item:
        """Make an item; the same idempotency key makes none a second time."""
        with self._lock:
            for one in self._items.values():
                if key and key in one.keys:
                    return one
            name = f"SLATE-{len(self._items) + 1}"
            made = Item(name, {"state": "new", **values}, datetime.now(UTC).isoformat())
            made.keys += [key] if key else []
            self._items[name] = made
            self._keep()
            return made

    def change(self, item: Item, values: Mapping[str, Any]) -> None:
        """Change what is written of an item."""
        with self._lock:
            item.values.update({name: value for name, value in values.items() if name not in OWN})
            self._keep()

    def comment(self, item: Item, author: str, text: str, key: str = "") -> None:
        """Comment on an item; the same idempotency key does not a second time."""
        with self._lock:
            if key and key in item.keys:
                return
            item.comments.append({"author": author, "text": text})
            item.keys += [key] if key else []
            self._keep()

    def clear(self) -> None:
        """Forget all items."""
        with self._lock:
            self._items.clear()
            self._keep()

    def _keep(self) -> None:
        if self._file is None:
            return
        fresh = self._file.with_suffix(".new")
        fresh.write_text(json.dumps([asdict(one) for one in self._items.values()]), "utf-8")
        os.replace(fresh, self._file)
