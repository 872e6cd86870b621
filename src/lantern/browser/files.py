"""Files that a page is given, and files that it lets one download."""

from __future__ import annotations

import shutil
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

from lantern.core.engine.requests import Download
from lantern.core.problems import Missing

LONGEST_TEXT = 100_000
"""Letters that are read of a download's text."""
LARGEST_DOWNLOAD = 200 * 1024 * 1024
"""Bytes of the largest download that is taken; a page must not fill the disk of a station."""


class Files:
    """A folder for files to be given; each keeps its own name, as the page sees it."""

    def __init__(self, within: Path) -> None:
        self._within = within
        self._folder: Path | None = None

    def put(self, name: str, content: bytes) -> str:
        """Write a file; returns its path."""
        if self._folder is None:
            self._folder = Path(tempfile.mkdtemp(prefix="files-", dir=self._within))
        path = self._folder / (Path(name).name or "file")
        path.write_bytes(content)
        return str(path)

    def remove(self) -> None:
        """Remove the folder."""
        if self._folder is not None:
            shutil.rmtree(self._folder, ignore_errors=True)


class Downloads:
    """The downloads of a context, in the order in which they began."""

    def __init__(self, within: Path) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="downloads-", dir=within))
        self.on_begin: Callable[[str], None] = lambda name: None
        self._names: dict[str, str] = {}
        self._states: dict[str, str] = {}
        self._lock = threading.Lock()

    def begin(self, params: dict[str, Any]) -> None:
        """Take note of a download that begins (on the connection's reading thread)."""
        with self._lock:
            self._names[params["guid"]] = Path(params["suggestedFilename"]).name or "download"
            self._states[params["guid"]] = "inProgress"
        self.on_begin(self._names[params["guid"]])

    def progress(self, params: dict[str, Any]) -> bool:
        """Take note of how a download goes; returns whether it is one to be broken off."""
        with self._lock:
            if params["guid"] not in self._names:
                return False
            size = max(int(params["receivedBytes"]), int(params.get("totalBytes", 0)))
            too_large = size > LARGEST_DOWNLOAD
            self._states[params["guid"]] = "canceled" if too_large else params["state"]
            if too_large and params["state"] == "completed":  # it was there before it could be told
                (self.folder / params["guid"]).unlink(missing_ok=True)
            return too_large and params["state"] == "inProgress"

    def listed(self) -> list[Download]:
        """Return all downloads."""
        with self._lock:
            states = dict(self._states)
        return [self._download(guid, state) for guid, state in states.items()]

    def _download(self, guid: str, state: str) -> Download:
        name, path = self._names[guid], self.folder / guid
        if state == "completed" and path.exists():
            with path.open("rb") as file:
                start = file.read(LONGEST_TEXT * 4)
            text = start.decode("utf-8", errors="replace")[:LONGEST_TEXT]
            return Download(guid, name, path.stat().st_size, "done", "" if "\0" in text else text)
        return Download(guid, name, 0, "failed" if state == "canceled" else "under way")

    def content(self, guid: str) -> tuple[str, bytes]:
        """Return the name and the bytes of a download; raises Missing."""
        path = self.folder / guid
        if guid not in self._names or not path.exists():
            raise Missing("That download is gone.")
        return self._names[guid], path.read_bytes()

    def remove(self) -> None:
        """Remove all files."""
        shutil.rmtree(self.folder, ignore_errors=True)
