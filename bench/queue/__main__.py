"""Measure the queue: two plans fill it, a try is asked for now and then, eight stations play.

The stations are processes of their own that lack nothing but a browser. `lost` counts casts that
were never played or did not come to their end, `twice` those that were played more than once;
`idle_share` is the share of the places' time in which nothing was played while something waited.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from collections import Counter
from contextlib import ExitStack
from pathlib import Path

from sqlalchemy import func, select

from bench._bench import Place, a_lantern, report, say, sized
from lantern.core.plans.model import Pick, Plan
from lantern.core.steps.model import Document, Row, Settings, Step
from lantern.store import plan_runs, plans, runs, stations, tests
from lantern.store.models import Cast, Environment, PlanRun, Run

CASTS = sized(10_000, 60)
STATIONS = sized(8, 2)
PLACES = 2
ROWS = sized(100, 10)
"""Rows of each test: casts of one run."""
EVERY = sized(2.0, 0.5)
"""Seconds between two tries."""
LIMIT = 3600.0
WEIGHTS = (1, 3)


def _a_test(place: Place, name: str, rows: int) -> int:
    with place.database.session() as session:
        steps = (Step("s1", "open", inputs={"address": f"/?row={name}-${{row.number}}"}),)
        table = tuple(Row(f"r{n}", {"number": str(n)}) for n in range(rows))
        document = Document(steps, ("number",), table, Settings(pictures="none", limit=20))
        environment = session.scalars(select(Environment)).first()
        assert environment
        return tests.create(session, name, environment.id, None, document).id


def _names() -> list[str]:
    """Return what each cast of the plans writes down."""
    each = CASTS // ROWS // len(WEIGHTS)
    return [
        f"w{weight} test {n}-{row}"
        for weight in WEIGHTS
        for n in range(each)
        for row in range(ROWS)
    ]


def _plans(place: Place) -> list[int]:
    """Start a run of a plan for each of the WEIGHTS; returns the runs of plans."""
    each = CASTS // ROWS // len(WEIGHTS)
    found = []
    for weight in WEIGHTS:
        made = [_a_test(place, f"w{weight} test {n}", ROWS) for n in range(each)]
        with place.database.session() as session:
            plan = Plan(tuple(Pick(test=key) for key in made), weight=weight)
            row = plans.create(session, f"Weight {weight}", plan, None)
            found.append(plan_runs.start(session, row.id, None).id)
    return found


def _tries_until_over(place: Place, going: list[int]) -> None:
    """Ask for a try every now and then until the plans are over."""
    end = time.monotonic() + LIMIT
    while time.monotonic() < end:
        with place.database.session() as session:
            states = set(session.scalars(select(PlanRun.state).filter(PlanRun.id.in_(going))))
            if not states & {"queued", "running"}:
                return
        # Of a test of its own, so that the one before stays to be looked at.
        test = _a_test(place, f"try {time.monotonic_ns()}", 1)
        with place.database.session() as session:
            runs.create(session, tests.get(session, test), "try", "1", None)
        time.sleep(EVERY)
        _say_how_far(place)
    raise SystemExit("The plans did not come to their end.")


def _say_how_far(place: Place) -> None:
    with place.database.session() as session:
        over = session.scalar(
            select(func.count()).select_from(Cast).filter(Cast.outcome == "passed")
        )
    if over and over % 1000 < 100:
        say(f"{over} casts over")


def main() -> None:
    """Let the stations play all there is, and tell how that went."""
    with a_lantern(web_only=True) as place, ExitStack() as owned:
        folder = Path(owned.enter_context(tempfile.TemporaryDirectory()))
        files = [folder / f"played-{n}" for n in range(STATIONS)]
        for file in files:
            command = [sys.executable, "-m", "bench.queue.station", str(PLACES), str(file)]
            child = subprocess.Popen(command, stdout=subprocess.DEVNULL)
            owned.callback(child.wait)
            owned.callback(child.terminate)
        while True:
            with place.database.session() as session:
                if len(stations.alive(session)) == STATIONS:
                    break
            time.sleep(0.1)
        start = time.monotonic()
        going = _plans(place)
        say(f"{CASTS} casts are queued after {time.monotonic() - start:.1f} s")
        _tries_until_over(place, going)
        report("queue", _figures(place, going, files))


def _figures(place: Place, going: list[int], files: list[Path]) -> dict[str, float]:
    played = Counter(line for file in files for line in file.read_text().split("\n") if line)
    with place.database.session() as session:
        of_plans = select(Cast).join(Run).filter(Run.plan_run_id.in_(going))
        casts = session.scalars(of_plans).all()
        tries = session.scalars(select(Cast).join(Run).filter(Run.kind == "try")).all()
        queued = {
            run.id: run.queued_at for run in session.scalars(select(Run).filter_by(kind="try"))
        }
    begun = [one.started_at for one in casts if one.started_at]
    ended = [one.ended_at for one in casts if one.ended_at]
    seconds = (max(ended) - min(begun)).total_seconds()
    busy = sum(
        (one.ended_at - one.started_at).total_seconds()
        for one in [*casts, *tries]
        if one.started_at and one.ended_at
    )
    waits = sorted(
        (one.started_at - queued[one.run_id]).total_seconds() for one in tries if one.started_at
    )
    lost = sum(one.outcome != "passed" for one in casts)
    return {
        "casts": len(casts),
        "casts_per_s": round(len(casts) / seconds, 2),
        "idle_share": round(max(0.0, 1 - busy / (STATIONS * PLACES * seconds)), 3),
        "p95_wait_of_a_try_s": round(waits[int(0.95 * (len(waits) - 1))], 3) if waits else 0.0,
        "tries": len(waits),
        "lost": lost + sum(name not in played for name in _names()),
        "twice": sum(count > 1 for name, count in played.items() if not name.startswith("try")),
    }


if __name__ == "__main__":
    main()
