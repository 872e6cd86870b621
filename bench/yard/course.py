"""One round of the yard: a story is done by a person, recorded, and played on a fresh page."""

from __future__ import annotations

import json
import random
import re
import time
import urllib.request
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from bench.yard.hand import Act, Hand, Lost, Missed, Pace
from lantern.browser.chromium import Chromium
from lantern.core.channel import Said
from lantern.core.elements.clues import Element
from lantern.core.engine.interpreter import Script
from lantern.core.engine.outcomes import StepResult
from lantern.core.recording.recorder import Add, Change, Update
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.steps.sentences import sentence
from lantern.core.values.sources import Names
from lantern.station.guides import Watcher
from lantern.station.keeping import Keeper
from lantern.station.player import Player
from lantern.station.proving import prover_for
from lantern.station.stage import Stage
from lantern.store import elements, tests
from lantern.store.database import Database
from lantern.store.models import Environment
from lantern.store.rows import unpacked
from lantern.store.vault import Vault

LIMIT = 8.0
"""Seconds that a sentence gets when it is played."""
NAMELESS = frozenset(
    [
        *"button link text svg path div span picture list option table dialog heading".split(),
        *"canvas input img radio slider".split(),
        *("text box", "choice list", "tick box", "file box", "password box", "menu item", ""),
    ]
)
"""Names that say no more than what sort of thing something is."""


@dataclass(frozen=True)
class Story:
    """What a person does on one page of the yard."""

    page: str
    name: str
    do: Callable[[Hand], None]
    limit: float = LIMIT
    smoke: bool = False

    @property
    def title(self) -> str:
        """The page and the story's name."""
        return f"{self.page}: {self.name}"


STORIES: list[Story] = []


def story(
    page: str, name: str, *, limit: float = LIMIT, smoke: bool = False
) -> Callable[[Callable[[Hand], None]], Callable[[Hand], None]]:
    """Register a function as a story; a `smoke` story is part of the tests as well."""

    def register(do: Callable[[Hand], None]) -> Callable[[Hand], None]:
        STORIES.append(Story(page, name, do, limit, smoke))
        return do

    return register


@dataclass
class Result:
    """How a story went: what was recorded, and whether playing it did the same."""

    story: Story
    pace: Pace
    acts: list[Act] = field(default_factory=list)
    sentences: list[str] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)
    junk: int = 0
    nameless: list[str] = field(default_factory=list)
    false_idle: int = 0
    outcome: str = ""
    failed: str = ""
    differs: list[str] = field(default_factory=list)
    unlike: int = 0
    caught: int = 0
    missed: list[str] = field(default_factory=list)
    wanted: dict[str, Any] = field(default_factory=dict)
    got: dict[str, Any] = field(default_factory=dict)
    trouble: str = ""

    @property
    def same(self) -> bool:
        """Whether playing did what was done."""
        return not self.trouble and self.outcome == "passed" and self.wanted == self.got

    @property
    def false_alarm(self) -> bool:
        """Whether playing did what was done, and the proof told of differences all the same."""
        return self.same and bool(self.differs)

    @property
    def green_but_different(self) -> bool:
        """Whether playing passed though something else was done."""
        return not self.trouble and self.outcome == "passed" and self.wanted != self.got

    def told(self) -> str:
        """Say how it went, with all that was not as it should be."""
        mark = "same" if self.same else "GREEN BUT DIFFERENT" if self.green_but_different else "not"
        lines = [f"{mark:5} {self.story.title} ({self.pace.name})"]
        if self.trouble:
            lines.append(f"      trouble: {self.trouble}")
        lines += [f"      not told when it did nothing: {one}" for one in self.missed]
        if self.differs:
            lines += [f"      differs: {one}" for one in self.differs]
        if not self.same or self.lost or self.junk or self.nameless or self.false_idle:
            lines += [f"      | {one}" for one in self.sentences]
            lines += [f"      lost: {one}" for one in self.lost]
            if self.junk:
                lines.append(f"      junk: {self.junk}")
            if self.nameless:
                lines.append(f"      nameless: {', '.join(self.nameless)}")
            if self.false_idle:
                lines.append(f"      false idle: {self.false_idle}")
            if self.failed:
                lines.append(f"      failed: {self.failed}")
            if self.wanted != self.got:
                lines.append(f"      wanted {json.dumps(self.wanted, ensure_ascii=False)[:600]}")
                lines.append(f"      got    {json.dumps(self.got, ensure_ascii=False)[:600]}")
        return "\n".join(lines)


class _Timed(Keeper):
    """Keeps what is recorded, and when each change was."""

    def __init__(self, database: Database, test: int) -> None:
        super().__init__(database, Vault(), test, 1)
        self.times: list[tuple[float, Change]] = []
        self.reported = 0.0

    def keep(self, change: Change, picture: bytes) -> None:
        """Keep a change, noting when what caused it was reported."""
        self.times.append((self.reported or time.monotonic(), change))
        super().keep(change, picture)


class _Results(Watcher):
    def __init__(self, keeper: Keeper) -> None:
        self.keeper = keeper
        self.results: list[StepResult] = []

    def file(self, name: str) -> bytes | None:
        return self.keeper.file(name)

    def step_ends(self, result: StepResult, console: list[str], requests: list[str]) -> None:
        self.results.append(result)


@dataclass(frozen=True)
class Ground:
    """What stories are played on: the yard's address, a browser and a database.

    With `leaves_out` they are played with sentences that do nothing as well.
    """

    address: str
    chromium: Chromium
    database: Database
    leaves_out: bool = False


def _ask(address: str, data: bytes | None = None) -> dict[str, Any]:
    with urllib.request.urlopen(address, data=data, timeout=10) as answer:
        found: dict[str, Any] = json.load(answer)
        return found


def state(ground: Ground) -> dict[str, Any]:
    """Return the state of all pages."""
    return _ask(f"{ground.address}/state")


def _rested(ground: Ground, seconds: float = 0.6, limit: float = 6.0) -> dict[str, Any]:
    """Return the state once it has been the same for some time."""
    last, since, end = state(ground), time.monotonic(), time.monotonic() + limit
    while time.monotonic() - since < seconds and time.monotonic() < end:
        time.sleep(0.05)
        now = state(ground)
        if now != last:
            last, since = now, time.monotonic()
    return last


def go_through(ground: Ground, one: Story, pace: Pace) -> Result:
    """Let a person do a story, record it, and play it on a fresh page.

    A person whose mouse missed something that went away, such as a menu, begins again.
    """
    for _ in range(TRIES - 1):
        try:
            return _go_through(ground, one, pace)
        except Missed:
            continue
    return _go_through(ground, one, pace, last=True)


TRIES = 3
"""How often a person begins a story."""


def _go_through(ground: Ground, one: Story, pace: Pace, *, last: bool = False) -> Result:
    result = Result(one, pace)
    _ask(f"{ground.address}/reset", b"")
    with ground.database.session() as session:
        environment = Environment(name=f"Yard {time.monotonic_ns()}", address=ground.address)
        session.add(environment)
        session.flush()
        test = tests.create(session, f"{one.title} {time.monotonic_ns()}", environment.id, None).id
    keeper = _Timed(ground.database, test)
    try:
        _record(ground, keeper, result)
    except Missed as error:
        if not last:
            raise
        result.trouble = str(error)
    steps, known = _kept(ground, test)
    _judge(result, steps, known, keeper.times)
    if not result.trouble:
        result.wanted = _rested(ground)
        _ask(f"{ground.address}/reset", b"")
        played = _play(ground, keeper, result, steps, known)
        result.outcome, result.got = played.outcome, played.got
        result.failed, result.differs = played.failed, played.differs
        if ground.leaves_out and result.same:
            _leave_out(ground, keeper, result, steps, known)
    return result


def _record(ground: Ground, keeper: _Timed, result: Result) -> None:
    stage = Stage(ground.chromium, keeper, ground.address)
    hand = Hand(stage, result.pace, seed=len(result.story.title))
    said = stage.live.say

    def say(message: Said) -> None:
        hand.said.append(message)
        said(message)

    stage.live.say = say  # type: ignore[method-assign]
    _time_reports(stage, keeper)
    try:
        stage.take({"type": "record", "on": True})
        stage.take({"type": "open", "address": f"/page/{result.story.page}"})
        hand.settle()
        time.sleep(0.3)
        result.story.do(hand)
        time.sleep(1.0)  # a person looks at what came of it before they stop
        stage.take({"type": "record", "on": False})
    except Missed:
        raise
    except Lost as error:
        result.trouble = str(error)
    finally:
        result.acts = hand.acts
        stage.close()


def _time_reports(stage: Stage, keeper: _Timed) -> None:
    """Let the keeper know when what it keeps was reported; recording itself comes later."""
    times: dict[int, float] = {}
    recording = stage.recording
    put, record_one = recording._reports.put, recording._record_one

    def timed_put(item: Any, *rest: Any, **more: Any) -> None:  # noqa: ANN401 - passed on
        if isinstance(item, tuple):
            times[id(item[0])] = time.monotonic()
        put(item, *rest, **more)

    def timed(event: Any, *rest: Any) -> None:  # noqa: ANN401 - passed on as it comes
        keeper.reported = times.pop(id(event), 0.0)
        record_one(event, *rest)

    recording._reports.put = timed_put  # type: ignore[method-assign]
    recording._record_one = timed  # type: ignore[method-assign, assignment]


def _kept(ground: Ground, test: int) -> tuple[tuple[Step, ...], dict[str, Element]]:
    with ground.database.session() as session:
        document = unpacked(tests.get(session, test))
        return document.steps, elements.load(session, document.element_ids())


def _judge(
    result: Result,
    steps: tuple[Step, ...],
    known: dict[str, Element],
    times: list[tuple[float, Change]],
) -> None:
    result.sentences = [
        sentence(step, known) + (" [idle]" if step.idle else "") for step in steps[1:]
    ]
    result.false_idle = sum(step.idle for step in steps[1:])
    result.nameless = [
        known[step.element].name
        for step in steps
        if step.element and _nameless(known[step.element].name)
    ]
    result.junk = max(0, len(steps) - 1 - sum(act.most for act in result.acts))
    result.lost = _lost(result.acts, [at for at, one in times if isinstance(one, Add | Update)])


def _nameless(name: str) -> bool:
    return name.lower() in NAMELESS or bool(re.search(r" > |[<>{}]|^#", name))


def _lost(acts: list[Act], times: list[float]) -> list[str]:
    """Return the acts that left nothing: each change is counted for one act, the earliest."""
    left = sorted(times)
    lost = []
    for number, act in enumerate(acts):
        later = acts[number + 1].began if number + 1 < len(acts) else float("inf")
        grace = 0.6 if act.least else 0.0  # what came of it may be told only then
        mine = [at for at in left if act.began <= at < later + grace]
        if mine:
            left.remove(mine[0])
            left = [at for at in left if not act.began <= at < later]
        elif act.least:
            lost.append(act.words)
    return lost


@dataclass(frozen=True)
class Played:
    """How steps were played: the outcome, the state it led to, and what the proof told."""

    outcome: str
    got: dict[str, Any]
    failed: str
    differs: list[str]


def _play(
    ground: Ground,
    keeper: _Timed,
    result: Result,
    steps: tuple[Step, ...],
    known: dict[str, Element],
) -> Played:
    context = ground.chromium.new_session()
    watcher = _Results(keeper)
    try:
        context.open_page()
        plain = Document(steps, settings=Settings(result.story.limit, pictures="none"))
        with ground.database.session() as session:
            test = tests.get(session, keeper._test_id)
            names = Names(secret=Vault().values(session, test.environment_id))
            prover = prover_for(session, keeper._test_id, plain, names)
        script = Script(plain, known, names, ground.address)
        outcome = Player(context, watcher, prover=prover).play(script)
        end = time.monotonic() + 3.0
        got = _rested(ground)
        while got != result.wanted and time.monotonic() < end:
            got = _rested(ground)
    finally:
        context.close()
    failed = next((one for one in watcher.results if one.outcome == "failed"), None)
    told = [f"{one.sentence}: {told.said}" for one in prover.found for told in one.told]
    return Played(outcome, got, f"{failed.sentence}: {failed.message}" if failed else "", told)


def _leave_out(
    ground: Ground,
    keeper: _Timed,
    result: Result,
    steps: tuple[Step, ...],
    known: dict[str, Element],
) -> None:
    """Play with a sentence that does nothing: what is green then and did less has to be told."""
    inner = [step for step in steps[1:] if step.action not in ("window", "hover", "scroll")]
    chosen = random.Random(result.story.title).sample(inner, min(LEFT_OUT, len(inner)))
    for step in chosen:
        _ask(f"{ground.address}/reset", b"")
        idle = Step(step.id, "pause", inputs={"seconds": "0"}, page=step.page)
        rest = tuple(idle if one is step else one for one in steps)
        played = _play(ground, keeper, result, rest, known)
        if played.outcome == "passed" and played.got != result.wanted:
            result.unlike += 1
            if played.differs:
                result.caught += 1
            else:
                result.missed.append(sentence(step, known))


LEFT_OUT = 2
"""How many sentences of a story do nothing in turn, to see whether the proof tells of it."""
