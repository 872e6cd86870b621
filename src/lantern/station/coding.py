"""Running Python of people apart: without network, secrets, database or a file of the machine's."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from lantern.core.engine.requests import Ran, RunCode
from lantern.core.storable import read_json
from lantern.limited import PROCESSES, limited
from lantern.station.sandbox import MEMORY, confined, refusal

LARGEST = 1_000_000
"""Bytes of an answer that are read; more is an error of the code."""
BROKE = {
    "time": "It was not done after {seconds:g} s.",
    "memory": f"It took more than {MEMORY >> 20} MB of memory.",
    "processes": f"It had more than {PROCESSES} processes.",
    "output": f"It wrote more than {LARGEST >> 20 or 1} MB to its outputs.",
}
CHILD = """
import datetime, io, json, resource, sys, traceback
spec = json.load(sys.stdin)
out, sys.stdout = sys.stdout, io.StringIO()
resource.setrlimit(resource.RLIMIT_NPROC, (spec["processes"], spec["processes"]))
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


def run_code(request: RunCode) -> Ran:
    """Run a function with inputs; what goes wrong is the answer, not an exception."""
    if why := refusal():
        return Ran(error=why)
    spec = {
        "source": request.source,
        "function": request.function,
        "types": dict(request.types),
        "inputs": dict(request.inputs),
        "processes": PROCESSES,
    }
    python = [str(Path(sys.executable).resolve()), "-I", "-S", "-c", CHILD]
    done = limited(
        confined(python),
        json.dumps(spec).encode(),
        seconds=request.limit,
        memory=MEMORY,
        output=LARGEST,
    )
    if done.broke:
        return Ran(error=BROKE[done.broke].format(seconds=request.limit))
    try:
        answer = read_json(done.output)
        return Ran(answer.get("gave", {}), str(answer.get("error", "")), int(answer.get("line", 0)))
    except (ValueError, AttributeError):
        said = done.errors.decode(errors="replace").strip().splitlines()
        return Ran(error=f"It ended without an answer. {said[-1][:300] if said else ''}".strip())
