"""`./lantern bench blindspots [--only KIND]`: whether what is told of blind spots is so.

Of each story it is told which changes of its pages its checks would notice; then the same changes
are made for real by the proxy, one at a time, while the story is played. `agree` is the share of
changes of which it was told right, `missed` of those that were said to be noticed and were not,
`more` of those that were noticed all the same.
"""

from __future__ import annotations

import argparse
import random
from collections import Counter, defaultdict

from bench._bench import Place, a_lantern, report, say, sized
from bench.blindspots.planting import can_be_made, planted
from bench.blindspots.stories import a_bench
from bench.verdicts.__main__ import play
from bench.verdicts.stories import Bench
from lantern.core.review.blind.changes import CHANGE_KINDS
from lantern.core.review.blind.spots import Spot
from lantern.store import blindspots, casts, runs, tests

SEED = 1128
"""Which changes are tried."""
CASES = 240


def chosen(bench: Bench, place: Place) -> list[tuple[str, Spot]]:
    """Return changes of all stories, as many of each kind as there are to be had."""
    chance = random.Random(SEED)
    by_kind: dict[str, list[tuple[str, Spot]]] = defaultdict(list)
    for name, test in bench.tests.items():
        with place.database.session() as session:
            told = blindspots.of_test(session, tests.get(session, test))
        say(
            f"{name}: {len(told.look.spots)} changes, share {told.look.share}, untried "
            f"{[one.words for one in told.look.untried]}, never {dict(told.look.never)}"
        )
        for spot in told.look.spots:
            if can_be_made(spot):
                by_kind[spot.change.kind].append((name, spot))
    for spots in by_kind.values():
        chance.shuffle(spots)
    found: list[tuple[str, Spot]] = []
    while len(found) < CASES and any(by_kind.values()):
        found += [spots.pop() for spots in by_kind.values() if spots]
    return found


def noticed(bench: Bench, place: Place, name: str, spot: Spot) -> tuple[bool, str]:
    """Make a change for real, play the story, and tell whether it did not pass, and why."""
    bench.restore()
    bench.rule("^GET /|^POST /", after=planted(spot))
    return failed(place, play(place, bench.tests[name], "1"))


def failed(place: Place, key: int) -> tuple[bool, str]:
    """Tell whether a run did not pass, and what of it failed."""
    with place.database.session() as session:
        run = runs.get(session, key)
        why = [
            f"{one.sentence}: {one.message}"
            for cast in run.casts
            for one in casts.results(session, cast.id)
            if one.outcome == "failed"
        ]
        return run.state != "passed", " / ".join(why)[:240]


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--only", default="")
    parser.add_argument("--short", action="store_true")
    asked = parser.parse_args()
    right: Counter[str] = Counter()
    of: Counter[str] = Counter()
    wrong: Counter[str] = Counter()
    with a_lantern() as place:
        bench = a_bench(place)
        for test in bench.tests.values():
            bench.restore()
            not_green, why = failed(place, play(place, test))
            assert not not_green, why
        cases = [one for one in chosen(bench, place) if asked.only in one[1].change.kind]
        for name, spot in sized(cases, cases[:4]):
            told = not spot.blind
            truth, why = noticed(bench, place, name, spot)
            kind = spot.change.kind
            of[kind] += 1
            right[kind] += told == truth
            if told != truth:
                wrong["missed" if told else "more"] += 1
                say(
                    f"! {name}: {kind} “{spot.change.before}” -> “{spot.change.after}” on "
                    f"{spot.page} ({spot.node.path}): told "
                    f"{spot.by.words if spot.by else 'blind'}, was {why or 'green'}"
                )
        bench.proxy.close()
    cases_made = sum(of.values())
    figures: dict[str, float] = {
        "cases": cases_made,
        "agree": round(sum(right.values()) / max(cases_made, 1), 3),
        "missed": round(wrong["missed"] / max(cases_made, 1), 3),
        "more": round(wrong["more"] / max(cases_made, 1), 3),
    }
    for kind in CHANGE_KINDS:
        if of[kind]:
            figures[f"{kind}_cases"] = of[kind]
            figures[f"{kind}_agree"] = round(right[kind] / of[kind], 3)
    report("blindspots", figures)


if __name__ == "__main__":
    main()
