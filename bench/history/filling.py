"""Fills a database with years of work, by COPY."""

from __future__ import annotations

import hashlib
import json
import random
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import psycopg
from sqlalchemy import text

from lantern.store.database import Database
from lantern.store.models import Test
from lantern.store.tests import named

STEPS = 20
LARGE = 500
"""Rows of the large run."""
PICTURE = 600
"""Bytes of a picture, made small: how many there are is what counts here."""


@dataclass(frozen=True)
class Size:
    """How much there is of each."""

    tests: int = 500
    runs: int = 10_000
    results: int = 1_000_000
    pictures: int = 200_000
    defects: int = 5_000
    people: int = 50
    versions: int = 10
    """Versions of each test."""

    @classmethod
    def part(cls, share: float) -> Size:
        """Return a part of all that (0 to 1), with at least a little of each."""
        whole = cls()
        return cls(
            tests=max(60, int(whole.tests * share)),
            runs=max(120, int(whole.runs * share)),
            results=max(LARGE * STEPS + 4800, int(whole.results * share)),
            pictures=max(500, int(whole.pictures * share)),
            defects=max(120, int(whole.defects * share)),
            people=12,
            versions=2,
        )


@dataclass(frozen=True)
class Filled:
    """Where the large run is, and one of its casts."""

    run: int
    cast: int
    test: int


def fill(database: Database, size: Size, seed: int = 7) -> Filled:
    """Fill a database that holds the demo's data; returns where to look."""
    with database.session() as session:
        model = named(session, "Quotes by clay and cone")
        body = _body(model)
        hashed = session.execute(text("SELECT password_hash FROM accounts LIMIT 1")).scalar_one()
    draw = random.Random(seed)
    with psycopg.connect(database.url) as connection:
        base = _base(connection)
        people = _people(connection, size, hashed)
        _tests(connection, size, body, base["tests"], people)
        _pictures(connection, size)
        filled = _runs(connection, size, body, base, people, draw)
        _defects(connection, size, base, people, draw)
        for table in ("accounts", "tests", "runs", "casts", "results", "defects"):
            connection.execute(
                f"SELECT setval(pg_get_serial_sequence('{table}', 'id'), max(id)) FROM {table}"
            )
        connection.commit()
        connection.autocommit = True
        connection.execute("VACUUM ANALYZE")
    return filled


def _body(model: Test) -> str:
    """Return a document of STEPS sentences, as JSON."""
    steps = [step for step in model.body["steps"] if not step.get("flow")]
    steps = [dict(steps[n % len(steps)], id=f"s{n:02}") for n in range(STEPS)]
    return json.dumps({**model.body, "steps": steps, "table": ""})


def _base(connection: psycopg.Connection) -> dict[str, int]:
    found = {}
    for table in ("tests", "runs", "casts", "results", "defects"):
        row = connection.execute(f"SELECT coalesce(max(id), 0) + 1 FROM {table}").fetchone()
        found[table] = row[0] if row else 1
    return found


def _copy(connection: psycopg.Connection, what: str, lines: Iterable[str]) -> None:
    with connection.cursor().copy(f"COPY {what} FROM STDIN") as copy:
        block: list[str] = []
        for line in lines:
            block.append(line)
            if len(block) == 2000:
                copy.write("".join(block))
                block.clear()
        copy.write("".join(block))


def _said(text: str) -> str:
    """Return a text as COPY reads it."""
    return text.replace("\\", "\\\\").replace("\n", "\\n").replace("\t", "\\t")


def _people(connection: psycopg.Connection, size: Size, hashed: str) -> list[int]:
    ids = list(range(1000, 1000 + size.people))
    _copy(
        connection,
        "accounts (id, username, name, role, password_hash)",
        (f"{n}\tmember{n}\tMember {n}\ttester\t{_said(hashed)}\n" for n in ids),
    )
    return ids


def _tests(
    connection: psycopg.Connection, size: Size, body: str, base: int, people: list[int]
) -> None:
    said = _said(body)
    _copy(
        connection,
        "tests (id, kind, name, environment_id, version, body, created_by, changed_at)",
        (
            f"{base + n}\ttest\tGlaze check {n:04}\t1\t{size.versions}\t{said}\t"
            f"{people[n % len(people)]}\t2026-{n % 12 + 1:02}-{n % 28 + 1:02}\n"
            for n in range(size.tests)
        ),
    )
    _copy(
        connection,
        "versions (test_id, number, body, summary, author_id)",
        (
            f"{base + n}\t{k}\t{said}\tchanged sentence {k}\t{people[(n + k) % len(people)]}\n"
            for n in range(size.tests)
            for k in range(1, size.versions + 1)
        ),
    )


def _digest(n: int) -> str:
    return hashlib.sha256(b"picture %d" % n).hexdigest()


def _pictures(connection: psycopg.Connection, size: Size) -> None:
    def lines() -> Iterator[str]:
        for n in range(size.pictures):
            content = random.Random(n).randbytes(PICTURE).hex()
            yield f"{_digest(n)}\timage/jpeg\t\\\\x{content}\n"

    _copy(connection, "pictures (digest, mime, content)", lines())


def _runs(
    connection: psycopg.Connection,
    size: Size,
    body: str,
    base: dict[str, int],
    people: list[int],
    draw: random.Random,
) -> Filled:
    """Runs of a few rows each, and a large one, the newest but one, that still runs."""
    others = (size.results - LARGE * STEPS) // STEPS
    rows = [
        others // (size.runs - 1) + (n < others % (size.runs - 1)) for n in range(size.runs - 1)
    ]
    rows.insert(size.runs - 1, LARGE)
    said = _said(body)
    states = [draw.choices(("passed", "failed"), (4, 1))[0] for _ in rows]
    states[-1] = "running"
    _copy(
        connection,
        "runs (id, kind, state, test_id, test_name, test_version, environment_name, "
        "environment_id, address, body, elements, account_id, cancel_asked, queued_at, "
        "started_at, ended_at, browser, release)",
        (
            f"{base['runs'] + n}\trun\t{states[n]}\t{base['tests'] + n % size.tests}\t"
            f"Glaze check {n % size.tests:04}\t1\tKiln Desk\t1\thttp://kiln.test\t{said}\t{{}}\t"
            f"{people[n % len(people)]}\tf\t2026-{n % 11 + 1:02}-01\t2026-{n % 11 + 1:02}-01\t"
            f"2026-{n % 11 + 1:02}-02\tChromium 150\tspring\n"
            for n in range(size.runs)
        ),
    )
    casts = [(n, row) for n, count in enumerate(rows) for row in range(count)]
    failed = [states[n] == "failed" and row == 0 for n, row in casts]
    _copy(
        connection,
        "casts (id, run_id, position, number, values, browser, outcome, takings, token, "
        "started_at, ended_at)",
        (
            f"{base['casts'] + place}\t{base['runs'] + n}\t{row}\t{row + 1}\t"
            f'{{"clay": "porcelain", "cone": "{row}", "price": "€ 7.{row % 90 + 10}"}}\tchromium\t'
            f"{_outcome(states[n], row, failed[place])}\t1\tt{place}\t2026-01-01\t2026-01-02\n"
            for place, (n, row) in enumerate(casts)
        ),
    )
    _copy(
        connection,
        "results (id, cast_id, taking, place, position, step_id, sentence, outcome, message, used, "
        '"limit", picture, details)',
        _results(size, base, failed),
    )
    return Filled(
        base["runs"] + size.runs - 1,
        base["casts"] + len(casts) - LARGE,
        base["tests"] + (size.runs - 1) % size.tests,
    )


def _outcome(state: str, row: int, failed: bool) -> str:
    if state == "running":
        return "running" if row == 0 else "passed"
    return "failed" if failed else "passed"


def _results(size: Size, base: dict[str, int], failed: list[bool]) -> Iterator[str]:
    details = '{"lookups": [], "console": [], "requests": ["GET /quote 200"], "files": []}'
    made = base["results"]
    for place, bad in enumerate(failed):
        for step in range(STEPS):
            last = bad and step == STEPS - 1
            outcome, message = ("failed", "Not € 7.30 but € 7.20") if last else ("passed", "")
            picture = _digest(made % size.pictures) if made % 5 == 0 else ""
            yield (
                f"{made}\t{base['casts'] + place}\t1\t{step + 1}\t{step}\ts{step:02}\t"
                f"Enter “porcelain” into Clay {step}\t{outcome}\t{message}\t0.12\t5\t{picture}\t"
                f"{details}\n"
            )
            made += 1


def _defects(
    connection: psycopg.Connection,
    size: Size,
    base: dict[str, int],
    people: list[int],
    draw: random.Random,
) -> None:
    weights = ("critical", "major", "minor", "cosmetic")
    states = ("open", "in work", "fixed", "closed")
    ids = connection.execute(
        "SELECT id FROM results WHERE outcome = 'failed' ORDER BY id LIMIT %s", (size.defects,)
    ).fetchall()
    _copy(
        connection,
        "defects (id, title, severity, state, steps, expected, found, environment, browser, "
        "release, fingerprint, version, account_id)",
        (
            f"{base['defects'] + n}\tPrice {n} is wrong\t{draw.choice(weights)}\t"
            f"{draw.choice(states)}\t1. Quote\t€ 7.30\t€ 7.20\tKiln Desk\tChromium 150\tspring\t"
            f"f{n % 900}\t1\t{people[n % len(people)]}\n"
            for n in range(size.defects)
        ),
    )
    _copy(
        connection,
        "sightings (defect_id, result_id)",
        (f"{base['defects'] + n}\t{row[0]}\n" for n, row in enumerate(ids)),
    )
