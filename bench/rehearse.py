"""The controls of a rehearsal, taken at the web process's own connection.

`control_p95_ms`: the time from sending a control until the rehearsal is said to go on, to be held
or to be over. `hold_in_wait_p95_ms`: the same for holding it in a sentence that waits.
"""

from __future__ import annotations

import json
import statistics
import time
from collections.abc import Callable
from typing import Any

from websockets.sync.client import ClientConnection, connect

from bench._bench import Place, a_lantern, report, say, sized
from bench.stage import cookie
from lantern.core.steps.model import Document, Step
from lantern.store import tests
from lantern.store.models import Account, Environment

ROUNDS = sized(30, 3)
WAITS = sized(10, 2)


def made(place: Place) -> int:
    """Make a test of sentences that do nothing, and of one that waits; returns its number."""
    steps = [Step("open", "open", inputs={"address": "/sign-in"})]
    steps += [Step(f"h{n}", "hold") for n in range(ROUNDS)]
    steps += [Step("wait", "pause", inputs={"seconds": "600"})]
    with place.database.session() as session:
        environment = session.query(Environment).one().id
        author = session.query(Account).filter_by(role="lead").one().id
        return tests.create(
            session, "Rehearsed by a bench", environment, author, Document(tuple(steps))
        ).id


def asked(
    stage: ClientConnection, message: dict[str, Any], fits: Callable[[dict[str, Any]], bool]
) -> float:
    """Send a message; returns the milliseconds until the rehearsal stands as wanted."""
    start = time.monotonic()
    stage.send(json.dumps(message))
    while True:
        said = stage.recv(timeout=30)
        if isinstance(said, str):
            told = json.loads(said)
            if told["type"] == "rehearsal" and fits(told):
                return (time.monotonic() - start) * 1000


def hand(stage: ClientConnection, do: str, fits: Callable[[dict[str, Any]], bool]) -> float:
    """Press a control; see `asked`."""
    return asked(stage, {"type": "hand", "do": do}, fits)


def at(step: str, state: str) -> Callable[[dict[str, Any]], bool]:
    """Return whether a rehearsal is in a state at a sentence."""
    return lambda told: told["state"] == state and (told["spot"] or {}).get("step") == step


def main() -> None:
    """Measure and report."""
    with a_lantern() as place:
        address = place.address.replace("http://", "ws://") + f"/api/live/stage/{made(place)}"
        headers = {"Cookie": cookie(place.address)}
        with connect(
            address, additional_headers=headers, compression=None, max_size=None, proxy=None
        ) as stage:
            begin = {"type": "rehearse", "fresh": True, "hold": True}
            asked(stage, begin, at("open", "held"))
            hand(stage, "over", at("h0", "held"))
            pace = {"type": "pace", "seconds": 0, "light": False}
            times = [asked(stage, pace, lambda _: True)]
            for n in range(1, ROUNDS):
                times.append(hand(stage, "over", at(f"h{n}", "held")))
            hand(stage, "play", at("wait", "playing"))
            waits = []
            for _ in range(WAITS):
                waits.append(hand(stage, "hold", at("wait", "held")))
                times.append(hand(stage, "play", at("wait", "playing")))
            times.append(hand(stage, "end", lambda told: told["state"] == "over"))
    say(f"slowest control {max(times):.0f} ms, slowest hold {max(waits):.0f} ms")
    report(
        "rehearse",
        {"control_p95_ms": _p95(times), "hold_in_wait_p95_ms": _p95(waits)},
    )


def _p95(times: list[float]) -> float:
    return round(statistics.quantiles(times, n=20)[-1] if len(times) > 1 else times[0], 1)


if __name__ == "__main__":
    main()
