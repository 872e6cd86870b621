"""`./lantern wheel`: Lantern as a package that `pip` installs, with the front end in it."""

from __future__ import annotations

import shutil
import sys
import tempfile
from pathlib import Path

from lantern.host.setup import INSTALLED, ROOT, SetupFailed, run, say

PARTS = ("pyproject.toml", "requirements.in", "README.md", "src")
"""What a package is made of."""


def build(folder: Path) -> int:
    """Write the wheel, and the locked requirements of running it, to a folder; the exit code."""
    if INSTALLED:
        raise SetupFailed("A wheel is built in the folder of Lantern's sources.")
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="lantern-wheel-") as place:
        # Apart from the sources, in which building leaves things behind.
        sources = Path(place)
        for name in PARTS:
            source = ROOT / name
            if source.is_dir():
                ignored = shutil.ignore_patterns("__pycache__", "*.pyc", "*.egg-info")
                shutil.copytree(source, sources / name, ignore=ignored)
            else:
                shutil.copyfile(source, sources / name)
        command = [
            sys.executable,
            "-m",
            "pip",
            "wheel",
            "--quiet",
            "--no-deps",
            "--no-build-isolation",
        ]
        run([*command, "--wheel-dir", str(folder), "."], where=sources)
    shutil.copyfile(ROOT / "requirements.txt", folder / "requirements.txt")
    for wheel in sorted(folder.glob("lantern-*.whl")):
        say(f"{wheel}\nInstall it with: pip install -r {folder / 'requirements.txt'} {wheel}")
    return 0
