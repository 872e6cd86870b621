"""`./lantern bench verdicts [--only NAME]`: whether verdicts on planted faults are right.

Each fault is planted where everything had passed, its story is run, and its first failure judged.
`right` is the share of faults whose verdict is their kind, `wrong` of those with another one,
`unclear` of those without one, `silent` counts faults that nothing failed of. Half of the faults,
chosen by a seed, were not looked at while the signs were weighed: figures are given for both.
"""

from __future__ import annotations

import argparse
import random
import time
from collections import Counter, defaultdict

from bench._bench import Place, a_lantern, report, say, sized
from bench.verdicts.faults import FAULTS, Fault
from bench.verdicts.stories import Bench, a_bench
from lantern.core.runs.life import RUN_OVER
from lantern.store import judging, runs, tests
from lantern.store.models import Judgement, Result

SEED = 1114
"""Which half is set aside."""


def set_aside() -> frozenset[str]:
    """Return the names of the faults that are kept apart: half of each kind."""
    by_kind: dict[str, list[str]] = defaultdict(list)
    for one in FAULTS:
        by_kind[one.kind].append(f"{one.kind}: {one.name}")
    chance = random.Random(SEED)
    return frozenset(
        name for names in by_kind.values() for name in chance.sample(names, len(names) // 2)
    )


def judged(bench: Bench, fault: Fault) -> tuple[str, str]:
    """Plant a fault and return the verdict on what failed first, and why; "silent" for nothing."""
    bench.restore()
    fault.plant(bench)
    place = bench.place
    key = play(place, bench.tests[fault.story])
    with place.database.session() as session:
        found = judging.review(session, [key])
        if not found.causes:
            return "silent", runs.get(session, key).state
        one = found.causes[0].members[0]
        result = session.get_one(Result, one.failure.result)
        signs = "; ".join(
            f"{sign['kind']} {sign['weight']:+.1f} {sign['told'][:90]}"
            for sign in session.get_one(Judgement, result.id).body["signs"][:6]
        )
        return one.verdict, f"{result.sentence}: {result.message[:90]} [{signs}]"


def play(place: Place, test: int, choice: str = "all") -> int:
    """Carry a run of the chosen rows out; returns its id."""
    with place.database.session() as session:
        key = runs.create(session, tests.get(session, test), "run", choice, None).id
    while True:
        with place.database.session() as session:
            if runs.get(session, key).state in RUN_OVER:
                return key
        time.sleep(0.05)


def green(bench: Bench, place: Place, stories: set[str]) -> None:
    """Let some stories pass, twice."""
    for _ in range(sized(2, 1)):
        for name in sorted(stories):
            test = bench.tests[name]
            bench.restore()
            key = play(place, test)
            with place.database.session() as session:
                found = judging.review(session, [key]).causes
                firsts = [one.members[0].failure.result for one in found]
                why = [session.get_one(Result, key).message for key in firsts]
                assert runs.get(session, key).state == "passed", f"{name}: {why}"


def tally(outcomes: dict[str, tuple[str, str]], names: frozenset[str]) -> dict[str, float]:
    """Return the figures of some faults."""
    counts = Counter(
        "right" if got == kind else got if got in ("not clear", "silent") else "wrong"
        for name, (kind, got) in outcomes.items()
        if name in names
    )
    cases = sum(counts.values())
    return {
        "cases": cases,
        "right": round(counts["right"] / max(cases, 1), 3),
        "wrong": round(counts["wrong"] / max(cases, 1), 3),
        "unclear": round(counts["not clear"] / max(cases, 1), 3),
        "silent": counts["silent"],
    }


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--only", default="")
    parser.add_argument("--short", action="store_true")
    parser.add_argument("--half", choices=("tuned", "aside"))
    asked = parser.parse_args()
    aside = set_aside()
    chosen = [one for one in FAULTS if asked.only in f"{one.kind}: {one.name}"]
    chosen = sized(chosen, chosen[::40])
    if asked.half:
        wanted = asked.half == "aside"
        chosen = [one for one in chosen if (f"{one.kind}: {one.name}" in aside) == wanted]
    outcomes: dict[str, tuple[str, str]] = {}
    with a_lantern() as place:
        bench = a_bench(place)
        green(bench, place, {one.story for one in chosen})
        for fault in chosen:
            got, why = judged(bench, fault)
            name = f"{fault.kind}: {fault.name}"
            outcomes[name] = fault.kind, got
            mark = "  " if got == fault.kind else "! "
            say(f"{mark}{name} -> {got}" + (f" ({why})" if got != fault.kind else ""))
        bench.proxy.close()
    figures = tally(outcomes, frozenset(outcomes))
    for name, part in (("tuned", frozenset(outcomes) - aside), ("aside", aside)):
        if told := tally(outcomes, part)["cases"]:
            figures |= {f"{name}_{key}": v for key, v in tally(outcomes, part).items()}
            say(f"{name}: {told} cases")
    for kind in ("product", "test", "data", "timing", "environment"):
        of_kind = frozenset(name for name in outcomes if name.startswith(kind))
        if of_kind:
            figures[f"{kind}_right"] = tally(outcomes, of_kind)["right"]
    report("verdicts", figures)


if __name__ == "__main__":
    main()
