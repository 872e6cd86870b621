"""`./lantern test` and `./lantern bench`."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Sequence
from pathlib import Path

from lantern.host.changed import changed_files, concerned
from lantern.host.setup import FRONTEND, ROOT, path, say

BIN = Path(sys.executable).parent
PURE = ("core", "api", "yard")
"""Parts whose tests need nothing of each other."""
BROWSING = ("host", "station", "ui")
"""Parts whose tests drive browsers: the one with the longest modules first."""
PARTS = ("all", "lint", "types", "unit", *PURE, *BROWSING)


def _checks(part: str, rest: Sequence[str]) -> list[tuple[str, list[str], Path]]:
    lint = [
        ("ruff", [str(BIN / "ruff"), "check", "src", "tests", "bench"], ROOT),
        ("format", [str(BIN / "ruff"), "format", "--check", "src", "tests", "bench"], ROOT),
        ("layers", [str(BIN / "lint-imports")], ROOT),
        ("eslint", ["npm", "run", "--silent", "lint"], FRONTEND),
        ("prettier", ["npm", "run", "--silent", "format"], FRONTEND),
    ]
    types = [
        ("mypy", [str(BIN / "mypy")], ROOT),
        ("vue-tsc", ["npm", "run", "--silent", "check"], FRONTEND),
    ]
    unit = [("vitest", ["npm", "run", "--silent", "unit"], FRONTEND)]
    pytest = [str(BIN / "python"), "-m", "pytest", "--durations=20", "--durations-min=1", *rest]
    # Each worker has a PostgreSQL, an application and browsers of its own.
    spread = [*pytest, "-n", "auto", "--dist", "worksteal"]
    # Stories of one module share what stands around them: a module stays with one worker.
    # Long modules come first, so that the workers end together.
    together = [*pytest, "-n", "auto", "--dist", "loadfile", "--no-loadscope-reorder"]
    parts = {
        "lint": lint,
        "types": types,
        "unit": unit,
        **{name: [(f"pytest {name}", [*together, f"tests/{name}"], ROOT)] for name in BROWSING},
        **{name: [(f"pytest {name}", [*spread, f"tests/{name}"], ROOT)] for name in PURE},
    }
    if part == "all":
        return [
            *lint,
            *types,
            *unit,
            ("pytest core and api", [*spread, "tests/core", "tests/api"], ROOT),
            ("pytest yard", [*spread, "tests/yard"], ROOT),
            ("pytest with browsers", [*together, *(f"tests/{name}" for name in BROWSING)], ROOT),
        ]
    return parts[part]


def run_checks(part: str, rest: Sequence[str]) -> int:
    """Run all checks of a part one after the other; returns 0 when all passed, else 1."""
    if part not in PARTS:
        say(f"There is no part {part!r}. Parts: {', '.join(PARTS)}.")
        return 2
    failed = []
    for name, command, where in _checks(part, rest):
        start = time.monotonic()
        say(f"── {name}")
        code = subprocess.run(command, cwd=where, env={**os.environ, **path()}, check=False)
        word = "passed" if code.returncode == 0 else "FAILED"
        say(f"   {word} in {time.monotonic() - start:.1f} s")
        if code.returncode != 0:
            failed.append(name)
    say(f"\nFailed: {', '.join(failed)}" if failed else "\nAll checks passed.")
    return 1 if failed else 0


def run_changed(rest: Sequence[str]) -> int:
    """Run the checks that what differs from the last commit concerns; returns as `run_checks`."""
    tests = concerned(changed_files(ROOT), ROOT)
    say(f"{len(tests)} files of tests are concerned.")
    failed = sum(run_checks(part, ()) for part in ("lint", "types", "unit"))
    for part in (*PURE, *BROWSING):
        own = [one for one in tests if one.startswith(f"tests/{part}/")]
        if own:
            [(name, command, where)] = _checks(part, rest)
            command = [*command[:-1], *own]
            say(f"── {name}")
            env = {**os.environ, **path()}
            failed += subprocess.run(command, cwd=where, env=env, check=False).returncode != 0
    say("\nSomething failed." if failed else "\nAll checks passed.")
    return 1 if failed else 0


def run_bench(name: str, rest: Sequence[str]) -> int:
    """Run a bench; the last line it prints is one JSON object with its figures."""
    known = sorted(
        path.stem
        for path in (ROOT / "bench").iterdir()
        if not path.stem.startswith("_")
        and (path.suffix == ".py" or (path / "__main__.py").exists())
    )
    if name not in known:
        say(f"There is no bench {name!r}. Benches: {', '.join(known)}.")
        return 2
    env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"}
    command = [sys.executable, "-m", f"bench.{name}", *rest]
    return subprocess.run(command, cwd=ROOT, env=env, check=False).returncode
