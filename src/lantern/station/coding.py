"""Running Python of people apart: in a process of its own, without network, secrets or database.

The process has its own mount and network namespaces (Linux): Lantern's folder is an empty one
there, and nothing can be reached. Where the machine does not allow that, nothing is run.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from functools import cache
from pathlib import Path

from lantern.core.engine.requests import Ran, RunCode
from lantern.core.storable import read_json

MEMORY = 512 * 1024 * 1024
LARGEST = 1_000_000
"""Letters of an answer that are read; more is an error of the code."""
CHILD = """
import datetime, io, json, resource, sys, traceback
spec = json.load(sys.stdin)
out, sys.stdout = sys.stdout, io.StringIO()
resource.setrlimit(resource.RLIMIT_AS, (spec["memory"], spec["memory"]))
resource.setrlimit(resource.RLIMIT_FSIZE, (10_000_000, 10_000_000))
resource.setrlimit(resource.RLIMIT_NPROC, (64, 64))
make = {
    "str": str, "float": float, "int": int, "date": datetime.date.fromisoformat,
    "bool": lambda text: text.strip().lower() in ("yes", "true", "1"),
}
def plain(value):
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "" if value is None else str(value)
answer = {}
try:
    space = {"__name__": "step"}
    exec(compile(spec["source"], "step.py", "exec"), space)
    given = {}
    for name, text in spec["inputs"].items():
        kind = spec["types"][name]
        try:
            given[name] = make[kind](text)
        except ValueError:
            raise ValueError(f"{name} is {text!r}, which is no {kind}") from None
    value = space[spec["function"]](**given)
    if not isinstance(value, dict):
        value = {} if value is None else {"result": value}
    answer["gave"] = {str(name): plain(one) for name, one in value.items()}
except BaseException as error:
    lines = [f.lineno for f in traceback.extract_tb(error.__traceback__) if f.filename == "step.py"]
    answer = {"error": f"{type(error).__name__}: {error}", "line": lines[-1] if lines else 0}
out.write(json.dumps(answer))
"""
_PREPARE = """
hidden=$1; shift
if [ -n "$hidden" ]; then mount -t tmpfs tmpfs "$hidden" || exit 71; fi
mount -t tmpfs tmpfs "$PWD" && cd "$PWD" && mount -o remount,bind,ro / || exit 72
exec setpriv --no-new-privs --inh-caps=-all --ambient-caps=-all --bounding-set=-all "$@"
"""
"""Lantern's folder becomes an empty one, the rest can not be written; then every privilege goes,
so that none of it can be taken back."""
_WAYS = (
    ("unshare", "--net", "--mount", "--pid", "--fork", "--kill-child", "--mount-proc"),
    ("unshare", "-r", "--net", "--mount", "--pid", "--fork", "--kill-child", "--mount-proc"),
)


def run_code(request: RunCode) -> Ran:
    """Run a function with inputs; what goes wrong is the answer, not an exception."""
    way = _way()
    if way is None:
        return Ran(error="This station's machine does not allow code to be run apart.")
    spec = {
        "source": request.source,
        "function": request.function,
        "types": dict(request.types),
        "inputs": dict(request.inputs),
        "memory": MEMORY,
    }
    try:
        done = _started(way, CHILD, json.dumps(spec), request.limit)
    except subprocess.TimeoutExpired:
        return Ran(error=f"It was not done after {request.limit:g} s.")
    try:
        answer = read_json(done.stdout[:LARGEST])
        return Ran(answer.get("gave", {}), str(answer.get("error", "")), int(answer.get("line", 0)))
    except (ValueError, AttributeError):
        said = done.stderr.strip().splitlines()
        return Ran(error=f"It ended without an answer. {said[-1][:300] if said else ''}".strip())


def _started(
    way: tuple[str, ...], child: str, given: str, limit: float
) -> subprocess.CompletedProcess[str]:
    python = (sys.executable, "-I", "-S", "-c", child)
    with tempfile.TemporaryDirectory(prefix="lantern-code-") as folder:
        return subprocess.run(
            [*way, "sh", "-c", _PREPARE, "sh", _hidden(), *python],
            input=given,
            capture_output=True,
            text=True,
            timeout=limit,
            cwd=folder,
            env={"PATH": os.environ.get("PATH", "")},
            check=False,
        )


def _hidden() -> str:
    """Return the folder with Lantern's key and database."""
    key = os.environ.get("LANTERN_KEY_FILE", "")
    return str(Path(key).resolve().parent) if key else ""


@cache
def _way() -> tuple[str, ...] | None:
    """Return how a process is set apart on this machine; None when it can not be."""
    for way in _WAYS:
        try:
            if _started(way, "print('well')", "", 10).stdout.strip() == "well":
                return way
        except (OSError, subprocess.TimeoutExpired):
            continue
    return None
