"""Reports of runs, of runs of plans and of trends: given out, mailed, and on order."""

from __future__ import annotations

import json

from flask import Response
from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.plans.schedule import Schedule
from lantern.core.review.reporting import TEMPLATES
from lantern.core.review.schema import report_schema
from lantern.exchange.reports import FORMS
from lantern.exchange.reports.html import POLICY
from lantern.store import models as tables
from lantern.store import plans, reporting
from lantern.store.reporting import Asked
from lantern.web import shapes
from lantern.web.context import (
    attached,
    blueprint,
    done,
    me,
    need_lead,
    need_version,
    reply,
    safe,
    services,
)
from lantern.web.reporting import form_of, make

api = blueprint("reports")


def _given(asked: Asked) -> Response:
    made = make(services().database, asked)
    answer = attached(made.content, made.mime, made.name)
    if asked.form == "html":
        answer.headers["Content-Security-Policy"] = POLICY
    return answer


@api.get("/runs/<int:id>/report.<form>", operation_id="exportReport", responses={200: None})
def report_of_run(path: shapes.ByIdAndForm, query: shapes.ReportAsk) -> Response:
    """Return a run as a report: html, pdf, docx, md, xlsx, ods, csv, json or xml."""
    return _given(Asked("run", path.id, query.template, path.form, query.days, query.zone))


@api.get(
    "/plan-runs/<int:id>/report.<form>", operation_id="exportPlanReport", responses={200: None}
)
def report_of_plan_run(path: shapes.ByIdAndForm, query: shapes.ReportAsk) -> Response:
    """Return a run of a plan as a report."""
    return _given(Asked("plan run", path.id, query.template, path.form, query.days, query.zone))


@api.get("/trends/report.<form>", operation_id="exportTrends", responses={200: None})
def report_of_trends(path: shapes.ByForm, query: shapes.ReportAsk) -> Response:
    """Return what the runs of some days say as a report."""
    asked = Asked("trends", 0, query.template, path.form, query.days, query.zone)
    return _given(Asked.read(asked.write()))


@api.get("/report.schema.json", operation_id="reportSchema", responses={200: None})
def schema() -> Response:
    """Return the JSON Schema of reports as JSON."""
    text = json.dumps(report_schema(), indent=1)
    return Response(text, mimetype="application/schema+json")


@api.get("/reports/choices", operation_id="reportChoices", responses={200: shapes.ReportChoices})
def choices() -> Response:
    """List what reports are given out as, and the templates."""
    forms = [
        shapes.Choice(name=name, title=one.title, templated=one.templated)
        for name, one in FORMS.items()
    ]
    templates = [
        shapes.Choice(name=name, title=one.title, told=one.told, of_trends=one.of_trends)
        for name, one in TEMPLATES.items()
    ]
    return reply(shapes.ReportChoices(forms=forms, templates=templates))


@api.post("/reports/mail", operation_id="mailReport", responses={200: shapes.ReportMailed})
def mail_report(body: shapes.MailReport) -> Response:
    """Mail a report to people, now."""
    form_of(body.report.form)
    asked = Asked.read(body.report.model_dump())
    with services().database.session() as session:
        reporting.told(session, asked, templated=False)  # it is there
        sent = reporting.mail(
            session, asked, body.people, safe(session, body.word), f"{me().name} sent it to you."
        )
        without = [one.person for one in sent if one.state == "given up"]
        shape = shapes.ReportMailed(mails=len(sent) - len(without), without=without)
    return reply(shape)


def _order(session: Session, row: tables.ReportOrder) -> shapes.OrderOut:
    people = select(tables.Account).filter(tables.Account.id.in_(row.people))
    names = {one.id: one.name for one in session.scalars(people)}
    plan = session.get(tables.Plan, row.plan_id) if row.plan_id else None
    return shapes.OrderOut(
        id=row.id,
        name=row.name,
        report=shapes.ReportIn.model_validate(row.report),
        plan=row.plan_id,
        plan_name=plan.name if plan else "",
        people=row.people,
        names=[names[one] for one in row.people if one in names],
        schedule=shapes.ScheduleBody.model_validate(row.body),
        next_at=row.next_at,
        version=row.version,
    )


@api.get("/reports/orders", operation_id="listOrders", responses={200: shapes.OrderList})
def list_orders() -> Response:
    """List the reports on order; for leads."""
    need_lead()
    with services().database.session() as session:
        found = [_order(session, one) for one in reporting.orders(session)]
    return reply(shapes.OrderList(orders=found))


def _put(key: int | None, body: shapes.OrderIn) -> Response:
    need_lead()
    form_of(body.report.form)
    with services().database.session() as session:
        fresh = tables.ReportOrder(account_id=me().id)
        if body.plan is not None:
            plans.get(session, body.plan)
        row = reporting.put_order(
            session,
            fresh if key is None else reporting.order(session, key, need_version(body.version)),
            name=body.name,
            asked=Asked.read(body.report.model_dump()),
            plan=body.plan,
            people=body.people,
            schedule=Schedule.read(body.schedule.model_dump(mode="json")),
        )
        shape = _order(session, row)
    return reply(shape)


@api.post("/reports/orders", operation_id="makeOrder", responses={200: shapes.OrderOut})
def make_order(body: shapes.OrderIn) -> Response:
    """Order a report, to be mailed again and again; for leads."""
    return _put(None, body)


@api.put("/reports/orders/<int:id>", operation_id="changeOrder", responses={200: shapes.OrderOut})
def change_order(path: shapes.ById, body: shapes.OrderIn) -> Response:
    """Change a report on order; for leads."""
    return _put(path.id, body)


@api.delete("/reports/orders/<int:id>", operation_id="deleteOrder", responses={200: shapes.Done})
def delete_order(path: shapes.ById) -> Response:
    """Let a report be mailed no more; for leads."""
    need_lead()
    with services().database.session() as session:
        reporting.drop_order(session, path.id)
    return done()
