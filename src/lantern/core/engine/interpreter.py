"""The interpreter: plays the steps of a test for one row, as a generator of requests."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from lantern.core.engine import requests as ask
from lantern.core.engine.attempt import Script, ending, sentence_of
from lantern.core.engine.calling import Call, handed_back, names_inside, run_code
from lantern.core.engine.outcomes import Evidence, Outcome, StepFailed
from lantern.core.engine.progress import Row, all_of
from lantern.core.engine.stepping import EARLIER, Place
from lantern.core.problems import Problem
from lantern.core.steps.actions.blocks import NUMBER, rounds
from lantern.core.steps.catalogue import action_of
from lantern.core.steps.defaults import effective
from lantern.core.steps.model import Step
from lantern.core.steps.tree import Node

__all__ = ["Script", "play_row"]
MOST_DEEP = 20
"""How deep flows may call flows: more is taken for a call that leads back to itself."""


def play_row(script: Script, start: Sequence[str] = ()) -> ask.Play[Outcome]:
    """Play all steps for one row; returns "passed" or "failed".

    Yields StepStarts and StepEnds around each step, and StepFails before a failure counts. After a
    failure that stops the row, the steps that did not run end as skipped, but what is always to be
    done at the end is done.

    With `start`, the ids of the calls that lead to a step and its own, what comes before that step
    is left out without a word; the blocks that it is in are entered as if they were come to, a
    repeat in its first round.
    """
    row = Row(script, seeking=list(start))
    yield from _Frame(row, script.names).play()
    return "failed" if row.failed else "passed"


@dataclass
class _Frame(Place):
    """The blocks of a test, or of a flow that it calls, in their order."""

    later: list[tuple[Node, tuple[Step, ...]]] = field(default_factory=list)

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
        return any(one.step.id == self.row.seeking[0] for one in all_of((node,)))

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

    def _deeper(self) -> _Frame:
        return replace(self, depth=self.depth + 1)

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

    # -- flows -----------------------------------------------------------------------------------

    def _flow(self, node: Node, blocks: tuple[Step, ...]) -> ask.Play[None]:
        """Play a flow; its own sentence ends after those of the flow, as they ended."""
        position = self._next()
        here = yield from self._begin(node, position)
        while here is not None:
            call = Call(here, position)
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

    def _called_once(self, call: Call, blocks: tuple[Step, ...]) -> ask.Play[None]:
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
                kept = yield from run_code(inner.script, limit)
            else:
                yield from inner.play()
                kept = handed_back(inner.script, self.row.stopped)
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
        flow = self.row.story.flows.get(step.flow)
        if flow is None:
            raise Problem("The flow of this sentence was deleted.", where=step.id)
        if len(self.within) >= MOST_DEEP:
            path = " → ".join(self.within)
            raise Problem(f"The flows lead back to themselves: {path}.", where=step.id)
        inside = names_inside(step, flow, self.names)
        return _Frame(
            self.row,
            inside,
            step.flow,
            (*self.calls, step.id),
            (*self.within, flow.name),
            self.depth + 1,
        )


def _block_of(step: Step) -> str:
    try:
        return action_of(step.action).block
    except Problem:
        return ""  # playing it says what is wrong with it


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
