"""Plans: made, changed, looked at ahead, started."""

from __future__ import annotations

from flask import Response
from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.plans.model import Plan
from lantern.core.problems import Problem
from lantern.store import accounts, lists, outlooks, plan_runs, plans
from lantern.store import models as tables
from lantern.web import shapes
from lantern.web.context import blueprint, done, me, reply, services, signed_in
from lantern.web.views.plan_runs import brief, plan_run_out

api = blueprint("plans")


def _plan_out(session: Session, row: tables.Plan) -> shapes.PlanOut:
    newest = session.get_one(tables.PlanVersion, (row.id, row.version))
    author = newest.author_id
    plan = Plan.read(row.body)
    people = {one.account for one in plan.tells if one.account}
    return shapes.PlanOut(
        id=row.id,
        name=row.name,
        version=row.version,
        plan=shapes.PlanBody.model_validate(row.body),
        names=_names(session, plan),
        people=accounts.names(session, people),
        author=accounts.names(session, {author}).get(author, "") if author else "",
        changed_at=row.changed_at,
    )


def _names(session: Session, plan: Plan) -> dict[int, str]:
    ids = {pick.test for pick in plan.picks if pick.test}
    query = select(tables.Test.id, tables.Test.name).filter(tables.Test.id.in_(ids))
    return {row.id: row.name for row in session.execute(query)}


@api.get("/plans", operation_id="listPlans", responses={200: shapes.PlanList})
def list_plans(query: shapes.PlansAsk) -> Response:
    """List plans by name."""
    with services().database.session() as session:
        found = lists.of_plans(session, query.q.strip(), query.after)
        last = lists.plan_runs_named(session, [one.last_run for one in found.rows if one.last_run])
        listed = []
        for one in found.rows:
            plan = Plan.read(one.body)
            listed.append(
                shapes.PlanBrief(
                    id=one.id,
                    name=one.name,
                    picks=_in_words(plan, _names(session, plan)),
                    browsers=list(plan.browsers),
                    changed_at=one.changed_at,
                    last=brief(last[one.last_run]) if one.last_run else None,
                )
            )
    return reply(shapes.PlanList(plans=listed, next=found.next))


def _in_words(plan: Plan, names: dict[int, str]) -> str:
    """Return what a plan takes, such as “Book a firing”, label nightly."""
    said = {"test": "", "label": "label ", "search": "named like "}
    found = [
        f"{said[one.kind]}“{names.get(one.test, 'a deleted test') if one.test else one.words}”"
        for one in plan.picks
    ]
    more = f" and {len(found) - 3} more" if len(found) > 3 else ""
    return ", ".join(found[:3]) + more


@api.post("/plans", operation_id="createPlan", responses={200: shapes.PlanOut})
def create_plan(body: shapes.NewPlan) -> Response:
    """Make a plan."""
    with services().database.session() as session:
        row = plans.create(session, body.name, Plan.read(body.plan.model_dump()), me().id)
        shape = _plan_out(session, row)
    return reply(shape)


@api.get("/plans/<int:id>", operation_id="getPlan", responses={200: shapes.PlanOut})
def get_plan(path: shapes.ById) -> Response:
    """Return a plan."""
    with services().database.session() as session:
        shape = _plan_out(session, plans.get(session, path.id))
    return reply(shape)


@api.put("/plans/<int:id>", operation_id="changePlan", responses={200: shapes.PlanOut})
def change_plan(path: shapes.ById, body: shapes.PlanChange) -> Response:
    """Change a plan; 409 where somebody changed it since the version that was read."""
    with services().database.session() as session:
        plan = Plan.read(body.plan.model_dump())
        row = plans.change(session, path.id, plan, me().id, base=body.base, name=body.name)
        shape = _plan_out(session, row)
    return reply(shape)


@api.delete("/plans/<int:id>", operation_id="deletePlan", responses={200: shapes.Done})
def delete_plan(path: shapes.ById) -> Response:
    """Delete a plan; its runs stay on record."""
    with services().database.session() as session:
        plans.drop(session, path.id)
    return done()


@api.post("/plans/<int:id>/copy", operation_id="copyPlan", responses={200: shapes.PlanOut})
def copy_plan(path: shapes.ById) -> Response:
    """Copy a plan."""
    with services().database.session() as session:
        shape = _plan_out(session, plans.copy(session, path.id, me().id))
    return reply(shape)


@api.get(
    "/plans/<int:id>/versions", operation_id="planVersions", responses={200: shapes.PlanVersions}
)
def list_versions(path: shapes.ById) -> Response:
    """List the versions of a plan, newest first."""
    with services().database.session() as session:
        plans.get(session, path.id)
        rows = plans.versions(session, path.id)
        names = accounts.names(session, {one.author_id for one in rows if one.author_id})
        found = [
            shapes.PlanVersionOut(
                number=one.number,
                name=one.name,
                summary=one.summary,
                author=names.get(one.author_id, "") if one.author_id else "",
                at=one.at,
            )
            for one in rows
        ]
    return reply(shapes.PlanVersions(versions=found))


@api.post("/plans/<int:id>/restore", operation_id="restorePlan", responses={200: shapes.PlanOut})
def restore_plan(path: shapes.ById, body: shapes.PlanBack) -> Response:
    """Make an earlier version of a plan the newest."""
    with services().database.session() as session:
        row = plans.restore(session, path.id, body.number, me().id, base=body.base)
        shape = _plan_out(session, row)
    return reply(shape)


@api.post("/plans/outlook", operation_id="lookAhead", responses={200: shapes.OutlookOut})
def look_ahead(body: shapes.PlanBody) -> Response:
    """Tell what a plan would come to, as it is written now: it need not be saved."""
    plan = Plan.read(body.model_dump())
    with services().database.session() as session:
        try:
            found = plans.comes_to(session, plan)
        except Problem as error:
            found, trouble = plans.Comes(()), error.message
        else:
            trouble = "" if found.tests else "It comes to no test yet."
        told = outlooks.outlook_of(session, plan, found.tests, check=True)
        known = {row.id: row.name for row in session.scalars(select(tables.Environment))}
        shape = shapes.OutlookOut(
            tests=[
                shapes.TestChosen(
                    id=one.test.id,
                    name=one.test.name,
                    environment=known.get(one.environment or one.test.environment_id, ""),
                    rows=one.rows,
                    seconds=span.usual,
                )
                for one, span in zip(found.tests, told.lasting, strict=True)
            ],
            casts=told.casts,
            whole=shapes.SpanOut.model_validate(told.whole) if told.whole else None,
            stations=[one.name for one in told.stations],
            missing=list(told.missing),
            problems={name: list(said) for name, said in told.problems.items()},
            lacks={title: list(said) for title, said in told.lacks.items()},
            empty=list(found.empty),
            trouble=trouble or ("" if told.casts else "All of it is left out."),
        )
    return reply(shape)


@api.post("/plans/<int:id>/runs", operation_id="startPlan", responses={200: shapes.PlanRunOut})
def start_plan(path: shapes.ById, body: shapes.PlanRunAsk) -> Response:
    """Start a run of a plan."""
    with services().database.session() as session:
        cause = "a program" if signed_in().token_hash == "" else "a person"
        ask = plan_runs.Ask(body.environment, body.seed, cause, variables=body.variables)
        row = plan_runs.start(session, path.id, me().id, ask)
        shape = plan_run_out(session, row)
    return reply(shape)
