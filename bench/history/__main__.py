"""Years of results: lists, a large run, watching it and taking it out, with ten people at once.

A database of its own is filled by COPY; everything is asked of the web process over HTTP, by ten
people at once: each looks at what came for half a second and asks for the next. `full` figures are
of people who do not look at all, so that the web process never rests. Times are in ms, `junit_s`
in s; `watch_cpu_ms` is the web process's CPU time for one result that arrives at ten who watch.
"""

from __future__ import annotations

import json
import random
import statistics
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise

import psutil
import requests
from sqlalchemy import event, text
from websockets.sync.client import connect

from bench._bench import Place, a_lantern, report, say, sized
from bench.history.filling import Filled, Size, fill
from lantern.core.engine.outcomes import StepResult
from lantern.exchange import junit
from lantern.store import casts, runs
from lantern.store.models import Cast
from lantern.store.records import record_of

PEOPLE = 10
ROUNDS = sized(12, 1)
LOOK = 0.5
"""Seconds that a person looks at what came."""
CHANGES = sized(40, 3)
PAGES = 40
Ask = Callable[[requests.Session], requests.Response]


def main() -> None:
    """Fill, ask and report; `--short` does it with a hundredth of the data."""
    size = sized(Size(), Size.part(0.01))
    with a_lantern(web_only=True) as place:
        start = time.monotonic()
        filled = fill(place.database, size)
        say(f"filled in {time.monotonic() - start:.0f} s")
        figures = {"fill_s": round(time.monotonic() - start, 1)}
        people = [_person(place, 1000 + n) for n in range(PEOPLE)]
        figures |= _asked(place, people, filled)
        figures |= _junit(place, filled, people[0])
        figures |= _watched(place, people, filled)
        figures |= _sizes(place)
    report("history", figures)


def _person(place: Place, number: int) -> requests.Session:
    person = requests.Session()
    person.headers["Connection"] = "keep-alive"
    said = {"username": f"member{number}", "password": "lantern-lead"}
    person.post(place.address + "/api/sign-in", json=said).raise_for_status()
    return person


def _asked(place: Place, people: list[requests.Session], filled: Filled) -> dict[str, float]:
    """Return p50 and p95 of each thing that people ask for."""

    def get(path: str, **query: str) -> Ask:
        return lambda person: person.get(place.address + "/api" + path, params=query)

    far = {path: _far(place, people[0], path) for path in ("/tests", "/runs", "/defects")}
    lists: dict[str, list[Ask]] = {
        "home": [
            get("/tests", outcome="failed,interrupted"),
            get("/runs", kind="run"),
            get("/defects", state="open"),
        ],
        "tests": [get("/tests"), get("/tests", after=far["/tests"])],
        "tests_filtered": [get("/tests", q="check 01", outcome="failed", order="name")],
        "runs": [get("/runs"), get("/runs", after=far["/runs"])],
        "runs_filtered": [get("/runs", state="failed", q="check 04")],
        "defects": [get("/defects", order="severity"), get("/defects", after=far["/defects"])],
        "search": [get("/search", q="check 033")],
    }
    figures: dict[str, float] = {}
    for kind, look in (("lists", LOOK), ("lists_full", 0.0)):
        every: list[float] = []
        for name, asks in lists.items():
            times = _together(people, asks, look)
            every += times
            if look:
                figures |= {f"{name}_p50_ms": _part(times, 50), f"{name}_p95_ms": _part(times, 95)}
        figures |= {f"{kind}_p50_ms": _part(every, 50), f"{kind}_p95_ms": _part(every, 95)}
    run = get(f"/runs/{filled.run}")
    alone = [_timed(people[0], run)[0] for _ in range(ROUNDS)]
    figures["large_run_ms"] = round(statistics.median(alone), 1)
    figures["large_run_kb"] = round(len(run(people[0]).content) / 1000, 1)
    for name, ask in (
        ("large_run", run),
        ("one_result", get(f"/casts/{filled.cast}/results")),
        ("versions", get(f"/tests/{filled.test}/versions")),
    ):
        times = _together(people, [ask], LOOK)
        figures |= {f"{name}_p50_ms": _part(times, 50), f"{name}_p95_ms": _part(times, 95)}
    return figures


def _far(place: Place, person: requests.Session, path: str) -> str:
    """Return where page PAGES of a list begins, or the last one that there is."""
    after = ""
    for _ in range(PAGES - 1):
        following = person.get(place.address + "/api" + path, params={"after": after}).json()[
            "next"
        ]
        if not following:
            break
        after = following
    return after


def _timed(person: requests.Session, ask: Ask) -> tuple[float, requests.Response]:
    start = time.perf_counter()
    answer = ask(person)
    took = (time.perf_counter() - start) * 1000
    answer.raise_for_status()
    return took, answer


def _together(people: list[requests.Session], asks: list[Ask], look: float) -> list[float]:
    """Return the times of all that people ask at once, who look for so many seconds between."""

    def go(number: int) -> list[float]:
        draw = random.Random(number)
        times = []
        for ask in asks * ROUNDS:
            time.sleep(draw.uniform(0.5, 1.5) * look)
            times.append(_timed(people[number], ask)[0])
        return times

    with ThreadPoolExecutor(len(people)) as pool:
        return [took for times in pool.map(go, range(len(people))) for took in times]


def _part(times: list[float], percent: int) -> float:
    ordered = sorted(times)
    return round(ordered[min(len(ordered) - 1, len(ordered) * percent // 100)], 1)


def _junit(place: Place, filled: Filled, person: requests.Session) -> dict[str, float]:
    address = f"{place.address}/api/runs/{filled.run}/junit.xml"
    took, answer = _timed(person, lambda one: one.get(address))
    statements: list[str] = []
    with place.database.session() as session:
        event.listen(
            place.database.engine,
            "before_cursor_execute",
            lambda *given: statements.append(given[2]),
        )
        junit.write([record_of(session, runs.get(session, filled.run), pictured="none")])
    return {
        "junit_s": round(took / 1000, 2),
        "junit_kb": round(len(answer.content) / 1000),
        "sql_statements": len(statements),
    }


def _watched(place: Place, people: list[requests.Session], filled: Filled) -> dict[str, float]:
    """Return what a result costs the web process that everybody is told of, and its delay."""
    came: list[float] = []
    there = threading.Barrier(PEOPLE + 1)

    def watch(person: requests.Session) -> int:
        cookie = "; ".join(f"{one.name}={one.value}" for one in person.cookies)
        address = place.address.replace("http", "ws") + "/api/live/events"
        headers = {"Cookie": cookie, "Origin": place.address}
        told = 0
        with connect(address, additional_headers=headers, proxy=None) as socket:
            socket.send(json.dumps({"who": "bench", "test": 0, "runs": [filled.run]}))
            socket.recv(timeout=20)  # what may have been missed
            there.wait()
            while told < CHANGES:
                notice = json.loads(socket.recv(timeout=30))
                if notice["about"] == "run":
                    told += len(notice["delta"]["results"].get(str(filled.cast), []))
                    came.append(time.perf_counter())
        return told

    web = psutil.Process(place.web)
    with ThreadPoolExecutor(PEOPLE) as pool:
        watching = [pool.submit(watch, person) for person in people]
        there.wait()
        time.sleep(1)  # nothing else is under way: what follows is the changes' own
        before, begun = _cpu(web), time.perf_counter()
        sent = []
        for change in range(CHANGES):
            _happen(place, filled, change)
            sent.append(time.perf_counter())
            time.sleep(0.15)  # as steps come, one after the other
        told = [one.result() for one in watching]
        spent = _cpu(web) - before
    assert told == [CHANGES] * PEOPLE, f"not everybody was told of every change: {told}"
    idle = _idle(web, sent[-1] - begun)
    delays = [min(t for t in came if t >= a) - a for a, _ in pairwise(sent)]
    return {
        "watch_cpu_ms": round(1000 * max(0.0, spent - idle) / CHANGES, 2),
        "watch_cpu_with_idle_ms": round(1000 * spent / CHANGES, 2),
        "watch_delay_ms": round(1000 * statistics.median(delays), 1),
    }


def _happen(place: Place, filled: Filled, change: int) -> None:
    result = StepResult(
        f"s{change % 20:02}", 20 + change, "Look at the price", "passed", used=0.1, limit=5
    )
    with place.database.session() as session:
        token = session.get_one(Cast, filled.cast).token
        casts.keep_result(session, filled.cast, token, 100 + change, result, [], [], {})


def _cpu(web: psutil.Process) -> float:
    every = [web, *web.children(recursive=True)]
    times = [one.cpu_times() for one in every]
    return float(sum(one.user + one.system for one in times))


def _idle(web: psutil.Process, seconds: float) -> float:
    """Return the CPU time that the web process takes for nothing in some seconds."""
    before = _cpu(web)
    time.sleep(2)
    return (_cpu(web) - before) / 2 * seconds


def _sizes(place: Place) -> dict[str, float]:
    query = text(
        "SELECT relname, pg_total_relation_size(relid) FROM pg_stat_user_tables "
        "WHERE relname = ANY(:names)"
    )
    names = ["runs", "casts", "results", "pictures", "versions", "defects"]
    with place.database.session() as session:
        found = session.execute(query, {"names": names}).all()
    return {f"{name}_mb": round(size / 1e6, 1) for name, size in sorted(map(tuple, found))}


if __name__ == "__main__":
    main()
