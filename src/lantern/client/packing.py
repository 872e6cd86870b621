"""The client as one file that Python runs."""

from __future__ import annotations

import io
import tempfile
import zipapp
from importlib.resources import files
from pathlib import Path

PARTS = ("__init__.py", "talk.py", "command.py")
BEGIN = "import sys\n\nfrom lantern_client.command import main\n\nsys.exit(main())\n"


def packed() -> bytes:
    """Return the client as a zip application: run it with `python3 FILE`."""
    here = files("lantern.client")
    with tempfile.TemporaryDirectory() as folder:
        package = Path(folder) / "lantern_client"
        package.mkdir()
        for name in PARTS:
            package.joinpath(name).write_text(here.joinpath(name).read_text("utf-8"), "utf-8")
        Path(folder, "__main__.py").write_text(BEGIN, encoding="utf-8")
        content = io.BytesIO()
        zipapp.create_archive(folder, content, interpreter="/usr/bin/env python3", compressed=True)
    return content.getvalue()
