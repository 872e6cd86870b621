"""Setting up what is missing. Uses the standard library alone: nothing else may be there yet.

Each step leaves a stamp of what it was made from; a step whose stamp still fits is left out.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path

from lantern.account import NAME, named, shut_at
from lantern.host.place import SetupFailed as SetupFailed

ROOT = Path(__file__).resolve().parents[3]
INSTALLED = not (ROOT / "requirements.txt").is_file()
"""Whether Lantern was installed as a package, and does not stand in its own folder."""


def _usual_place() -> Path:
    """Return where an installed Lantern keeps its data unless it is told."""
    if os.geteuid() == 0:
        return Path("/var/lib/lantern")
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "lantern"


OWN = _usual_place() if INSTALLED else ROOT / ".lantern"
STATE = Path(os.environ.get("LANTERN_DATA") or os.environ.get("LANTERN_STATE") or OWN)
"""Where a running Lantern keeps its data, logs and key; what was set up stays in OWN."""
WORKS_IN = Path("/") if INSTALLED else ROOT
"""The folder in which parts of Lantern are started."""

VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
FRONTEND = ROOT / "frontend"
PROBE = ROOT / "src" / "lantern" / "browser" / "probe.js"
STATIC = ROOT / "src" / "lantern" / "web" / "static"
LAST_LINES = 25
DEBIANS_PYTHON = "/usr/bin/python3"

PACKAGES: dict[str, Callable[[], bool]] = {
    "postgresql": lambda: postgres_programs() is not None,
    "chromium": lambda: shutil.which("chromium") is not None,
    "chromium-driver": lambda: shutil.which("chromedriver") is not None,
    "firefox-esr": lambda: shutil.which("firefox-esr") is not None,
    "webkit2gtk-driver": lambda: shutil.which("WebKitWebDriver") is not None,
    "xvfb": lambda: shutil.which("Xvfb") is not None,
    "bubblewrap": lambda: shutil.which("bwrap") is not None,
    "python3-venv": lambda: _importable("ensurepip"),
    "nodejs": lambda: shutil.which("node") is not None,
    "npm": lambda: shutil.which("npm") is not None,
}
"""Debian's packages that Lantern needs, each with how to tell that it is there."""


def postgres_programs() -> Path | None:
    """Return the folder of the newest PostgreSQL server's programs, or None."""
    found = [path.parent for path in Path("/usr/lib/postgresql").glob("*/bin/initdb")]
    return max(found, key=lambda path: int(path.parent.name), default=None)


def base_python() -> str:
    """Return the Python that the virtual environment is made of.

    Where Lantern is started as root its parts run as another account, which must be able to read
    it: one under root's own home is passed over for Debian's.
    """
    if os.geteuid() != 0 or shut_at(Path(sys.base_prefix).resolve()) is None:
        return sys.executable
    return DEBIANS_PYTHON


def _importable(module: str) -> bool:
    if not Path(base_python()).exists():
        return False
    command = [base_python(), "-c", f"import {module}"]
    return subprocess.run(command, capture_output=True, check=False).returncode == 0


def say(words: str) -> None:
    """Say something on the terminal."""
    print(words, file=sys.stderr, flush=True)


def run(command: Sequence[str], *, where: Path = ROOT, env: dict[str, str] | None = None) -> None:
    """Run a command quietly; raises SetupFailed with its last lines when it fails."""
    result = subprocess.run(
        list(command),
        cwd=where,
        env={**os.environ, **(env or {})},
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        errors="replace",
        check=False,
    )
    if result.returncode != 0:
        lines = "\n".join("    " + line for line in result.stdout.splitlines()[-LAST_LINES:])
        raise SetupFailed(
            f"This command failed with code {result.returncode}:\n  {' '.join(command)}\n"
            f"Its last lines were:\n{lines}"
        )


def step(words: str, work: Callable[[], None]) -> None:
    """Do a step of the set-up, saying what it is and how long it took."""
    print(f"  {words} …", end="", file=sys.stderr, flush=True)
    start = time.monotonic()
    try:
        work()
    except BaseException:
        print(" failed", file=sys.stderr, flush=True)
        raise
    print(f" {time.monotonic() - start:.1f} s", file=sys.stderr, flush=True)


def digest(paths: Iterable[Path], *more: str) -> str:
    """Return a digest of the contents of files and of all files in folders."""
    found = hashlib.sha256("\n".join(more).encode())
    for path in paths:
        files = [path] if path.is_file() else sorted(path.rglob("*"))
        for file in files:
            if file.is_file() and "__pycache__" not in file.parts:
                found.update(str(file.relative_to(ROOT)).encode())
                found.update(file.read_bytes())
    return found.hexdigest()


def stamped(name: str, value: str, made: Path) -> bool:
    """Tell whether a step was done for exactly this value and what it made is still there."""
    stamp = OWN / "stamps" / name
    return made.exists() and stamp.is_file() and stamp.read_text() == value


def put_stamp(name: str, value: str) -> None:
    """Remember that a step was done."""
    folder = OWN / "stamps"
    folder.mkdir(parents=True, exist_ok=True)
    (folder / name).write_text(value)


def once(name: str, words: str, value: str, made: Path, work: Callable[[], None]) -> None:
    """Do a step unless its stamp still fits."""
    if not stamped(name, value, made):
        step(words, work)
        put_stamp(name, value)


def debian() -> None:
    """Install Debian's packages that are missing, or say how and stop."""
    missing = [name for name, there in PACKAGES.items() if not there()]
    if not missing:
        return
    install = ["apt-get", "install", "-y", "--no-install-recommends", *missing]
    sudo: list[str] = []
    if os.geteuid() != 0:
        sudo = ["sudo", "-n"]
        may = (
            shutil.which("sudo")
            and not subprocess.run([*sudo, "true"], capture_output=True, check=False).returncode
        )
        if not may:
            raise SetupFailed(
                "These packages are missing and only root can install them. Run:\n"
                f"  sudo apt-get update && sudo {' '.join(install)}"
            )
    quiet = {"DEBIAN_FRONTEND": "noninteractive"}
    step("Reading Debian's package lists", lambda: run([*sudo, "apt-get", "update"], env=quiet))
    step(f"Installing {', '.join(missing)}", lambda: run([*sudo, *install], env=quiet))


def account() -> None:
    """Make the account that does the work where Lantern is started as root."""
    if os.geteuid() != 0 or named() is not None:
        return
    command = ["useradd", "--system", "--no-create-home", "--home-dir", "/nonexistent"]
    command += ["--shell", "/usr/sbin/nologin", "--user-group", NAME]
    step(f"Making the account {NAME}", lambda: run(command))


def python_packages(*, checking: bool = False) -> None:
    """Make the virtual environment from the pinned requirements, with what checks need if asked."""
    requirements = ROOT / "requirements.txt"
    python = base_python()
    value = digest([requirements], python, sys.version)

    def work() -> None:
        run([python, "-m", "venv", "--clear", str(VENV)])
        run([str(PYTHON), "-m", "pip", "install", "--quiet", "-r", str(requirements)])

    once("python", "Installing Python packages", value, PYTHON, work)
    if checking:
        more = ROOT / "requirements-dev.txt"
        once(
            "python-dev",
            "Installing Python packages for checks",
            digest([more], value),
            VENV / "bin" / "pytest",
            lambda: run([str(PYTHON), "-m", "pip", "install", "--quiet", "-r", str(more)]),
        )


def node_packages() -> None:
    """Install the front end's packages as locked."""
    value = digest([FRONTEND / "package-lock.json"])
    made = FRONTEND / "node_modules" / ".package-lock.json"
    once(
        "node",
        "Installing front end packages",
        value,
        made,
        lambda: run(["npm", "ci", "--ignore-scripts"], where=FRONTEND),
    )


def build() -> None:
    """Build the probe and the front end, with the client types made from the API."""
    config = [*sorted(FRONTEND.glob("*.ts")), FRONTEND / "package-lock.json"]

    def npm(script: str) -> None:
        run(["npm", "run", "--silent", script], where=FRONTEND)

    value = digest([ROOT / "probe" / "src", *config])
    once("probe", "Building the probe", value, PROBE, lambda: npm("build:probe"))

    api = digest(api_sources())

    def types() -> None:
        run(
            [str(PYTHON), "-m", "lantern.cli", "openapi", str(FRONTEND / "openapi.json")],
            env=path(),
        )
        npm("types")

    schema = FRONTEND / "src" / "api" / "schema.d.ts"
    once("types", "Making the API client's types", api, schema, types)

    pages = [FRONTEND / "src", FRONTEND / "index.html", FRONTEND / "public", *config]
    value = digest([page for page in pages if page.exists()])
    once("pages", "Building the front end", value, STATIC / "index.html", lambda: npm("build"))


def api_sources() -> list[Path]:
    """Return all that the API's document comes from: any module may give a shape or a choice."""
    return sorted((ROOT / "src" / "lantern").rglob("*.py"))


def path() -> dict[str, str]:
    """Return the environment in which Lantern's own modules are found."""
    return {} if INSTALLED else {"PYTHONPATH": str(ROOT / "src")}


def set_up(*, checking: bool = False) -> None:
    """Do all that is missing, with what checks need if asked. Raises SetupFailed."""
    OWN.mkdir(exist_ok=True)
    debian()
    account()
    python_packages(checking=checking)
    node_packages()
    build()


NEEDS_NOTHING = frozenset({"stop", "status", "-h", "--help", "--version"})
CHECKS = frozenset({"test", "bench"})
"""The commands that need more packages than Lantern itself."""


def main(arguments: Sequence[str]) -> None:
    """Set up what is missing and hand over to the command line in the virtual environment."""
    first = arguments[0] if arguments else "--help"
    try:
        if first not in NEEDS_NOTHING or not PYTHON.exists():
            set_up(checking=first in CHECKS)
    except SetupFailed as error:
        say(f"\nLantern could not be set up. {error}")
        sys.exit(2)
    except KeyboardInterrupt:
        say("\nStopped.")
        sys.exit(130)
    os.environ.update(path())
    os.execv(str(PYTHON), [str(PYTHON), "-m", "lantern.cli", *arguments])  # noqa: S606
