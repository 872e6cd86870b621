"""Installing the yard's libraries as locked, and building its pages."""

from __future__ import annotations

import fcntl
from pathlib import Path

from lantern.host.setup import OWN, digest, once, run

HERE = Path(__file__).parent
SOURCES = HERE / "src"
BUILT = HERE / "built"
SETTINGS = {
    "process.env.NODE_ENV": '"development"',  # strict mode renders twice only then
    "__VUE_OPTIONS_API__": "true",
    "__VUE_PROD_DEVTOOLS__": "false",
    "__VUE_PROD_HYDRATION_MISMATCH_DETAILS__": "false",
}


def build() -> None:
    """Install and build what is missing; of several at once, one does and the others wait.

    Raises SetupFailed.
    """
    OWN.mkdir(exist_ok=True)
    with (OWN / "yard.lock").open("w") as turn:
        fcntl.flock(turn, fcntl.LOCK_EX)
        _build()


def _build() -> None:
    lock = HERE / "package-lock.json"
    once(
        "yard packages",
        "Installing the yard's packages",
        digest([lock]),
        HERE / "node_modules" / ".package-lock.json",
        lambda: run(["npm", "ci", "--ignore-scripts"], where=HERE),
    )
    command = [
        str(HERE / "node_modules" / ".bin" / "esbuild"),
        *sorted(str(path) for path in SOURCES.glob("*.jsx")),
        "--bundle", "--format=esm", "--splitting", "--jsx=automatic", "--log-level=warning",
        f"--outdir={BUILT}",
        *(f"--define:{name}={value}" for name, value in SETTINGS.items()),
    ]  # fmt: skip
    once(
        "yard pages",
        "Building the yard's pages",
        digest([SOURCES, lock]),
        BUILT,
        lambda: run(command, where=HERE),
    )
