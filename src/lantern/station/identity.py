"""Who a station is: the same one whenever it is started again in its folder."""

from __future__ import annotations

import fcntl
import os
import re
import uuid
from contextlib import suppress
from pathlib import Path

MOST = 64
"""Stations that one folder can hold at once."""
_KEY = re.compile(r"[0-9a-f]{12}")


class Identity:
    """The key of a station, held as long as it runs.

    Several in one folder are different ones: each takes the first key that no living one holds.
    Without a folder, or where it can not be written, the key is a new one.
    """

    def __init__(self, folder: Path | None) -> None:
        self._lock = -1
        self.key = self._held(folder) if folder else ""
        self.key = self.key or uuid.uuid4().hex[:12]

    def _held(self, folder: Path) -> str:
        for number in range(1, MOST + 1):
            try:
                folder.mkdir(parents=True, exist_ok=True)
                path = folder / f"station-{number}.key"
                self._lock = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
            except OSError:
                return ""
            try:
                fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:  # a living station has it
                os.close(self._lock)
                self._lock = -1
                continue
            return self._read()
        return ""

    def _read(self) -> str:
        """Return the key in the file that is held, written if there is none and it can be."""
        text = os.read(self._lock, 64).decode("ascii", "replace").strip()
        if not _KEY.fullmatch(text):
            text = uuid.uuid4().hex[:12]
            with suppress(OSError):  # a disk that is full: it is another one the next time
                os.ftruncate(self._lock, 0)
                os.pwrite(self._lock, text.encode(), 0)
        return text

    def close(self) -> None:
        """Let others have the key."""
        if self._lock >= 0:
            os.close(self._lock)
            self._lock = -1
