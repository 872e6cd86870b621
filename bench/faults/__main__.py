"""`./lantern bench faults [--kills N] [--seed S] [--only NAME]`: kills and outages at random.

`kills` faults come while nothing goes on, while a run does, and while somebody records. `lost`
counts acknowledged results and sentences that are gone afterwards, `untrue_ends` runs that do not
end or say what was not so, `orphans` processes and folders that nobody answers for, `by_hand`
faults after which somebody would have had to help; `slowest_recovery_s` is the longest time until
all was well again, from the end of the fault on.
"""

from __future__ import annotations

import argparse
import random
import secrets
import signal
import time

from bench._bench import report, say
from bench.faults.faults import FAULTS, ON_SMALL_DISKS, Fault, gone
from bench.faults.place import Demo, Late, a_demo, until
from bench.faults.work import Recording, Running, make_tests, settle

KILLS = 42
RECOVERS = 90.0
"""Seconds after which nobody waits any longer for a recovery."""
PHASES = ("running", "running", "running", "recording", "idle")


class Tally:
    """What is counted."""

    def __init__(self) -> None:
        self.kills = self.lost = self.untrue = self.orphans = self.by_hand = 0
        self.slowest = 0.0

    def figures(self) -> dict[str, float]:
        """Return the figures."""
        return {
            "kills": self.kills,
            "lost": self.lost,
            "untrue_ends": self.untrue,
            "orphans": self.orphans,
            "by_hand": self.by_hand,
            "slowest_recovery_s": round(self.slowest, 1),
        }


def _begin(
    phase: str, demo: Demo, made: tuple[int, int], chance: random.Random
) -> Running | Recording | None:
    """Begin what is to be cut off, and wait for a moment in it."""
    if phase == "idle":
        return None
    if phase == "recording":
        recording = Recording(demo, made[1])
        time.sleep(chance.uniform(0, 1.5))
        recording.note()
        return recording
    running = Running(demo, made[0])
    moment = chance.choice(("before taking", "taken", "begun", "middle", "written", "late"))
    if moment == "written":
        until(running.kept_one, "no result came", 60)
    else:
        low, high = {
            "before taking": (0, 0.01),
            "taken": (0.02, 0.2),
            "begun": (0.2, 1.0),
            "middle": (1.0, 5.0),
            "late": (5.0, 9.0),
        }[moment]
        time.sleep(chance.uniform(low, high))
    running.note()
    say(f"    {moment}")
    return running


def one(
    fault: Fault,
    phase: str,
    demo: Demo,
    made: tuple[int, int],
    chance: random.Random,
    tally: Tally,
) -> None:
    """Let one fault come and count what became of everything."""
    work = _begin(phase, demo, made, chance)
    tally.kills += 1
    fault.do(demo, chance)
    if fault.whole:
        tally.orphans += _orphans(demo)
        demo.start()
    try:
        took = settle(demo, work, RECOVERS)
        tally.slowest = max(tally.slowest, took)
        say(f"    well again after {took:.1f} s")
    except Late as error:
        say(f"    BY HAND: {error}")
        tally.by_hand += 1
        demo.end(signal.SIGKILL)
        demo.kill_all()
        demo.start()
    lost, untrue = 0, list[str]()
    if isinstance(work, Running):
        lost, untrue = work.judge(fault.may)
    elif isinstance(work, Recording):
        lost, untrue = work.judge()
    _, after = Running(demo, made[0], "1").judge(frozenset({"passed"}))
    tally.lost += lost
    tally.untrue += len(untrue) + len(after)
    tally.orphans += _orphans(demo)
    for words in (f"{lost} LOST" if lost else "", *untrue, *after):
        if words:
            say(f"    {words}")


def _orphans(demo: Demo) -> int:
    left = gone(demo)
    folders = len(demo.left_folders()) if demo.process and demo.process.poll() is None else 0
    if left or folders:
        say(f"    ORPHANS: {[one.cmdline()[:2] for one in demo.orphans()]}, {folders} folders")
    for process in demo.orphans():
        process.kill()
    return left + folders


def main() -> None:
    """Play the faults."""
    parser = argparse.ArgumentParser(prog="./lantern bench faults")
    parser.add_argument("--kills", type=int, default=KILLS)
    parser.add_argument("--seed", default=secrets.token_hex(4))
    parser.add_argument("--only", default="", help="faults whose name contains this")
    parser.add_argument("--short", action="store_true", help="one of them, to see that it runs")
    chosen = parser.parse_args()
    chance, tally = random.Random(chosen.seed), Tally()
    say(f"seed {chosen.seed}")
    with a_demo() as demo:
        known = [*FAULTS, *(ON_SMALL_DISKS if demo.small_disks else ())]
        if not demo.small_disks:
            say("no small disks can be mounted here: full disks are left out")
        made = make_tests(demo)
        pool = [fault for fault in known if chosen.only in fault.name]
        # Each comes at least once, in any order; the rest by weight.
        if chosen.short:
            pool, chosen.kills = pool[:1], 1
        plan = list(pool) if not chosen.only else []
        plan += chance.choices(pool, [one.weight for one in pool], k=chosen.kills - len(plan))
        chance.shuffle(plan)
        for number, fault in enumerate(plan, 1):
            phase = chance.choice(PHASES)
            say(f"{number:>3} {fault.name}, {phase}")
            one(fault, phase, demo, made, chance, tally)
    report("faults", tally.figures())


if __name__ == "__main__":
    main()
