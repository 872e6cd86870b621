"""What tests are given out as: each form is one entry."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.elements.facts import Box
from lantern.core.problems import Problem
from lantern.core.steps.model import Step
from lantern.core.steps.sentences import scenes, sentence
from lantern.core.values.sources import Names
from lantern.core.values.templates import shown
from lantern.exchange import guide
from lantern.exchange.script import writing as script
from lantern.store import calls, elements, pictures, preferences, tables
from lantern.store.models import Cast, Result, Run, Test
from lantern.store.rows import unpacked


@dataclass(frozen=True)
class Form:
    """A form: its title, the ending of its files, their kind, and how one is made."""

    title: str
    ending: str
    mime: str
    make: Callable[[Session, Test], bytes]


def _script(session: Session, test: Test) -> bytes:
    document = tables.filled(session, unpacked(test))
    project = preferences.get(session)
    document = replace(document, settings=document.settings.within(project.settings))
    if test.kind == "test":
        document = preferences.surrounded(document, project)
    called = calls.load(session, document.flow_ids())
    known = elements.load(session, calls.element_ids(document, called))
    source = script.Source(
        test.name, document, known, called, test.environment.address, test.environment.variables
    )
    return script.write(source).encode()


def _guide(session: Session, test: Test) -> guide.Guide:
    document = tables.filled(session, unpacked(test))
    known = elements.load(session, document.element_ids())
    flows = {key: flow.name for key, flow in calls.load(session, document.flow_ids()).items()}
    row = document.rows[0].values if document.rows else {}
    names = Names(row=row, env=_Shown(test.environment.variables), secret=_Shown({}))
    played = _played(session, test)
    by_id = {step.id: step for step in document.steps if step.enabled}

    def words(template: str) -> str:
        try:
            return shown(template, names)
        except Problem:
            return template

    def told(step: Step) -> guide.GuideStep:
        text = sentence(step, known, words, flows)
        made = guide.GuideStep(text, step.title, step.comment)
        digest, box = (step.picture, step.box) if step.picture else played.get(step.id, ("", None))
        kept = pictures.load(session, digest) if digest else None
        return replace(made, picture=kept.content, box=box) if kept else made

    found = [
        guide.GuideScene(one.page, tuple(told(by_id[key]) for key in one.steps if key in by_id))
        for one in scenes(document.steps)
    ]
    used = tuple((name, row.get(name, "")) for name in document.columns if row)
    there = tuple(scene for scene in found if scene.steps)
    return guide.Guide(test.name, test.environment.name, there, used)


class _Shown(dict[str, str]):
    """Values by name; one that is not there stands by its name."""

    def __contains__(self, name: object) -> bool:
        return True

    def __missing__(self, name: str) -> str:
        return f"({name})"


def _played(session: Session, test: Test) -> Mapping[str, tuple[str, guide.Box | None]]:
    """Return the pictures of the newest run's first row by step, with what was lit on them."""
    query = (
        select(Result)
        .join(Cast, Result.cast_id == Cast.id)
        .join(Run, Cast.run_id == Run.id)
        .filter(Run.test_id == test.id, Cast.position == 0, Result.picture != "")
        .order_by(Run.id)
    )
    found: dict[str, tuple[str, dict[str, float] | None]] = {}
    for result in session.scalars(query):
        found[result.step_id] = (result.picture, result.details.get("box"))
    return {
        step: (picture, Box(**box).shares(size) if box and size else None)
        for step, (picture, box) in found.items()
        for size in [pictures.size(session, picture)]
    }


FORMS: dict[str, Form] = {
    "script": Form("Python script", "py", "text/x-python", _script),
    "guide": Form(
        "Illustrated guide (HTML)", "html", "text/html", lambda s, t: guide.as_html(_guide(s, t))
    ),
    "guide-markdown": Form(
        "Illustrated guide (Markdown)",
        "zip",
        "application/zip",
        lambda s, t: guide.as_markdown(_guide(s, t)),
    ),
}
"""Every form that a test is given out in, beside its text."""
