"""The interpreter: plays the steps of a test for one row, as a generator of requests."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from lantern.core.data.table import Trait
from lantern.core.engine import requests as ask
from lantern.core.engine.attempt import Attempt, Script, ending, sentence_of, try_step
from lantern.core.engine.coding import code_request
from lantern.core.engine.outcomes import Evidence, Outcome, StepFailed, StepResult
from lantern.core.problems import Problem
from lantern.core.steps.actions.blocks import NUMBER, rounds
from lantern.core.steps.catalogue import action_of
from lantern.core.steps.defaults import Effective, effective
from lantern.core.steps.model import Document, Step
from lantern.core.steps.tree import Node, tree
from lantern.core.values.sources import Names
from lantern.core.values.templates import masked, resolve

__all__ = ["Script", "play_row"]
MOST_DEEP = 20
"""How deep flows may call flows: more is taken for a call that leads back to itself."""
EARLIER = "An earlier sentence failed."
BY_HAND = "Passed over by hand."
TAKEN_OUT = "The sentence was taken out of the story."


def play_row(script: Script, start: Sequence[str] = ()) -> ask.Play[Outcome]:
    """Play all steps for one row; returns "passed" or "failed".

    Yields StepStarts and StepEnds around each step, and StepFails before a failure counts. After a
    failure that stops the row, the steps that did not run end as skipped, but what is always to be
    done at the end is done.

    With `start`, the ids of the calls that lead to a step and its own, what comes before that step
    is left out without a word; the blocks that it is in are entered as if they were come to, a
    repeat in its first round.
    """
    row = _Row(script, seeking=list(start))
    yield from _Frame(row, script.names).play()
    return "failed" if row.failed else "passed"


@dataclass
class _Row:
    """How far a row is: `stopped` says why nothing more is played, `trying` in how many tries.

    `story` is what is played, as it is now; `seeking` what leads to the step at which it begins.
    """

    story: Script
    position: int = 0
    failed: bool = False
    stopped: str = ""
    trying: int = 0
    dead: bool = False
    first_failure: StepResult | None = None
    seeking: list[str] = field(default_factory=list)
    trees: dict[str, tuple[Document, tuple[Node, ...], dict[str, Node]]] = field(
        default_factory=dict
    )

    def take(self, story: Script) -> None:
        """Go on with a story that was edited; flows and elements that are gone stay known."""
        elements = {**self.story.elements, **story.elements}
        flows = {**self.story.flows, **story.flows}
        self.story = replace(
            self.story, document=story.document, elements=elements, flows=flows, base=story.base
        )

    def document(self, flow: str) -> Document:
        """Return the test, or a flow, as it is now."""
        if not flow:
            return self.story.document
        return self.story.flows[flow].document

    def tree(self, flow: str) -> tuple[tuple[Node, ...], dict[str, Node]]:
        """Return the top of a story and its nodes by id."""
        document = self.document(flow)
        known = self.trees.get(flow)
        if known is None or known[0] is not document:
            top = tree(_apart(document.steps))
            known = self.trees[flow] = document, top, {n.step.id: n for n in _all(top)}
        return known[1], known[2]


def _apart(steps: Sequence[Step]) -> Sequence[Step]:
    """Return steps of which no two have one id: a row finds its place by them."""
    seen: set[str] = set()
    found = []
    for step in steps:
        key, number = step.id, 2
        while key in seen:
            key, number = f"{step.id[:24]}~{number}", number + 1
        seen.add(key)
        found.append(step if key == step.id else replace(step, id=key))
    return found


def _all(nodes: Sequence[Node]) -> Iterator[Node]:
    for node in nodes:
        yield node
        yield from _all(node.inside)


@dataclass
class _Frame:
    """The steps of a test, or of a flow that it calls, with the names that hold there."""

    row: _Row
    names: Names
    flow: str = ""
    calls: tuple[str, ...] = ()
    within: tuple[str, ...] = ()
    depth: int = 0
    later: list[tuple[Node, tuple[Step, ...]]] = field(default_factory=list)

    @property
    def script(self) -> Script:
        """What is played here, as it is now."""
        document = self.row.document(self.flow)
        if self.flow:
            document = replace(document, settings=self.row.story.document.settings)
        return replace(self.row.story, document=document, names=self.names)

    def play(self) -> ask.Play[None]:
        """Play everything, and what is always to be done at the end."""
        yield from self._nodes("", ())
        while self.later:
            node, blocks = self.later.pop(0)
            stopped, self.row.stopped = self.row.stopped, EARLIER if self.row.dead else ""
            if not self.row.seeking:
                yield from self._group(node, blocks)
            elif self._leads(node):
                yield from self._enter(node, blocks)
            self.row.stopped = stopped or self.row.stopped

    def _nodes(self, parent: str, blocks: tuple[Step, ...]) -> ask.Play[None]:
        taken: bool | None = None
        for node in self._in_turn(parent):
            kind = _block_of(node.step)
            if self.row.seeking and (kind == "always" or not self._leads(node)):
                if kind == "always" and node.step.enabled:
                    self.later.append((node, blocks))
                continue
            if self.row.seeking and (self.row.seeking[0] != node.step.id or kind == "flow"):
                yield from self._enter(node, blocks)
                taken = True if kind in ("if", "else if", "else") else None
                continue
            if self.row.seeking:
                self.row.seeking.clear()
                taken = False if kind in ("else if", "else") else None
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

    def _in_turn(self, parent: str) -> Iterator[Node]:
        """Give what is inside a block ("" for the top), as it is when each is come to.

        What is edited while the row is stopped counts; what is put in before the place that the row
        has come to is played only when the row comes by again.
        """
        last, place = "", 0
        while True:
            top, by_id = self.row.tree(self.flow)
            nodes = (by_id[parent].inside if parent in by_id else ()) if parent else top
            before = [n for n, node in enumerate(nodes) if node.step.id == last]
            if last:
                place = before[0] + 1 if before else place - 1
            if place >= len(nodes):
                return
            yield nodes[place]
            last, place = nodes[place].step.id, place + 1

    # -- beginning in the middle -----------------------------------------------------------------

    def _leads(self, node: Node) -> bool:
        """Tell whether a node is, or has inside it, what leads to where the row begins."""
        return any(one.step.id == self.row.seeking[0] for one in _all((node,)))

    def _enter(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[None]:
        """Go into a block, or a flow, in which the row begins."""
        kind, inside = _block_of(node.step), (node.step, *blocks)
        if kind == "flow":
            self.row.seeking.pop(0)
            yield from self._flow(node, blocks)
        elif kind == "repeat":
            yield from self._repeat(node, blocks)
        elif kind == "while":
            yield from self._round(node, blocks, {NUMBER: "1"}, "1")
            yield from self._while(node, blocks, 1)
        elif kind == "try":
            yield from self._trying(self._deeper()._nodes(node.step.id, inside))
        else:
            yield from self._deeper()._nodes(node.step.id, inside)
        self.row.seeking.clear()  # a repeat without rounds leads nowhere: it goes on behind it

    # -- one by one ------------------------------------------------------------------------------

    def _spot(self, step: Step) -> ask.Spot:
        return ask.Spot(
            step,
            self.script,
            self.calls,
            self.within,
            self.depth,
            self.flow,
            bool(self.row.seeking),
        )

    def _deeper(self) -> _Frame:
        return replace(self, depth=self.depth + 1)

    def _now(self, node: Node) -> Node | None:
        """Return a node as it is now, None when it was taken out."""
        return self.row.tree(self.flow)[1].get(node.step.id)

    def _begin(self, node: Node, position: int) -> ask.Play[Node | None]:
        """Ask whether a step is to be carried out; returns it as it is then.

        None when it is not: then it has ended, and all that is inside it.
        """
        step = node.step
        text = sentence_of(step, self.script)
        onward = yield from ask.StepStarts(step.id, position, text, self._spot(step))
        if onward.story is not None:
            self.row.take(onward.story)
        now = self._now(node) if onward.story is not None else node
        if now is not None and onward.do != "skip":
            return now
        why = TAKEN_OUT if now is None else BY_HAND
        yield from self._skip(now or node, why, position)
        return None

    def _counts(self, result: StepResult, step: Step) -> ask.Play[ask.Onward]:
        """Ask whether a failure counts; that of what is only tried counts for nothing anyway."""
        if self.row.trying and result.reason != "browser died":
            return ask.GO_ON
        onward = yield from ask.StepFails(result, self._spot(step))
        if onward.story is not None:
            self.row.take(onward.story)
        return onward

    def _held(self, blocks: tuple[Step, ...]) -> tuple[Step, ...]:
        """Return blocks as they are now."""
        by_id = self.row.tree(self.flow)[1]
        return tuple(by_id[one.id].step if one.id in by_id else one for one in blocks)

    def _step(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[Attempt | None]:
        """Play one step and tell how it ended; None when it failed or was passed over."""
        position = self._next()
        here = yield from self._begin(node, position)
        while here is not None:
            script = self.script
            held = effective(here.step, self._held(blocks), script.document.settings)
            attempt = yield from self._tries(here.step, position, script, held)
            result = attempt.result
            if result.outcome == "passed":
                yield from self._end(result, held.on_failure)
                return attempt
            onward = yield from self._counts(result, here.step)
            if onward.do == "again" and (now := self._now(here)) is not None:
                here = now
                continue
            if onward.do == "go on":
                yield from self._end(result, held.on_failure)
                return None
            yield from self._pass_over(here, result)
            return None
        return None

    def _tries(
        self, step: Step, position: int, script: Script, held: Effective
    ) -> ask.Play[Attempt]:
        text = sentence_of(step, script)
        for number in range(held.retries + 1):
            attempt = yield from try_step(step, position, text, script, held)
            passed = attempt.result.outcome == "passed"
            if passed or attempt.result.reason == "browser died" or number == held.retries:
                break
        result = replace(attempt.result, within=self.within, attempts=number + 1)
        return replace(attempt, result=result)

    def _pass_over(self, node: Node, result: StepResult) -> ask.Play[None]:
        """End a step that failed as one that was passed over, and what is inside it with it."""
        told = f"{BY_HAND} It had failed: {result.message}"
        yield from ask.StepEnds(replace(result, outcome="skipped", message=told))
        for inner in node.inside:
            yield from self._skip(inner, BY_HAND)

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

    def _skip(self, node: Node, why: str, position: int | None = None) -> ask.Play[None]:
        text = sentence_of(node.step, self.script)
        place = self._next() if position is None else position
        step, hide = node.step, self.names.secret
        result = StepResult(
            step.id,
            place,
            text,
            "skipped",
            message=why,
            within=self.within,
            title=masked(step.title, hide),
            comment=masked(step.comment, hide),
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
            yield from self._deeper()._nodes(node.step.id, (node.step, *blocks))

    def _if(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[bool | None]:
        attempt = yield from self._step(node, blocks)
        if attempt is None:
            return True  # whatever else there is depends on what could not be told
        if attempt.value:
            yield from self._deeper()._nodes(node.step.id, (node.step, *blocks))
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
        yield from self._trying(self._group(node, blocks))

    def _trying(self, play: ask.Play[None]) -> ask.Play[None]:
        row = self.row
        row.trying += 1
        yield from play
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

    def _while(self, node: Node, blocks: tuple[Step, ...], number: int = 0) -> ask.Play[None]:
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
        names = replace(self.names, each=dict(values), seed=f"{self.names.seed}|{told}")
        frame = replace(self._deeper(), names=names, within=(*self.within, f"round {told}"))
        yield from frame._nodes(node.step.id, (node.step, *blocks))

    def _flow(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[None]:
        """Play a flow; its own sentence ends after those of the flow, as they ended."""
        position = self._next()
        here = yield from self._begin(node, position)
        while here is not None:
            call = _Call(here, position)
            yield from self._called_once(call, blocks)
            if call.failed is None:
                return
            onward = yield from self._counts(call.failed, here.step)
            if onward.do == "again" and (now := self._now(here)) is not None:
                here = now
                continue
            if onward.do == "go on":
                yield from self._end(call.failed, call.on_failure)
            else:
                yield from self._pass_over(here, call.failed)
            return

    def _called_once(self, call: _Call, blocks: tuple[Step, ...]) -> ask.Play[None]:
        """Play a flow once; a failure that is the call's own is left in `call`, not decided on."""
        step, script = call.node.step, self.script
        text = sentence_of(step, script)
        start: float = yield from ask.Now()
        failure: StepFailed | None = None
        kept: dict[str, str] = {}
        held = effective(step, self._held(blocks), script.document.settings)
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
        self.names.kept.update(kept)
        evidence = Evidence(kept=kept)
        names = self.names
        result = ending(step, call.position, text, failure, evidence, end - start, limit, names)
        result = replace(result, within=self.within)
        if inside or not failure:
            yield from ask.StepEnds(result)  # what follows from it was decided inside
        else:
            call.failed, call.on_failure = result, held.on_failure

    def _called(self, step: Step) -> _Frame:
        """Return the frame of a flow; raises Problem when it can not be played as called."""
        story, names = self.row.story, self.names
        flow = story.flows.get(step.flow)
        if flow is None:
            raise Problem("The flow of this sentence was deleted.", where=step.id)
        if len(self.within) >= MOST_DEEP:
            path = " → ".join(self.within)
            raise Problem(f"The flows lead back to themselves: {path}.", where=step.id)
        given = {
            one.name: resolve(step.inputs.get(one.name, "") or one.default, names, step.id)
            for one in flow.document.takes
        }
        for one in flow.document.takes:
            message, _ = Trait(one.kind).problem(given[one.name])
            if message:
                raise Problem(f"The input {one.name} of “{flow.name}”: {message}", where=step.id)
        # What is made up inside differs from call to call.
        seed = f"{names.seed}|{step.id}"
        inside = replace(names, row={}, kept={}, each={}, given=given, seed=seed)
        return _Frame(
            self.row,
            inside,
            step.flow,
            (*self.calls, step.id),
            (*self.within, flow.name),
            self.depth + 1,
        )

    def _skip_inside(self, node: Node, why: str) -> ask.Play[None]:
        for inner in (self._now(node) or node).inside:
            yield from self._skip(inner, why)

    def _fail(self, node: Node, message: str, hint: str) -> ask.Play[None]:
        text = sentence_of(node.step, self.script)
        failure = StepFailed("bad value", message, hint=hint)
        result = ending(node.step, self._next(), text, failure, Evidence(), 0.0, 0.0, self.names)
        yield from self._end(replace(result, within=self.within), "stop")


@dataclass
class _Call:
    """A call of a flow that is under way: how it failed, where that is the call's own doing."""

    node: Node
    position: int
    failed: StepResult | None = None
    on_failure: str = "stop"


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
