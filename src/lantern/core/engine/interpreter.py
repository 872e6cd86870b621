"""The interpreter: plays the steps of a test for one row, as a generator of requests."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from lantern.core.data.table import Trait
from lantern.core.engine import requests as ask
from lantern.core.engine.attempt import Attempt, Script, ending, sentence_of, try_step
from lantern.core.engine.coding import code_request
from lantern.core.engine.outcomes import Evidence, Outcome, StepFailed, StepResult
from lantern.core.problems import Problem
from lantern.core.steps.actions.blocks import NUMBER, rounds
from lantern.core.steps.catalogue import action_of
from lantern.core.steps.defaults import effective
from lantern.core.steps.model import Step
from lantern.core.steps.tree import Node, tree
from lantern.core.values.templates import resolve

__all__ = ["Script", "play_row"]
MOST_DEEP = 20
"""How deep flows may call flows: more is taken for a call that leads back to itself."""
EARLIER = "An earlier sentence failed."


def play_row(script: Script) -> ask.Play[Outcome]:
    """Play all steps for one row; returns "passed" or "failed".

    Yields StepStarts and StepEnds around each step. After a failure that stops the row, the
    steps that did not run end as skipped, but what is always to be done at the end is done.
    """
    row = _Row()
    yield from _Frame(row, script).play()
    return "failed" if row.failed else "passed"


@dataclass
class _Row:
    """How far a row is: `stopped` says why nothing more is played, `trying` in how many tries."""

    position: int = 0
    failed: bool = False
    stopped: str = ""
    trying: int = 0
    dead: bool = False
    first_failure: StepResult | None = None


@dataclass
class _Frame:
    """The steps of a test, or of a flow that it calls, with the names that hold there."""

    row: _Row
    script: Script
    within: tuple[str, ...] = ()
    later: list[tuple[Node, tuple[Step, ...]]] = field(default_factory=list)

    def play(self) -> ask.Play[None]:
        """Play everything, and what is always to be done at the end."""
        yield from self._nodes(tree(self.script.document.steps), ())
        while self.later:
            node, blocks = self.later.pop(0)
            stopped, self.row.stopped = self.row.stopped, EARLIER if self.row.dead else ""
            yield from self._group(node, blocks)
            self.row.stopped = stopped or self.row.stopped

    def _nodes(self, nodes: Sequence[Node], blocks: tuple[Step, ...]) -> ask.Play[None]:
        taken: bool | None = None
        for node in nodes:
            kind = _block_of(node.step)
            if kind in ("else if", "else"):
                taken = yield from self._otherwise(node, blocks, taken)
                continue
            taken = None
            why = self.row.stopped or ("" if node.step.enabled else "The sentence is switched off.")
            if kind == "always" and node.step.enabled:
                self.later.append((node, blocks))
            elif why:
                yield from self._skip(node, why)
            elif kind == "if":
                taken = yield from self._if(node, blocks)
            else:
                yield from _PLAYS[kind](self, node, blocks)

    # -- one by one ------------------------------------------------------------------------------

    def _step(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[Attempt | None]:
        """Play one step and tell how it ended; None when it failed."""
        held = effective(node.step, blocks, self.script.document.settings)
        position = self._next()
        text = sentence_of(node.step, self.script)
        yield from ask.StepStarts(node.step.id, position, text)
        for number in range(held.retries + 1):
            attempt = yield from try_step(node.step, position, text, self.script, held)
            passed = attempt.result.outcome == "passed"
            if passed or attempt.result.reason == "browser died" or number == held.retries:
                break
        result = replace(attempt.result, within=self.within, attempts=number + 1)
        yield from self._end(result, held.on_failure)
        return attempt if passed else None

    def _end(self, result: StepResult, on_failure: str) -> ask.Play[None]:
        yield from ask.StepEnds(result)
        if result.outcome != "failed":
            return
        row = self.row
        row.dead = row.dead or result.reason == "browser died"
        row.first_failure = row.first_failure or result
        if row.trying and not row.dead:
            row.stopped = "An earlier sentence of what is tried failed."
            return
        row.failed = True
        if on_failure == "stop everything":
            yield from ask.StopEverything()
        if on_failure != "go on" or row.dead:
            row.stopped = EARLIER

    def _skip(self, node: Node, why: str) -> ask.Play[None]:
        text = sentence_of(node.step, self.script)
        result = StepResult(
            node.step.id, self._next(), text, "skipped", message=why, within=self.within
        )
        yield from ask.StepEnds(result)
        for inner in node.inside:
            yield from self._skip(inner, why)

    def _next(self) -> int:
        self.row.position += 1
        return self.row.position - 1

    # -- blocks ----------------------------------------------------------------------------------

    def _plain(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[None]:
        yield from self._step(node, blocks)

    def _group(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[None]:
        if (yield from self._step(node, blocks)):
            yield from self._nodes(node.inside, (node.step, *blocks))

    def _if(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[bool | None]:
        attempt = yield from self._step(node, blocks)
        if attempt is None:
            return True  # whatever else there is depends on what could not be told
        if attempt.value:
            yield from self._nodes(node.inside, (node.step, *blocks))
        else:
            yield from self._skip_inside(node, "The condition did not hold.")
        return bool(attempt.value)

    def _otherwise(
        self, node: Node, blocks: tuple[Step, ...], taken: bool | None
    ) -> ask.Play[bool | None]:
        why = self.row.stopped or ("" if node.step.enabled else "The sentence is switched off.")
        if taken is None and not why:
            yield from self._fail(
                node, "Nothing is asked before this “else”.", "Put an “If” there."
            )
            return None
        if taken or why:
            yield from self._skip(node, why or "A condition before held.")
            return taken
        return (yield from self._if(node, blocks))

    def _try(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[None]:
        row = self.row
        row.trying += 1
        yield from self._group(node, blocks)
        row.trying -= 1
        if not row.dead and not (row.failed and row.stopped == EARLIER):
            row.stopped = ""

    def _repeat(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[None]:
        attempt = yield from self._step(node, blocks)
        if attempt is None:
            return
        if not attempt.value:
            yield from self._skip_inside(node, "There was nothing to repeat.")
        for place, values in enumerate(attempt.value):
            if self.row.stopped:
                break
            yield from self._round(node, blocks, values, f"{place + 1} of {len(attempt.value)}")

    def _while(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[None]:
        number = 0
        while not self.row.stopped:
            attempt = yield from self._step(node, blocks)
            if attempt is None:
                return
            if not attempt.value:
                if number == 0:
                    yield from self._skip_inside(node, "The condition did not hold.")
                return
            number += 1
            try:
                most = rounds(attempt.call, "most")
            except Problem as error:
                yield from self._fail(node, error.message, error.hint)
                return
            if number > most:
                yield from self._fail(
                    node,
                    f"It was still so after {most} rounds.",
                    "Allow more, or end it elsewhere.",
                )
                return
            yield from self._round(node, blocks, {NUMBER: str(number)}, str(number))

    def _round(
        self, node: Node, blocks: tuple[Step, ...], values: Mapping[str, str], told: str
    ) -> ask.Play[None]:
        names = replace(self.script.names, each=values, seed=f"{self.script.names.seed}|{told}")
        frame = replace(
            self,
            script=replace(self.script, names=names),
            within=(*self.within, f"round {told}"),
        )
        yield from frame._nodes(node.inside, (node.step, *blocks))

    def _flow(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[None]:
        """Play a flow; its own sentence ends after those of the flow, as they ended."""
        step, script = node.step, self.script
        position = self._next()
        text = sentence_of(step, script)
        yield from ask.StepStarts(step.id, position, text)
        start: float = yield from ask.Now()
        failure: StepFailed | None = None
        kept: dict[str, str] = {}
        held = effective(step, blocks, script.document.settings)
        in_python = step.flow in script.flows and bool(script.flows[step.flow].document.code)
        limit = held.limit if in_python else 0.0
        before, self.row.first_failure = self.row.first_failure, None
        try:
            inner = self._called(step)
            if inner.script.document.code:
                kept = yield from _run_code(inner.script, limit)
            else:
                yield from inner.play()
                kept = _handed_back(inner.script, self.row.stopped)
        except StepFailed as error:
            failure = error
        except Problem as error:
            failure = StepFailed("bad value", error.message, hint=error.hint)
        inside, self.row.first_failure = self.row.first_failure, before or self.row.first_failure
        end: float = yield from ask.Now()
        if inside:
            failure = StepFailed(inside.reason, f"{inside.sentence}: {inside.message}")
        script.names.kept.update(kept)
        evidence = Evidence(kept=kept)
        result = ending(step, position, text, failure, evidence, end - start, limit, script.names)
        result = replace(result, within=self.within)
        if inside:
            yield from ask.StepEnds(result)  # what follows from it was decided inside
        else:
            yield from self._end(result, held.on_failure)

    def _called(self, step: Step) -> _Frame:
        """Return the frame of a flow; raises Problem when it can not be played as called."""
        script = self.script
        flow = script.flows.get(step.flow)
        if flow is None:
            raise Problem("The flow of this sentence was deleted.", where=step.id)
        if len(self.within) >= MOST_DEEP:
            path = " → ".join(self.within)
            raise Problem(f"The flows lead back to themselves: {path}.", where=step.id)
        given = {
            one.name: resolve(step.inputs.get(one.name, "") or one.default, script.names, step.id)
            for one in flow.document.takes
        }
        for one in flow.document.takes:
            message, _ = Trait(one.kind).problem(given[one.name])
            if message:
                raise Problem(f"The input {one.name} of “{flow.name}”: {message}", where=step.id)
        # What is made up inside differs from call to call.
        seed = f"{script.names.seed}|{step.id}"
        names = replace(script.names, row={}, kept={}, each={}, given=given, seed=seed)
        document = replace(flow.document, settings=script.document.settings)
        inner = replace(script, document=document, names=names)
        return _Frame(self.row, inner, (*self.within, flow.name))

    def _skip_inside(self, node: Node, why: str) -> ask.Play[None]:
        for inner in node.inside:
            yield from self._skip(inner, why)

    def _fail(self, node: Node, message: str, hint: str) -> ask.Play[None]:
        text = sentence_of(node.step, self.script)
        failure = StepFailed("bad value", message, hint=hint)
        names = self.script.names
        result = ending(node.step, self._next(), text, failure, Evidence(), 0.0, 0.0, names)
        yield from self._end(replace(result, within=self.within), "stop")


def _block_of(step: Step) -> str:
    try:
        return action_of(step.action).block
    except Problem:
        return ""  # playing it says what is wrong with it


def _handed_back(script: Script, stopped: str) -> dict[str, str]:
    """Return the outputs of a flow; raises Problem when it ended well without one of them."""
    kept = script.names.kept
    missing = [name for name in script.document.gives if name not in kept]
    if missing and not stopped:
        raise Problem(f"The flow kept no {missing[0]}, which it is to give.", where=missing[0])
    return {name: kept[name] for name in script.document.gives if name in kept}


def _run_code(script: Script, limit: float) -> ask.Play[dict[str, str]]:
    """Run a flow that is written in Python; returns what it gives. Raises StepFailed."""
    ran: ask.Ran = yield code_request(script.document.code, script.names.given, limit)
    if ran.error:
        where = f" in line {ran.line}" if ran.line else ""
        raise StepFailed("code failed", f"The code failed{where}: {ran.error}")
    missing = [name for name in script.document.gives if name not in ran.gave]
    if missing:
        raise StepFailed("code failed", f"The code gave no {missing[0]}, which it is to give.")
    return {name: ran.gave[name] for name in script.document.gives}


_Plays = Callable[[_Frame, Node, tuple[Step, ...]], ask.Play[None]]
_PLAYS: dict[str, _Plays] = {
    "": _Frame._plain,
    "group": _Frame._group,
    "try": _Frame._try,
    "repeat": _Frame._repeat,
    "while": _Frame._while,
    "flow": _Frame._flow,
    "always": _Frame._group,
}
