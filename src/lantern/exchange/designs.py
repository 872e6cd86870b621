"""`./lantern design`: rows for a plan in a YAML file, as CSV."""

from __future__ import annotations

import argparse
import csv
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any, TextIO

import yaml

from lantern.core.data.variations.coverage import coverage
from lantern.core.data.variations.designing import Designed, design
from lantern.core.data.variations.plans import WAYS, Plan
from lantern.core.problems import BadInput, Problem


def read_plan(text: str, strength: int = 2) -> Plan:
    """Read a plan from YAML: inputs, constraints, keep, groups. Raises BadInput with the place.

    Every scalar is text as it is written: 06 stays "06", yes stays "yes".
    """
    try:
        raw: Any = yaml.load(text, Loader=yaml.BaseLoader)  # noqa: S506 - makes only plain text
    except yaml.YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        place = f"line {mark.line + 1}" if mark else "the file"
        raise BadInput(f"That is not YAML: {error}.", where=place) from error
    return Plan.read(raw, strength)


def write_rows(plan: Plan, rows: Sequence[Designed], file: TextIO) -> None:
    """Write rows as CSV with a header; the inputs are the columns."""
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow([one.name for one in plan.inputs])
    writer.writerows([row.values[one.name] for one in plan.inputs] for row in rows)


def add_command(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add `design` to the command line."""
    command = commands.add_parser("design", help="design rows that cover combinations of values")
    command.add_argument("file", help="a YAML file with inputs, constraints, keep, groups; - reads")
    command.add_argument("--strength", type=int, default=2, help="2 covers pairs (default)")
    command.add_argument("--seed", type=int, default=1, help="the same seed gives the same rows")
    command.add_argument("--how", default="", help=", ".join(WAYS))
    command.set_defaults(work=_design)


def _design(arguments: argparse.Namespace) -> int:
    try:
        text = (
            sys.stdin.read() if arguments.file == "-" else Path(arguments.file).read_text("utf-8")
        )
        plan = read_plan(text, arguments.strength)
        rows = design(plan, arguments.how, arguments.seed)
    except (OSError, UnicodeDecodeError) as error:
        print(f"{arguments.file} can not be read: {error}", file=sys.stderr)
        return 2
    except Problem as error:
        print("\n".join(filter(None, (error.message, error.hint))), file=sys.stderr)
        return 2
    write_rows(plan, rows, sys.stdout)
    told = coverage(plan, [row.values for row in rows])
    print(
        f"{len(rows)} rows; {told.covered} combinations covered, {told.forbidden} forbidden by "
        f"constraints, {told.missing} not covered",
        file=sys.stderr,
    )
    return 0
