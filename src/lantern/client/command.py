"""`run --server ADDRESS --plan NAME`: start a run of a plan, follow it, fetch what came of it."""

from __future__ import annotations

import argparse
import os
import signal
import sys
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any, TextIO

from .talk import Refused, Server, Unreached

PASSED, FAILED, COULD_NOT, UNSTEADY = 0, 1, 2, 3
LOOK = 1.0
"""Seconds between two looks at a run."""
PATIENCE = 120.0
"""Seconds for which a Lantern may not answer while its run is followed."""
GOING = ("queued", "running")
FILES = {"junit": "junit.xml", "html": "report.html", "json": "record.json"}


class Stopped(Exception):
    """Somebody wants the command to end."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add what the command takes to a parser."""
    parser.add_argument(
        "--server", help="the address of a Lantern, such as https://lantern.example"
    )
    parser.add_argument("--token", help="an access token; better given by LANTERN_TOKEN")
    parser.add_argument("--plan", help="the name of the plan")
    parser.add_argument("--environment", help="another environment than the plan's, by its name")
    parser.add_argument(
        "--set",
        action="append",
        default=[],
        metavar="NAME=VALUE",
        help="a variable of the environment, for this run alone",
    )
    parser.add_argument("--seed", default="", help="make up the same values again")
    parser.add_argument("--wait", action="store_true", help="follow the run to its end")
    parser.add_argument("--html", help="write a report in HTML to this file")
    parser.add_argument(
        "--unsteady", action="store_true", help="exit 3 when something passed only when tried again"
    )


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the client by itself; returns the exit code."""
    parser = argparse.ArgumentParser(
        prog="lantern run",
        description="Start a run of a plan on a Lantern elsewhere. Exit 0: passed, 1: failed, "
        "2: could not run or was stopped, 3: unsteady (with --unsteady).",
    )
    add_arguments(parser)
    parser.add_argument("--junit", help="write JUnit XML to this file")
    parser.add_argument("--json", help="write the results as JSON to this file")
    return run(parser.parse_args(arguments))


def run(asked: argparse.Namespace) -> int:
    """Do what was asked for; returns the exit code."""
    token = asked.token or os.environ.get("LANTERN_TOKEN", "")
    if not (asked.server and asked.plan and token):
        return _failed("Give --server, --plan, and --token or LANTERN_TOKEN.")
    signal.signal(signal.SIGTERM, _stop)
    try:
        server = Server(asked.server, token)
        key = _start(server, asked)
        if not asked.wait:
            return PASSED
        told = _follow(server, key)
        for name, file in FILES.items():
            if where := getattr(asked, name):
                Path(where).write_bytes(server.read(f"/plan-runs/{key}/{file}"))
    except (Refused, Unreached, OSError) as error:
        return _failed(str(error))
    state = told["run"]["state"]
    if state == "unsteady":
        return UNSTEADY if asked.unsteady else PASSED
    return {"passed": PASSED, "failed": FAILED}.get(state, COULD_NOT)


def _say(words: str, to: TextIO | None = None) -> None:
    """Print words; what would steer a terminal (names are what people made them) is left out."""
    shown = "".join(letter if letter.isprintable() or letter == "\n" else "?" for letter in words)
    print(shown, file=to or sys.stdout, flush=True)


def _failed(words: str) -> int:
    _say(words, sys.stderr)
    return COULD_NOT


def _stop(*_: object) -> None:
    raise Stopped


def _start(server: Server, asked: argparse.Namespace) -> int:
    body: dict[str, Any] = {"seed": asked.seed, "variables": _variables(asked.set)}
    if asked.environment:
        body["environment"] = _named(
            server.get("/environments")["environments"], asked.environment, "environment"
        )
    found = server.get("/plans", q=asked.plan)["plans"]
    plan = _named(found, asked.plan, "plan")
    key = int(server.post(f"/plans/{plan}/runs", body)["run"]["id"])
    _say(f"Run {key} of “{asked.plan}”: {server.address}/plan-runs/{key}")
    return key


def _variables(given: Sequence[str]) -> dict[str, str]:
    found = {}
    for one in given:
        name, there, value = one.partition("=")
        if not there or not name:
            raise Refused(f"--set takes NAME=VALUE, not {one}.")
        found[name] = value
    return found


def _named(listed: Sequence[dict[str, Any]], name: str, what: str) -> int:
    for one in listed:
        if one["name"].lower() == name.strip().lower():
            return int(one["id"])
    known = ", ".join(one["name"] for one in listed[:10])
    raise Refused(f"There is no {what} “{name}”." + (f" There are: {known}." if known else ""))


def _follow(server: Server, key: int) -> dict[str, Any]:
    """Say what changes until the run is over; returns what is told of it then."""
    said: dict[tuple[int, str], str] = {}
    answered = time.monotonic()
    while True:
        try:
            told: dict[str, Any] = server.get(f"/plan-runs/{key}")
            answered = time.monotonic()
            _say_news(told, said)
            if told["run"]["state"] not in GOING:
                return told
            time.sleep(LOOK)
        except Unreached:
            if time.monotonic() - answered > PATIENCE:
                raise
            time.sleep(LOOK)
        except (KeyboardInterrupt, Stopped):
            _end(server, key)


def _end(server: Server, key: int) -> None:
    """Ask whether the run is to be cancelled; where nobody can be asked, it is. Raises Refused."""
    if _wants_cancel():
        server.post(f"/plan-runs/{key}/cancel")
        raise Refused(f"Stopped; run {key} was cancelled.")
    raise Refused(f"Stopped; run {key} goes on: {server.address}/plan-runs/{key}")


def _wants_cancel() -> bool:
    if not sys.stdin or not sys.stdin.isatty():
        return True
    try:
        answer = input("\nCancel the run as well? [y/N] ")
    except (EOFError, KeyboardInterrupt, Stopped):
        return False
    return answer.strip().lower() in ("y", "yes")


def _say_news(told: dict[str, Any], said: dict[tuple[int, str], str]) -> None:
    for row in told["rows"]:
        for cell in row["cells"]:
            now = _cell(cell)
            key = row["run"], cell["browser"]
            if now and said.get(key) != now:
                said[key] = now
                _say(f"  {row['name']} in {cell['browser']}: {now}")
    run = told["run"]
    if run["state"] not in GOING:
        counted = ", ".join(f"{count} {outcome}" for outcome, count in run["casts"].items())
        _say(f"{run['state']}: {counted}" + (f". {run['message']}" if run["message"] else ""))


def _cell(cell: dict[str, Any]) -> str:
    """Return what is to be said of a cell that began, "" for one that did not."""
    casts: dict[str, int] = cell["casts"]
    if not cell["outcome"] or cell["outcome"] == "waiting":
        return ""
    over = {name: count for name, count in casts.items() if name not in ("waiting", "running")}
    if cell["outcome"] == "running":
        return f"running, {sum(over.values())} of {sum(casts.values())} over"
    return ", ".join(f"{count} {name}" for name, count in over.items())
