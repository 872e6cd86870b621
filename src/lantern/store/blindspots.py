"""Blind spots of tests: their sentences as they are, held against pages of a run that passed."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import Select, exists, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, undefer, undefer_group

from lantern.core.elements.clues import Element
from lantern.core.engine.attempt import Flow
from lantern.core.problems import Problem
from lantern.core.review.blind.sight import Moment, Sentence
from lantern.core.review.blind.spots import Look, Seen, look
from lantern.core.steps.actions.navigating import title_pattern
from lantern.core.steps.catalogue import action_of
from lantern.core.steps.model import Document, Step
from lantern.core.steps.sentences import sentence
from lantern.core.values.sources import Names
from lantern.core.values.templates import handed_in, resolve
from lantern.store import calls, elements, pages, preferences
from lantern.store.models import BlindShare, Cast, Result, Run, SavedPage, Test
from lantern.store.rows import unpacked

DEEPEST = 12
"""How many flows may call one another."""


@dataclass(frozen=True)
class Told:
    """What a test would not notice, and the run that passed whose pages tell it (0: none did)."""

    look: Look
    run: int
    after: Mapping[str, str | None]
    """Behind which sentence of the test itself a check goes that is to come after another one,
    which may be in a flow; "" for the start, None for the end."""


def of_test(session: Session, test: Test) -> Told:
    """Look for the blind spots of a test, on the pages of its newest run that passed."""
    document = unpacked(test)
    casts = _casts(session, test.id)
    if not casts:
        return Told(Look((), {}, ()), 0, {})
    run = session.get_one(
        Run, casts[0].run_id, options=(undefer(Run.body), undefer_group("content"))
    )
    story = _Story(session, preferences.surrounded(document, preferences.get(session)), run)
    seen = _seen(session, story, run, casts)
    found = Told(look(seen), run.id, story.after({step.id for step in document.steps}))
    _remember(session, test, found)
    return found


def _passed() -> Select[Cast]:
    """Return what asks for first rows of runs that passed and kept pages, the newest first."""
    kept = exists().where(SavedPage.cast_id == Cast.id)
    query = select(Cast).join(Run, Run.id == Cast.run_id)
    query = query.filter(Cast.outcome == "passed", Cast.position == 0, kept)
    return query.order_by(Cast.id.desc()).limit(1)


def _casts(session: Session, test_id: int) -> list[Cast]:
    """Return the first row of the newest run that passed and kept pages, and its second if any."""
    first = session.scalars(_passed().filter(Run.test_id == test_id)).first()
    if first is None:
        return []
    more = select(Cast).filter_by(
        run_id=first.run_id, outcome="passed", position=1, browser=first.browser
    )
    return [first, *session.scalars(more)]


class _Story:
    """The sentences of a test in the order of reading, those of flows where they are called."""

    def __init__(self, session: Session, document: Document, run: Run) -> None:
        self._flows = calls.load(session, document.flow_ids())
        self._elements = elements.load(session, calls.element_ids(document, self._flows))
        self._names = {key: flow.name for key, flow in self._flows.items()}
        self._run = run
        self.steps = list(self._flat(document, {}, ()))

    def _flat(
        self, document: Document, given: Mapping[str, str], path: tuple[str, ...]
    ) -> Iterator[tuple[Step, Mapping[str, str], str]]:
        for step in document.steps:
            if not step.enabled:
                continue
            own = (*path, step.id)
            yield step, given, own[0]
            flow: Flow | None = self._flows.get(step.flow)
            if flow and len(path) < DEEPEST:
                handed = {one.name: one.default for one in flow.document.takes}
                handed |= {key: handed_in(text, given) for key, text in step.inputs.items()}
                yield from self._flat(flow.document, handed, own)

    def after(self, own: Collection[str]) -> dict[str, str | None]:
        """Return where a check goes that comes after a sentence; see Told.after."""
        found: dict[str, str | None] = {}
        begun = False
        for step, _, top in self.steps:
            begun = begun or top in own
            found[step.id] = top if top in own else None if begun else ""
        return found

    def sentence(
        self, step: Step, given: Mapping[str, str], cast: Cast, found: Mapping[str, str]
    ) -> Sentence:
        """Return a sentence with what it is given in a row filled in."""
        names = Names(
            row=dict(cast.values),
            env={**self._run.variables, "base_url": self._run.address},
            kept=dict(cast.kept),
        )

        def fill(text: str) -> str:
            try:
                return resolve(handed_in(text, given), names)
            except Problem:  # a secret, or what only a run knows
                return text

        def known(key: str) -> Element | None:
            element = self._elements.get(key)
            return element.filled(fill) if element else None

        name = step.inputs.get("name", "")
        return Sentence(
            step.id,
            sentence(step, self._elements, fill, self._names),
            step.action,
            known(step.element),
            known(step.onto),
            {key: fill(value) for key, value in step.inputs.items()},
            found.get(step.id, ""),
            {key: handed_in(value, given) for key, value in step.inputs.items()},
            keeps=name if action_of(step.action).sees else "",
        )


def _seen(session: Session, story: _Story, run: Run, casts: Sequence[Cast]) -> list[Seen]:
    first, second = casts[0], casts[1] if len(casts) > 1 else None
    moments = _moments(session, story, first)
    others = _moments(session, story, second) if second else {}
    found = []
    for title, own in moments.items():
        by_step = dict(others.get(title, ()))
        found.append(
            Seen(
                title,
                tuple(moment for _, moment in own),
                tuple(by_step.get(key) for key, _ in own),
                first.values,
            )
        )
    return found


def _moments(
    session: Session, story: _Story, cast: Cast
) -> dict[str, list[tuple[tuple[str, int], Moment]]]:
    """Return by title what was on pages while a row was played, each with its sentences.

    A moment is known by the sentence that it was kept at, and how many there were at that before.
    A sentence belongs to the last moment of its page that was kept by then.
    """
    results = session.scalars(
        select(Result).filter_by(cast_id=cast.id, taking=max(cast.takings, 1)).order_by(Result.id)
    )
    found = {one.step_id: one.found for one in results}
    kept = list(
        session.scalars(
            select(SavedPage)
            .filter_by(cast_id=cast.id)
            .options(undefer(SavedPage.nodes))
            .order_by(SavedPage.id)
        )
    )
    order = {step.id: place for place, (step, _, _) in enumerate(story.steps)}
    last = len(story.steps)
    starts = [order.get(page.step_id, last if not page.step_id else -1) for page in kept]
    held: list[list[Sentence]] = [[] for _ in kept]
    for place, (step, given, _) in enumerate(story.steps):
        here = [n for n, start in enumerate(starts) if 0 <= start <= place and start < last]
        title = title_pattern(step.page) if step.page else ""
        fitting = [n for n in here if not title or kept[n].page == title] or here
        if fitting and step.element and action_of(step.action):
            held[fitting[-1]].append(story.sentence(step, given, cast, found))
    held = _with_uses(held)
    moments: dict[str, list[tuple[tuple[str, int], Moment]]] = {}
    counts: dict[tuple[str, str], int] = {}
    for page, sentences in zip(kept, held, strict=True):
        key = page.page, page.step_id
        counts[key] = counts.get(key, 0) + 1
        moment = Moment(page.id, tuple(pages.nodes_of(page)), tuple(sentences), page.picture)
        moments.setdefault(page.page, []).append(((page.step_id, counts[key]), moment))
    return moments


def _with_uses(held: Sequence[Sequence[Sentence]]) -> list[list[Sentence]]:
    """Return the sentences of each moment; those matter whose value is compared at another one."""

    def uses(sentence: Sentence, name: str) -> bool:
        return any(f"${{kept.{name}}}" in value for value in sentence.raw.values())

    def elsewhere(place: int, name: str) -> bool:
        others = (one for n, sentences in enumerate(held) if n != place for one in sentences)
        return any(one.compares and uses(one, name) for one in others)

    return [
        [
            replace(one, matters=elsewhere(place, one.keeps)) if one.keeps else one
            for one in sentences
        ]
        for place, sentences in enumerate(held)
    ]


def _remember(session: Session, test: Test, told: Told) -> None:
    """Keep the figures, for the list of all tests; two may be looking at one test at once."""
    figures = {
        "run_id": told.run,
        "version": test.version,
        "whole": told.look.whole,
        "seen": told.look.seen,
        "blind": sum(one.blind for one in told.look.spots),
        "never": len(told.look.never),
    }
    query = insert(BlindShare).values(test_id=test.id, **figures)
    session.execute(query.on_conflict_do_update(index_elements=["test_id"], set_=figures))


def shares(session: Session, most: int) -> tuple[list[tuple[Test, BlindShare | None]], int]:
    """Return the tests with their figures, and how many are still to be looked at.

    At most `most` tests are looked at that have changed, or passed anew, since their figures were
    made; asked again, the next ones are.
    """
    newest = _passed().filter(Run.test_id == Test.id).correlate(Test)
    newest_run = newest.with_only_columns(Cast.run_id).scalar_subquery()
    query = (
        select(Test, BlindShare, newest_run)
        .outerjoin(BlindShare, BlindShare.test_id == Test.id)
        .filter(Test.kind == "test")
        .order_by(Test.name, Test.id)
    )
    found, left = [], 0
    for test, share, run in session.execute(query).all():
        if run and (share is None or share.version != test.version or share.run_id != run):
            if most > 0:
                most -= 1
                of_test(session, test)
                share = session.get(BlindShare, test.id, populate_existing=True)
            else:
                left += 1
        found.append((test, share))
    return found, left
