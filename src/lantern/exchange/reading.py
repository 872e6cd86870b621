"""Reading spreadsheets that people give, in a process of its own with limits.

A file of some kilobytes can say that it holds millions of cells; whoever reads it must not be the
process that serves everybody.
"""

from __future__ import annotations

import json
import os
import sys
import threading
from pathlib import Path

from lantern.core.problems import BadInput
from lantern.core.storable import read_json
from lantern.exchange.sheets import Grid, ending_of, read_book
from lantern.limited import limited

SECONDS = 20.0
MEMORY = 1 << 30
OUTPUT = 256 << 20
"""Bytes of all the texts in a file."""
AT_ONCE = threading.BoundedSemaphore(2)
TURN = 30.0
"""Seconds that somebody waits while others' files are read."""
APART = ("xlsx", "ods")
"""Formats that are read apart; CSV is read as fast as it comes."""
BROKE = {
    "time": "it takes longer than {seconds:g} s to read",
    "memory": "reading it takes more than {memory} MB of memory",
    "output": "it holds more than {output} MB of text",
    "processes": "reading it begins other programs",
}


def read_apart(content: bytes, name: str) -> dict[str, Grid]:
    """Return the sheets of a file by name, as rows of texts; raises BadInput with what is wrong."""
    if ending_of(name) not in APART:
        return read_book(content, name)
    if not AT_ONCE.acquire(timeout=TURN):
        raise BadInput("Other files are being read just now.", hint="Try again in a minute.")
    try:
        return _read(content, name)
    finally:
        AT_ONCE.release()


def _read(content: bytes, name: str) -> dict[str, Grid]:
    source = str(Path(__file__).resolve().parents[2])
    env = {"PATH": os.environ.get("PATH", ""), "PYTHONPATH": source}
    # The kernel keeps limits as well: whoever watches may die before it is done.
    kept = ["prlimit", f"--cpu={SECONDS + 10:.0f}", f"--as={4 * MEMORY}", "--core=0"]
    done = limited(
        [*kept, sys.executable, "-m", __name__, name],
        content,
        seconds=SECONDS,
        memory=MEMORY,
        output=OUTPUT,
        env=env,
    )
    if done.broke:
        limits = {"seconds": SECONDS, "memory": MEMORY >> 20, "output": OUTPUT >> 20}
        raise BadInput(
            f"“{name}” is not read: {BROKE[done.broke].format(**limits)}.",
            where=name,
            hint="Delete the rows and columns that hold nothing, or take in a part of it.",
        )
    try:
        told = read_json(done.output)
    except ValueError as error:  # it died: what it was given brought it to that
        raise BadInput(f"“{name}” can not be read: it is broken.", where=name) from error
    if "problem" in told:
        raise BadInput(told["problem"], where=told["where"], hint=told["hint"])
    sheets: dict[str, Grid] = told["sheets"]
    return sheets


def main() -> None:
    """Read a file from the standard input; write what is in it, or what is wrong, as JSON."""
    try:
        told: dict[str, object] = {"sheets": read_book(sys.stdin.buffer.read(), sys.argv[1])}
    except BadInput as error:
        told = {"problem": error.message, "where": error.where, "hint": error.hint}
    json.dump(told, sys.stdout)


if __name__ == "__main__":
    main()
