"""`python -m bench._sample`: plays the sample project on the Kiln Desk, and keeps what came of it.

What is written is shipped with the demo (`src/lantern/demo/team/plays`): results as they were, with
times relative to the beginning of their row, and the pictures of failures and of each row's end.
"""

from __future__ import annotations

import gzip
import io
import json
import sys
import time
import zipfile
from collections.abc import Mapping
from typing import Any

import requests
from PIL import Image
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bench._bench import Place, a_lantern, say
from bench.verdicts.proxy import Asked, Proxy, Rule
from lantern.core.runs.life import RUN_OVER
from lantern.demo.team import plays
from lantern.demo.team.plays import CAST, DESK, FOLDER, PICTURES, PLAYS, RESULT
from lantern.demo.team.project import AHEAD, NIGHTLY, Project, load_project
from lantern.store import plan_runs
from lantern.store.models import (
    Cast,
    Environment,
    Picture,
    PlanRun,
    Result,
    Run,
    Test,
    Version,
)
from lantern.store.pictures import digest_of
from lantern.store.vault import Vault

QUALITY = 45
HELD_UP = 14
"""Seconds for which the window of a ticket is held up: longer than its sentences wait together."""


class Once:
    """Holds up the first request of its kind, so that what is tried again passes."""

    def __init__(self) -> None:
        self.left = 1

    def __call__(self, _: Asked) -> None:
        """Wait, the first time."""
        if self.left > 0:
            self.left -= 1
            time.sleep(HELD_UP)


def moods(proxy: Proxy, place: Place) -> Mapping[str, tuple[str, list[Rule], str]]:
    """Return how the desk is in each mood: its release, what the proxy does, the plan."""
    return {
        "spring": ("spring", [], NIGHTLY),
        "spring again": ("spring", [], NIGHTLY),
        "spring once more": ("spring", [], NIGHTLY),
        "autumn": ("autumn", [], NIGHTLY),
        "slow": ("spring", [Rule(".*", delay=0.45)], NIGHTLY),
        "ticket": ("spring", [Rule("GET /ticket", before=Once())], NIGHTLY),
        "summer": ("summer", [], AHEAD),
    }


def main() -> None:
    """Play all moods, or those that are named, in place of what there is of them."""
    with a_lantern(places=2) as place:
        proxy = Proxy(place.desk)
        with place.database.session() as session:
            project = load_project_alone(session, proxy)
        told: dict[str, Any] = {}
        pictures: dict[str, bytes] = {}
        chosen = sys.argv[1:]
        for mood, (release, rules, plan) in moods(proxy, place).items():
            if chosen and mood not in chosen:
                continue
            requests.post(f"{place.desk}/reset", data={"release": release}, timeout=10)
            proxy.rules[:] = rules
            key = played(place, project.plans[plan])
            with place.database.session() as session:
                told[mood] = _told(session, key, proxy.address, pictures)
            say(f"{mood}: {told[mood]['state']}, " + "; ".join(_bad(told[mood])))
    if chosen:
        told = {**plays.read(plays.DESK), **told}
        pictures = {**dict(plays.pictures()), **pictures}
    _write(told, {name: pictures[name] for name in _named(told)})


def load_project_alone(session: Session, proxy: Proxy) -> Project:
    """Make the sample project in a place that holds the first two tests already."""
    session.execute(delete(Version))
    session.execute(delete(Test))
    for one in session.scalars(select(Environment)):
        one.address = proxy.address
    return load_project(session, Vault(), proxy.address, proxy.address)


def played(place: Place, plan: int) -> int:
    """Carry a plan out; returns the number of its run."""
    with place.database.session() as session:
        key = plan_runs.start(session, plan, None).id
    while True:
        with place.database.session() as session:
            if plan_runs.get(session, key).state in RUN_OVER:
                return key
        time.sleep(0.2)


def _told(session: Session, key: int, address: str, pictures: dict[str, bytes]) -> dict[str, Any]:
    row = session.get_one(PlanRun, key)
    runs = session.scalars(select(Run).filter_by(plan_run_id=key).order_by(Run.place)).all()
    found = {
        "state": row.state,
        "message": row.message,
        "runs": {run.test_name: _run(session, run, pictures) for run in runs},
    }
    told: dict[str, Any] = json.loads(json.dumps(found, default=str).replace(address, DESK))
    return told


def _run(session: Session, run: Run, pictures: dict[str, bytes]) -> dict[str, Any]:
    return {
        "state": run.state,
        "message": run.message,
        "release": run.release,
        "browser": run.browser,
        "casts": [_cast(session, cast, pictures) for cast in run.casts],
    }


def _cast(session: Session, cast: Cast, pictures: dict[str, bytes]) -> dict[str, Any]:
    rows = session.scalars(select(Result).filter_by(cast_id=cast.id).order_by(Result.id)).all()
    assert cast.started_at, "a row of a run that is over has begun"
    assert cast.ended_at, "and ended"
    begun = min(*(one.at for one in rows), cast.started_at)  # those of an earlier taking as well
    told = []
    for place, one in enumerate(rows):
        shown = one.outcome == "failed" or place == len(rows) - 1
        values = {name: getattr(one, name) for name in RESULT}
        values["picture"] = _picture(session, one.picture, pictures) if shown else ""
        told.append({**values, "after": round((one.at - begun).total_seconds(), 3)})
    return {
        **{name: getattr(cast, name) for name in CAST},
        "seconds": round((cast.ended_at - begun).total_seconds(), 3),
        "results": told,
    }


def _picture(session: Session, digest: str, pictures: dict[str, bytes]) -> str:
    """Keep a picture in fewer bytes; returns the digest that it has then."""
    if not digest:
        return ""
    content = session.get_one(Picture, digest).content
    out = io.BytesIO()
    Image.open(io.BytesIO(content)).save(out, "JPEG", quality=QUALITY, optimize=True)
    small = digest_of(out.getvalue())
    pictures[small] = out.getvalue()
    return small


def _bad(told: Mapping[str, Any]) -> list[str]:
    return [
        f"{name} row {cast['number']} {cast['outcome']}: "
        + next((one["message"] for one in cast["results"] if one["outcome"] == "failed"), "")[:150]
        for name, run in told["runs"].items()
        for cast in run["casts"]
        if cast["outcome"] != "passed"
    ]


def _named(told: Mapping[str, Any]) -> set[str]:
    """Return the pictures that are named in plays."""
    return {
        one["picture"]
        for mood in told.values()
        for run in mood["runs"].values()
        for cast in run["casts"]
        for one in cast["results"]
        if one["picture"]
    }


def _write(told: Mapping[str, Any], pictures: Mapping[str, bytes]) -> None:
    FOLDER.mkdir(exist_ok=True)
    raw = json.dumps(told, sort_keys=True, separators=(",", ":")).encode()
    (FOLDER / PLAYS).write_bytes(gzip.compress(raw, mtime=0))
    with zipfile.ZipFile(FOLDER / PICTURES, "w") as archive:
        for digest, content in sorted(pictures.items()):
            archive.writestr(zipfile.ZipInfo(f"{digest}.jpg"), content)
    sizes = [(FOLDER / name).stat().st_size >> 10 for name in (PLAYS, PICTURES)]
    say(f"{len(told)} moods, {len(pictures)} pictures: {sizes} kB")


if __name__ == "__main__":
    main()
