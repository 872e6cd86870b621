"""The plays that ship with the demo: what came of the sample project in each mood of the desk."""

from __future__ import annotations

import gzip
import json
import zipfile
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

FOLDER = Path(__file__).parent / "plays"
PLAYS, PICTURES = "plays.json.gz", "pictures.zip"
DESK = "http://kiln-desk.invalid"
"""What stands in the plays for the address of the desk."""
CAST = (
    "position", "number", "values", "browser", "engine", "version", "takings", "failures",
    "message", "kept", "outcome",
)  # fmt: skip
"""What is kept of a row."""
RESULT = (
    "taking", "place", "position", "step_id", "sentence", "outcome", "reason", "message", "hint",
    "expected", "found", "used", "limit", "picture", "details",
)  # fmt: skip
"""What is kept of a sentence's result."""


def read(sample: str) -> Mapping[str, Any]:
    """Return the plays by mood, as if they had been played at an address."""
    raw = gzip.decompress((FOLDER / PLAYS).read_bytes()).decode()
    found: dict[str, Any] = json.loads(raw.replace(DESK, sample))
    return found


def pictures() -> Iterator[tuple[str, bytes]]:
    """Return the pictures with the digests under which results name them."""
    with zipfile.ZipFile(FOLDER / PICTURES) as archive:
        for name in archive.namelist():
            yield name.partition(".")[0], archive.read(name)
