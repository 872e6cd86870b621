"""Spreading a run: rows that mostly wait, on one station and on two, of one place each.

The rows sign in with an account that the Kiln Desk lets in after some seconds. Each number of
stations carries out the same run in turn; `ratio` is the throughput of two over that of one.
"""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy import select

from bench._bench import Place, a_lantern, report, run_to_end, say, sized
from lantern.core.elements.clues import Clue, Element
from lantern.core.steps.model import Document, Row, Settings, Step
from lantern.host import processes
from lantern.store import elements, stations, tests
from lantern.store.models import Environment

ROWS = sized(8, 1)
ROUNDS = sized(2, 1)
FIELDS = {"member": "text box", "password": "password box", "enter": "button", "piece": "text box"}


def _make_test(place: Place) -> int:
    with place.database.session() as session:
        for key, kind in FIELDS.items():
            clue = Clue("id", "is", key)
            elements.save(session, Element(f"spread-{key}", key, kind, (clue,)))
        steps = (
            Step("s1", "open", inputs={"address": "/sign-in"}),
            Step("s2", "type", "spread-member", {"text": "ines"}),
            Step("s3", "type", "spread-password", {"text": "raw-to-glaze"}),
            Step("s4", "press", "spread-enter"),
            Step("s5", "type", "spread-piece", {"text": "${row.piece}"}),
        )
        rows = tuple(Row(f"r{n}", {"piece": f"Moon jar {n}"}) for n in range(ROWS))
        settings = Settings(limit=30, pictures="none")
        document = Document(steps, rows=rows, columns=("piece",), settings=settings)
        environment = session.scalars(select(Environment)).one()
        return tests.create(session, "spread", environment.id, None, document).id


@contextmanager
def a_second_station(place: Place) -> Iterator[None]:
    """One more station, up and with a browser that runs."""
    child = processes.station({}, place.logs / "second")
    child.start()
    try:
        while True:
            with place.database.session() as session:
                if len(stations.alive(session)) == 2:
                    break
            time.sleep(0.1)
        yield
    finally:
        child.stop()


def main() -> None:
    """Measure one and two, and report the ratio of the best of each."""
    with a_lantern(places=1) as place:
        test_id = _make_test(place)
        run_to_end(place.database, test_id)  # the browser is up from here on
        one = min(run_to_end(place.database, test_id) for _ in range(ROUNDS))
        say(f"one station {one:.1f} s")
        with a_second_station(place):
            run_to_end(place.database, test_id)
            two = min(run_to_end(place.database, test_id) for _ in range(ROUNDS))
        say(f"two stations {two:.1f} s")
    report("spread", {"ratio": round(one / two, 3), "one_s": round(one, 2), "rows": ROWS})


if __name__ == "__main__":
    main()
