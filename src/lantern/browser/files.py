"""Files that a page is given, and files that it lets one download."""

from __future__ import annotations

import shutil
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path

from lantern.account import give
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
            give(self._folder)
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
        give(self.folder)
        self.on_begin: Callable[[str], None] = lambda name: None
        self._names: dict[str, str] = {}
        self._paths: dict[str, Path | None] = {}
        self._lock = threading.Lock()

    def begun(self, key: str, name: str) -> None:
        """Take note of a download that begins (on the engine's reading thread)."""
        name = Path(name).name or "download"
        with self._lock:
            self._names[key] = name
        self.on_begin(name)

    def known(self, key: str) -> bool:
        """Tell whether a download is one of these."""
        return key in self._names

    def ended(self, key: str, path: Path | None) -> None:
        """Take note that a download is over: where it is, None when it failed.

        One that is too large counts as failed, and is removed.
        """
        if path and path.exists() and path.stat().st_size > LARGEST_DOWNLOAD:
            path.unlink(missing_ok=True)
            path = None
        with self._lock:
            if key in self._names:
                self._paths[key] = path

    def listed(self) -> list[Download]:
        """Return all downloads."""
        with self._lock:
            names = dict(self._names)
        return [self._download(key, name) for key, name in names.items()]

    def _download(self, key: str, name: str) -> Download:
        if key not in self._paths:
            return Download(key, name, 0, "under way")
        path = self._paths[key]
        if path is None or not path.exists():
            return Download(key, name, 0, "failed")
        with path.open("rb") as file:
            start = file.read(LONGEST_TEXT * 4)
        text = start.decode("utf-8", errors="replace")[:LONGEST_TEXT]
        return Download(key, name, path.stat().st_size, "done", "" if "\0" in text else text)

    def content(self, key: str) -> tuple[str, bytes]:
        """Return the name and the bytes of a download; raises Missing."""
        path = self._paths.get(key)
        if path is None or not path.exists():
            raise Missing("That download is gone.")
        return self._names[key], path.read_bytes()

    def remove(self) -> None:
        """Remove all files."""
        shutil.rmtree(self.folder, ignore_errors=True)
