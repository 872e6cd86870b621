"""`./lantern bench yard [--only WORDS] [--pace NAME] [--smoke]`: the figures of the yard."""

from __future__ import annotations

import argparse
import importlib
import os
import pkgutil
import sys
import tempfile
import uuid
from collections import defaultdict
from pathlib import Path

import structlog

import bench.yard.stories
from bench._bench import report, say
from bench.yard.building import build
from bench.yard.course import STORIES, Ground, Result, go_through
from bench.yard.hand import PACES
from bench.yard.server import Yard
from lantern.browser.chromium import Chromium
from lantern.host.postgres import Cluster
from lantern.store import accounts
from lantern.store.database import Database
from lantern.store.migrating import migrate
from lantern.store.vault import make_key


def load_stories() -> None:
    """Import all modules of stories."""
    for module in pkgutil.iter_modules(bench.yard.stories.__path__):
        importlib.import_module(f"bench.yard.stories.{module.name}")


def figures(results: list[Result]) -> dict[str, float]:
    """Return what the results come to."""
    acts = sum(sum(act.least for act in one.acts) for one in results)
    lost = sum(len(one.lost) for one in results)
    sentences = sum(len(one.sentences) for one in results)
    return {
        "acts": sum(len(one.acts) for one in results),
        "stories": len(results),
        "same_effect": round(sum(one.same for one in results) / max(len(results), 1), 3),
        "acts_kept": round(1 - lost / max(acts, 1), 3),
        "green_but_different": sum(one.green_but_different for one in results),
        "junk": sum(one.junk for one in results),
        "junk_share": round(sum(one.junk for one in results) / max(sentences, 1), 3),
        "nameless": sum(len(one.nameless) for one in results),
        "false_idle": sum(one.false_idle for one in results),
        "false_alarms": sum(one.false_alarm for one in results),
        "did_less_green": sum(one.unlike for one in results),
        "did_less_told": sum(one.caught for one in results),
    }


def by_page(results: list[Result]) -> str:
    """Return the share of stories with the same effect, page by page, in words."""
    pages: dict[str, list[bool]] = defaultdict(list)
    for one in results:
        pages[one.story.page].append(one.same)
    return "\n".join(f"{sum(same) / len(same):.2f} {page}" for page, same in sorted(pages.items()))


def main() -> None:
    """Go through the stories and report."""
    asked = argparse.ArgumentParser(prog="./lantern bench yard")
    asked.add_argument("--only", default="", help="stories whose title holds one of these words")
    asked.add_argument("--pace", choices=[pace.name for pace in PACES], help="one pace alone")
    asked.add_argument("--smoke", action="store_true", help="the half that the tests go through")
    asked.add_argument("--part", default="1/1", help="every n-th story: 1/2 or 2/2")
    asked.add_argument(
        "--less", action="store_true", help="play with sentences that do nothing as well"
    )
    asked.add_argument("--short", action="store_true", help="one story, to see that it runs")
    given = asked.parse_args()
    structlog.configure(
        processors=[
            structlog.processors.format_exc_info,
            structlog.dev.ConsoleRenderer(
                colors=False, exception_formatter=structlog.dev.plain_traceback
            ),
        ],
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
    )
    load_stories()
    build()
    words = [word for word in given.only.lower().split(",") if word]
    first, of = map(int, given.part.split("/"))
    chosen = [
        one
        for n, one in enumerate(STORIES)
        if n % of == first - 1
        and (not given.smoke or one.smoke)
        and (not words or any(word in one.title.lower() for word in words))
    ]
    paces = [pace for pace in PACES if given.pace in (None, pace.name)]
    if given.short:
        chosen, paces = chosen[:1], paces[:1]
    cluster = Cluster(Path("/var/tmp") / f"lantern-yard-{uuid.uuid4().hex[:8]}", careless=True)
    results = []
    with tempfile.TemporaryDirectory() as folder:
        make_key(Path(folder) / "key")
        os.environ["LANTERN_KEY_FILE"] = str(Path(folder) / "key")
        yard, chromium = Yard(), Chromium()
        try:
            cluster.start()
            database = Database(cluster.url)
            migrate(database)
            with database.session() as session:
                accounts.create(session, "ines", "Ines Kiln", "tester", "kiln-and-wheel")
            ground = Ground(yard.address, chromium, database, given.less)
            for one in chosen:
                for pace in paces:
                    results.append(go_through(ground, one, pace))
                    say(results[-1].told())
            database.close()
        finally:
            chromium.close()
            yard.stop()
            cluster.remove()
    say(by_page(results))
    report("yard", figures(results))


if __name__ == "__main__":
    main()
