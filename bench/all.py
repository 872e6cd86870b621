"""All benches one after the other, with their figures kept in docs/figures.json and FIGURES.md.

Beside each bench a fixed piece of work is timed before and after it: where that took longer than
usual the machine had other things to do, and the figures say less. A figure that became worse by
more than a fifth is told; with `--short` each bench only shows that it runs, and nothing is kept.
"""

from __future__ import annotations

import hashlib
import json
import os
import platform
import subprocess
import sys
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from bench._bench import SHORT, report, say

ROOT = Path(__file__).resolve().parent.parent
KEPT = ROOT / "docs" / "figures.json"
TABLE = ROOT / "docs" / "FIGURES.md"
BEGIN, END = "<!-- all: begin -->", "<!-- all: end -->"
BENCHES = (
    "variations", "history", "playback", "spread", "engines", "queue", "stage", "table", "page",
    "suggest", "recognise", "rehearse", "search", "verdicts", "blindspots", "yard", "faults",
)  # fmt: skip
"""Every bench, the quick ones first."""
MORE_IS_BETTER = frozenset(
    "pictures_per_second same_effect acts_kept plain_right first_proposal_right yard_plain_right "
    "yard_with_first_proposal yard_strength_auc yard_strength_auc_of_all spread.ratio kills "
    "right tuned_right aside_right product_right test_right data_right timing_right "
    "environment_right named first act_works casts_per_s "
    "chromium.passed firefox.passed webkit.passed".split()
)
NO_MATTER = (
    "rows",
    "steps",
    "nodes",
    "elements",
    "cases",
    "casts",
    "tries",
    "acts",
    "stories",
    "fill_s",
    "_mb",
    "seed",
)
"""Ends of the names of figures that say how much there was, not how well it went."""
WORSE = 0.2


def fixed_work() -> float:
    """Return how many seconds a fixed piece of work on one core takes now."""
    start = time.perf_counter()
    hashlib.pbkdf2_hmac("sha256", b"kiln", b"glaze", 400_000)
    return round(time.perf_counter() - start, 3)


def worse(bench: str, before: dict[str, float], now: dict[str, float]) -> list[str]:
    """Return in words which figures became worse by more than a fifth."""
    told = []
    for name, value in now.items():
        old = before.get(name)
        if not isinstance(old, int | float) or name.endswith(NO_MATTER):
            continue  # it is new, or says no more than how much there was
        more = name in MORE_IS_BETTER or f"{bench}.{name}" in MORE_IS_BETTER
        change = (old - value if more else value - old) / (abs(old) or 1)
        if change > WORSE:
            told.append(f"{bench} {name}: {old} before, {value} now")
    return told


def run(bench: str, rest: list[str]) -> dict[str, Any]:
    """Run a bench; returns its figures with what was timed around it. Raises RuntimeError."""
    env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"}
    before, start = fixed_work(), time.monotonic()
    ran = subprocess.run(
        [sys.executable, "-m", f"bench.{bench}", *rest],
        cwd=ROOT, env=env, check=False, stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    took = time.monotonic() - start
    last = ran.stdout.strip().rpartition("\n")[2]
    if ran.returncode or not last.startswith("{"):
        raise RuntimeError(f"bench {bench} ended with {ran.returncode}: {last[:200]}")
    return {
        "figures": json.loads(last)["figures"],
        "seconds": round(took, 1),
        "work_before_s": before,
        "work_after_s": fixed_work(),
        "commit": _commit(),
        "at": datetime.now(UTC).isoformat(timespec="minutes"),
    }


def _commit() -> str:
    """Return the commit that is measured, "-dirty" where more than the figures differs from it."""

    def git(*asked: str) -> str:
        ran = subprocess.run(["git", *asked], cwd=ROOT, check=False, capture_output=True, text=True)
        return ran.stdout.strip()

    own = (f":!{path.relative_to(ROOT)}" for path in (KEPT, TABLE))
    changed = git("status", "--porcelain", "--", ".", *own)
    return git("rev-parse", "--short", "HEAD") + "-dirty" * bool(changed)


def table(kept: dict[str, Any]) -> str:
    """Return the table of all figures as Markdown."""
    lines = [
        f"On {kept['machine']}. *load*: how long a fixed work took before and after, in s.",
        "",
        "| bench | figures | commit | when | took | load |",
        "|---|---|---|---|---|---|",
    ]
    for bench in BENCHES:
        one = kept["benches"].get(bench)
        if one:
            said = ", ".join(f"`{name}` {value}" for name, value in one["figures"].items())
            load = f"{one['work_before_s']}, {one['work_after_s']}"
            cells = (bench, said, one["commit"], one["at"][:16], f"{one['seconds']} s", load)
            lines.append(f"| {' | '.join(cells)} |")
    return "\n".join(lines)


def _keep(kept: dict[str, Any]) -> None:
    KEPT.write_text(json.dumps(kept, indent=1, sort_keys=True) + "\n")
    text = TABLE.read_text()
    head, _, rest = text.partition(BEGIN)
    _, _, tail = rest.partition(END)
    TABLE.write_text(f"{head}{BEGIN}\n{table(kept)}\n{END}{tail}")


def main() -> None:
    """Run the benches that are named, or all."""
    short = SHORT in sys.argv
    names = [one for one in sys.argv[1:] if not one.startswith("-")] or list(BENCHES)
    machine = f"{platform.system()} {platform.machine()}, {os.cpu_count()} cores"
    kept = json.loads(KEPT.read_text()) if KEPT.exists() else {"benches": {}}
    kept["machine"] = machine
    told: list[str] = []
    failed: list[str] = []
    for bench in names:
        say(f"── {bench}")
        try:
            made = run(bench, [SHORT] if short else [])
        except RuntimeError as error:
            say(f"   {error}")
            failed.append(bench)
            continue
        before = kept["benches"].get(bench, {}).get("figures", {})
        told += [] if short else worse(bench, before, made["figures"])
        kept["benches"][bench] = made
        if not short:
            _keep(kept)
    for line in told:
        say(f"worse: {line}")
    report("all", {"ran": len(names) - len(failed), "failed": len(failed), "worse": len(told)})
    sys.exit(1 if failed else 0)


if __name__ == "__main__":
    main()
