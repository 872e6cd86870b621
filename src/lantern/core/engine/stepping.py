"""Single sentences of a row: begun, tried, held where they fail, ended or passed over."""

from __future__ import annotations

from dataclasses import dataclass, replace

from lantern.core.engine import requests as ask
from lantern.core.engine.attempt import Attempt, Script, ending, sentence_of, try_step
from lantern.core.engine.outcomes import Evidence, StepFailed, StepResult
from lantern.core.engine.progress import Row
from lantern.core.steps.defaults import Effective, effective
from lantern.core.steps.model import Step
from lantern.core.steps.tree import Node
from lantern.core.values.sources import Names
from lantern.core.values.templates import masked

EARLIER = "An earlier sentence failed."
BY_HAND = "Passed over by hand."
TAKEN_OUT = "The sentence was taken out of the story."


@dataclass
class Place:
    """Where single sentences are played: a test, or a flow called there, with the names there."""

    row: Row
    names: Names
    flow: str = ""
    calls: tuple[str, ...] = ()
    within: tuple[str, ...] = ()
    depth: int = 0

    @property
    def script(self) -> Script:
        """What is played here, as it is now."""
        document = self.row.document(self.flow)
        if self.flow:
            document = replace(document, settings=self.row.story.document.settings)
        return replace(self.row.story, document=document, names=self.names)

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

    def _skip_inside(self, node: Node, why: str) -> ask.Play[None]:
        for inner in (self._now(node) or node).inside:
            yield from self._skip(inner, why)

    def _fail(self, node: Node, message: str, hint: str) -> ask.Play[None]:
        text = sentence_of(node.step, self.script)
        failure = StepFailed("bad value", message, hint=hint)
        result = ending(node.step, self._next(), text, failure, Evidence(), 0.0, 0.0, self.names)
        yield from self._end(replace(result, within=self.within), "stop")
