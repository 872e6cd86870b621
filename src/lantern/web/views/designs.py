"""Designing rows of a test: what to begin with, what would come out, and writing it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from flask import Response

from lantern.core.data.variations.coverage import coverage
from lantern.core.data.variations.designing import design
from lantern.core.data.variations.plans import ALL, WAYS, Plan
from lantern.core.data.variations.rules import read_rule
from lantern.core.data.variations.wording import COMPARISONS, Part, wording
from lantern.core.elements.clues import Element
from lantern.core.problems import BadInput
from lantern.core.steps.edits import WriteDesign, held_against
from lantern.core.steps.model import Document, Step
from lantern.store import elements, tables, tests
from lantern.store.rows import unpacked
from lantern.web import shapes
from lantern.web.context import blueprint, me, reply, services
from lantern.web.views.tests import test_out

api = blueprint("designs")
MOST_SHOWN = 2000


def _proposed(
    document: Document, users: Sequence[Document], known: Mapping[str, Element]
) -> shapes.Design:
    """Begin with each column's values: what its list offers, and what the rows have.

    `users` are the documents whose sentences use the table. A column that none of them uses is
    left out, where they use any: what it is combined with would change nothing. One that only
    checks use holds expected values: there is nothing to combine.
    """
    inputs = []
    steps = [step for user in users for step in user.steps]
    texts = "\n".join(text for step in steps for text in step.inputs.values())
    used = [name for name in document.columns if re.search(rf"\brow\.{name}\b", texts)]
    for column in used or document.columns:
        if _is_expected(steps, column):
            inputs.append(shapes.DesignInput(name=column, values=[]))
            continue
        values: dict[str, None] = {}
        for step in steps:
            seen = known[step.element].seen if step.element in known else None
            if f"${{row.{column}}}" == step.inputs.get("option") and seen:
                values |= dict.fromkeys(seen.options)
        values |= dict.fromkeys(row.values.get(column, "") for row in document.rows)
        inputs.append(shapes.DesignInput(name=column, values=[v for v in values if v][:100]))
    return shapes.Design(inputs=inputs)


def _is_expected(steps: Iterable[Step], column: str) -> bool:
    place = f"${{row.{column}}}"
    uses = [n for step in steps for n, text in step.inputs.items() if place in text]
    return bool(uses) and set(uses) == {"expected"}


@api.get("/tests/<int:id>/design", operation_id="getDesign", responses={200: shapes.DesignStart})
def get_design(path: shapes.ById) -> Response:
    """Return the design that was used last, or one proposed from the test."""
    with services().database.session() as session:
        test = tests.get(session, path.id)
        document = tables.filled(session, unpacked(test))
        shared = test.kind == tables.TABLE
        users = [unpacked(one) for one in tables.uses(session, test.id)] if shared else [document]
        known = elements.load(session, {key for one in users for key in one.element_ids()})
    used = document.design
    start = shapes.Design.model_validate(used) if used else _proposed(document, users, known)
    return reply(shapes.DesignStart(design=start, ways=list(WAYS), comparisons=list(COMPARISONS)))


@api.post("/design/rule", operation_id="writeRule", responses={200: shapes.RuleOut})
def write_rule(body: shapes.RuleAsk) -> Response:
    """Put a constraint together from the parts of a form; 422 for what makes no sense."""
    when = [Part(**part.model_dump()) for part in body.when]
    text = wording(when, Part(**body.then.model_dump()))
    read_rule(text, {one.name: [*one.values, *one.invalid] for one in body.inputs})
    return reply(shapes.RuleOut(text=text))


def _plan(body: shapes.DesignAsk, document: Document) -> Plan:
    """Return the plan; rows that people made are kept where they fit it."""
    inputs: dict[str, list[Any]] = {
        one.name: [*one.values, *({"value": bad, "invalid": True} for bad in one.invalid)]
        for one in body.inputs
        if one.values
    }
    if not inputs:
        raise BadInput("No column has values to combine.", hint="Give at least one its values.")
    raw = {
        "inputs": inputs,
        "constraints": [rule for rule in body.constraints if rule.strip()],
        "groups": [group.model_dump() for group in body.groups],
    }
    strength = WAYS.get(body.how, 0) or (1 if body.how == ALL else 2)
    alone = Plan.read(raw, strength)
    names = list(inputs)
    keep = []
    for row in document.rows:
        values = {name: row.values.get(name, "") for name in names}
        fits = coverage(Plan(alone.inputs, alone.rules, strength=1), [values]).covered
        if not row.designed and fits == len(names):
            keep.append(values)
    return Plan.read(raw | {"keep": keep}, strength)


@api.post("/tests/<int:id>/design", operation_id="designRows", responses={200: shapes.DesignOut})
def design_rows(path: shapes.ById, body: shapes.DesignAsk) -> Response:
    """Design rows; with `write` put them into the table as one change that can be undone."""
    with services().database.session() as session:
        document = tables.filled(session, unpacked(tests.get(session, path.id)))
    plan = _plan(body, document)
    rows = design(plan, body.how, body.seed)
    told = coverage(plan, [row.values for row in rows])
    fresh = tuple(row.values for row in rows if row.origin != "kept")
    held = held_against(document.rows, fresh)
    comes = {tuple(fresh[place].items()) for place in held.come}
    shape = shapes.DesignOut(
        rows=[
            shapes.DesignedRow(
                values=row.values,
                origin=row.origin,
                comes=row.origin != "kept" and tuple(row.values.items()) in comes,
            )
            for row in rows
        ],
        stay=len(held.stay),
        go=[
            shapes.GoingRow(number=place + 1, values=dict(document.rows[place].values))
            for place in held.go
        ],
        covered=told.covered,
        forbidden=told.forbidden,
        missing=told.missing,
        combinations=[
            shapes.CoveredOut(
                values=dict(one.values),
                row=None if one.row is None else one.row + 1,
                forbidden=one.forbidden,
            )
            for one in told.tuples[:MOST_SHOWN]
        ],
    )
    if body.write:
        used = body.model_dump(exclude={"base", "write"})
        with services().database.session() as session:
            change = WriteDesign(used, fresh)
            test = tests.edit(session, path.id, change, me().id, base=body.base)
            shape.test = test_out(session, test)
    return reply(shape)
