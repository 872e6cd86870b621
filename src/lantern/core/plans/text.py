"""A plan as text, everything called by its name; read back with the line of what is wrong."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

from lantern.core.plans.model import FLOWS, Plan
from lantern.core.plans.telling import Tell
from lantern.core.problems import Problem
from lantern.core.text.names import close_to
from lantern.core.text.nodes import Flow, FlowList, Spot, Trouble, read, write
from lantern.core.text.writing import FORMAT

PLAIN = {
    "order": "order",
    "seed": "seed",
    "at_once": "at once",
    "on_failure": "on failure",
    "retries": "retries",
    "minutes": "minutes",
    "weight": "weight",
    "overlap": "overlap",
    "known": "known failures",
}
"""What the plain parts of a plan are called in texts."""
AROUND = {name: name.replace("_", " ") for name in FLOWS}
NUMBERS = ("at_once", "retries", "minutes", "weight")
K = TypeVar("K", int, str)
TOP = (
    "lantern", "plan", "tests", "browsers", "left out", "environments", "needs", *PLAIN.values(),
    *AROUND.values(), "told",
)  # fmt: skip


@dataclass(frozen=True)
class Named:
    """What the things are called that plans speak of, by their ids."""

    tests: Mapping[int, str] = field(default_factory=dict)
    flows: Mapping[str, str] = field(default_factory=dict)
    environments: Mapping[int, str] = field(default_factory=dict)
    people: Mapping[int, str] = field(default_factory=dict)


def plan_text(name: str, plan: Plan, named: Named) -> str:
    """Return the text of a plan; what does not exist any more is left out."""
    data: dict[str, Any] = {"lantern": FORMAT, "plan": name}
    picks = []
    for one in plan.picks:
        called = named.tests.get(one.test) if one.kind == "test" else one.words
        if called:
            rows = {} if one.rows == "all" else {"rows": one.rows}
            picks.append(Flow({one.kind: called} | rows))
    data["tests"] = picks
    if plan.browsers:
        data["browsers"] = FlowList(plan.browsers)
    left = [
        Flow({"test": named.tests[one.test], "browser": one.browser})
        for one in plan.left_out
        if one.test in named.tests
    ]
    if left:
        data["left out"] = left
    places = [named.environments[one] for one in plan.environments if one in named.environments]
    if places:
        data["environments"] = FlowList(places)
    if plan.needs:
        data["needs"] = FlowList(plan.needs)
    usual = Plan()
    for part, words in PLAIN.items():
        if getattr(plan, part) != getattr(usual, part):
            data[words] = getattr(plan, part)
    for part, words in AROUND.items():
        if called := named.flows.get(getattr(plan, part)):
            data[words] = called
    told = [
        _told(one, named)
        for one in plan.tells
        if one.whom != "person" or one.account in named.people
    ]
    if told:
        data["told"] = told
    return write(data)


def _told(one: Tell, named: Named) -> Flow:
    who = {"person": named.people[one.account]} if one.whom == "person" else {"group": one.whom}
    return Flow({**who, "when": FlowList(one.when)})


@dataclass(frozen=True)
class Read:
    """What a text says; with `troubles` the plan is what could be made of it."""

    name: str
    plan: Plan
    troubles: tuple[Trouble, ...] = ()


def read_plan(text: str, named: Named) -> Read:
    """Read the text of a plan; raises BadInput, with the line, for what is no YAML."""
    top = read(text)
    parts = top.parts(TOP)
    if parts["lantern"].text() != str(FORMAT):
        parts["lantern"].wrong(f"Begin the text with lantern: {FORMAT}.")
    name = parts["plan"].text().strip()
    if not name:
        top.wrong("The plan has no name.", "Give it one line such as plan: Every night.")
    raw: dict[str, Any] = {
        "picks": [pick for spot in parts["tests"].items() if (pick := _pick(spot, named))],
        "browsers": list(parts["browsers"].texts()),
        "needs": list(parts["needs"].texts()),
        "left_out": [cell for spot in parts["left out"].items() if (cell := _cell(spot, named))],
        "environments": [
            key
            for spot in parts["environments"].items()
            if (key := _id(spot, named.environments, "environment")) is not None
        ],
    }
    for part, words in PLAIN.items():
        if parts[words].there:
            said = parts[words].text()
            raw[part] = int(said) if part in NUMBERS and said.isdecimal() else said
    for part, words in AROUND.items():
        if parts[words].there:
            raw[part] = _id(parts[words], named.flows, "flow") or ""
    raw["tells"] = [one for spot in parts["told"].items() if (one := _tell(spot, named))]
    try:
        plan = Plan.read(raw)
    except Problem as error:
        top.problem(error)
        plan = Plan()
    return Read(name, plan, tuple(top.log))


def _pick(spot: Spot, named: Named) -> dict[str, Any] | None:
    parts = spot.parts(("test", "label", "search", "rows"))
    kinds = [kind for kind in ("test", "label", "search") if parts[kind].there]
    if len(kinds) != 1:
        spot.wrong("Say one of test, label and search.")
        return None
    (kind,) = kinds
    found: dict[str, Any] = {"kind": kind, "rows": parts["rows"].text("all")}
    if kind != "test":
        return found | {"words": parts[kind].text()}
    test = _id(parts["test"], named.tests, "test")
    return None if test is None else found | {"test": test}


def _tell(spot: Spot, named: Named) -> dict[str, Any] | None:
    parts = spot.parts(("person", "group", "when"))
    if parts["person"].there == parts["group"].there:
        spot.wrong("Say one of person and group.")
        return None
    when = {"when": list(parts["when"].texts())}
    if parts["group"].there:
        return {"whom": parts["group"].text(), **when}
    account = _id(parts["person"], named.people, "person")
    return None if account is None else {"account": account, **when}


def _cell(spot: Spot, named: Named) -> dict[str, Any] | None:
    parts = spot.parts(("test", "browser"))
    test = _id(parts["test"], named.tests, "test")
    return None if test is None else {"test": test, "browser": parts["browser"].text()}


def _id(spot: Spot, known: Mapping[K, str], what: str) -> K | None:
    name = spot.text().strip()
    for key, called in known.items():
        if called.lower() == name.lower():
            return key
    names = {str(key): called for key, called in known.items()}
    spot.wrong(f"There is no {what} “{name}”.", close_to(name, names))
    return None
