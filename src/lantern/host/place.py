"""Where this Lantern keeps its data, as its settings say: known before anything else is imported.

Uses the standard library alone, as the set-up does.
"""

from __future__ import annotations

import os
import tomllib
from pathlib import Path


class SetupFailed(Exception):
    """A step of the set-up or the start failed; the message says what, and what to do."""


def take(config: str | None) -> None:
    """Let the data folder be what a file of settings says, unless the environment says another.

    Raises SetupFailed for a file that can not be read.
    """
    file = config or os.environ.get("LANTERN_CONFIG", "")
    if not file or os.environ.get("LANTERN_DATA"):
        return
    try:
        data = tomllib.loads(Path(file).read_text(encoding="utf-8")).get("data")
    except (OSError, ValueError) as error:
        raise SetupFailed(f"The file of settings {file} can not be read: {error}") from error
    if isinstance(data, str) and data:
        os.environ["LANTERN_DATA"] = data
