"""The story of everything, all actions and blocks, played in every engine that is installed here.

Each engine plays it in a session of its own, in turn, so that the machine is the same. For each:
how many sentences passed of those that it declares, the seconds that they took, and that beside
Chromium. The one sentence that has to fail is not counted.
"""

from __future__ import annotations

import http.server
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from statistics import median

from bench._bench import report, say, sized
from bench._everything import FILES, INSIDE_A_TRY, PAGE, SECOND, SLOW, THINGS, whole
from lantern.browser.engines import ENGINES, installed
from lantern.browser.session import Engine
from lantern.core.engine.browsers import BROWSERS, USUAL
from lantern.core.engine.interpreter import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.steps.model import Settings
from lantern.core.values.sources import Names
from lantern.station.guides import Watcher
from lantern.station.player import Player

ROUNDS = sized(3, 1)
LIMIT = 6.0
MOST_RATIO = 2.5
"""How much longer than Chromium an engine may take."""


class Notes(Watcher):
    """Remembers how sentences ended."""

    def __init__(self) -> None:
        self.results: list[StepResult] = []

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        """Take note of a sentence."""
        self.results.append(result)

    def file(self, name: str) -> bytes | None:
        """Return a file that is given to a page."""
        return FILES.get(name)


@contextmanager
def pages() -> Iterator[str]:
    """Serve the page of everything; gives its address."""

    class Handler(http.server.BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            slow = self.path == "/slow"
            if slow:
                time.sleep(SLOW)
            known = {"/": f"<!doctype html>{PAGE}", "/second": SECOND, "/slow": "slow"}
            content = known.get(self.path, "nothing").encode()
            self.send_response(200 if self.path in known else 404)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.end_headers()
            self.wfile.write(content)

        def log_message(self, *_: object) -> None:
            pass

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_port}"
    finally:
        server.shutdown()


def play(engine: Engine, address: str) -> tuple[int, int, float]:
    """Play the story once; returns how many sentences passed, of how many, and the seconds."""
    document, flows = whole(Settings(LIMIT, on_failure="go on"))
    notes = Notes()
    session = engine.new_session(BROWSERS[USUAL])
    try:
        session.open_page()
        start = time.monotonic()
        Player(session, notes).play(Script(document, THINGS, Names(seed="1"), address, flows))
        took = time.monotonic() - start
    finally:
        session.close()
    counted = [
        one
        for one in notes.results
        if INSIDE_A_TRY not in one.message and one.outcome != "skipped"  # as conditions have it
    ]
    for one in counted:
        if one.outcome != "passed":
            say(f"  {one.sentence}: {one.outcome}: {one.message}")
    return sum(one.outcome == "passed" for one in counted), len(counted), took


def main() -> None:
    """Play in all engines in turn, some rounds of it."""
    found: dict[str, list[tuple[int, int, float]]] = {}
    with pages() as address:
        started = {name: ENGINES[name].start() for name in installed()}
        try:
            for _ in range(ROUNDS):
                for name, engine in started.items():
                    say(name)
                    found.setdefault(name, []).append(play(engine, address))
        finally:
            for engine in started.values():
                engine.close()
    usual = median(one[2] for one in found["chromium"])
    figures: dict[str, float] = {}
    for name, rounds in found.items():
        took = median(one[2] for one in rounds)
        figures |= {
            f"{name}.passed": min(one[0] for one in rounds),
            f"{name}.of": rounds[0][1],
            f"{name}.seconds": round(took, 2),
            f"{name}.ratio": round(took / usual, 2),
        }
    report("engines", figures)


if __name__ == "__main__":
    main()
