"""Defects: raising, listing and changing them."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from flask import Response
from sqlalchemy import Row
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput, Missing
from lantern.core.review.alike import Shown
from lantern.core.review.defects import Failure, fingerprint, steps_to_repeat, title
from lantern.store import alike, defect_files, defects, filters, handing, lists, tests
from lantern.store.database import tell
from lantern.store.models import Cast, Defect, DefectFile, Handover, Result
from lantern.web import shapes
from lantern.web.context import blueprint, bytes_of, done, me, reply, safe, services

api = blueprint("defects")
WRITTEN = {"title", "steps", "expected", "found", "notes"}
"""What a person writes of a defect."""


def _brief(defect: Row[Any]) -> shapes.DefectBrief:
    return shapes.DefectBrief.model_validate(defect)


def _out(session: Session, defect: Defect) -> shapes.DefectOut:
    sightings = []
    for result, run in defects.sightings(session, defect.id):
        row = session.get_one(Cast, result.cast_id)
        sightings.append(
            shapes.SightingOut(
                result_id=result.id,
                run_id=run.id,
                cast_id=row.id,
                row=row.number,
                test_name=run.test_name,
                sentence=result.sentence,
                at=result.at,
            )
        )
    passed = defects.passed_since(session, defect)
    return shapes.DefectOut(
        defect=_brief(lists.defects_named(session, [defect.id])[defect.id]),
        version=defect.version,
        steps=defect.steps,
        expected=defect.expected,
        found=defect.found,
        notes=defect.notes,
        browser=defect.browser,
        picture=defect.picture,
        sightings=sightings,
        history=[
            shapes.DefectChangeOut(
                what=one.what,
                before=one.before,
                after=one.after,
                author=one.account.name if one.account else "",
                source=one.source,
                at=one.at,
            )
            for one in defects.history(session, defect.id)
        ],
        passed=shapes.PassedOut(run=passed.run, release=passed.release) if passed else None,
        handed=[_handed(session, one) for one in handing.of_defect(session, defect.id)],
        requirements=defects.requirements_of(session, defect),
        files=[_file(one) for one in defect_files.listed(session, defect.id)],
    )


def _file(one: DefectFile) -> shapes.DefectFileOut:
    return shapes.DefectFileOut(
        name=one.name,
        size=one.size,
        digest=one.digest,
        picture=one.mime.startswith("image/") and one.mime != "image/svg+xml",
        author=one.account.name if one.account else "",
        at=one.at,
    )


def _handed(session: Session, link: Handover) -> shapes.HandedOut:
    stuck = handing.untaken(session, link)
    tried = next((one for one in stuck if one.tries), None)
    return shapes.HandedOut(
        id=link.id,
        tracker_id=link.tracker_id,
        tracker=link.tracker.name,
        key=link.key,
        link=link.link,
        state=link.seen_state,
        gone=link.gone,
        waits=len(stuck),
        given_up=any(one.state == "given up" for one in stuck),
        said=(tried.said if tried else "") or link.said,
        looked_at=link.looked_at,
    )


@api.get("/defects", operation_id="listDefects", responses={200: shapes.DefectList})
def list_defects(query: shapes.DefectsAsk) -> Response:
    """List defects, newest first."""
    with services().database.session() as session:
        found = lists.of_defects(
            session,
            query.q.strip(),
            query.state,
            query.severity,
            query.order,
            query.after,
            query.owner,
        )
        listed = [_brief(defect) for defect in found.rows]
    return reply(shapes.DefectList(defects=listed, next=found.next))


@api.get(
    "/results/<int:id>/defect", operation_id="draftDefect", responses={200: shapes.DefectDraft}
)
def draft(path: shapes.ById) -> Response:
    """Propose a defect for a failed step, and the defects that it may be already."""
    with services().database.session() as session:
        failure, result, run = defects.failure_of(session, path.id)
        known = defects.same_as(session, failure)
        listed = lists.defects_named(session, [one.id for one in known])
        shape = shapes.DefectDraft(
            title=title(failure),
            severity="major",
            steps=steps_to_repeat(failure),
            expected=result.expected or "The sentence succeeds.",
            found=result.found or result.message,
            environment=f"{run.environment_name} ({run.address})",
            browser=result.cast.version or run.browser,
            release=run.release,
            picture=result.picture,
            same_as=[_brief(listed[one.id]) for one in known],
            alike=_alike(session, alike.shown_by(session, failure, result), listed),
        )
    return reply(shape)


def _alike(session: Session, now: Shown, known: Collection[int]) -> list[shapes.AlikeDefect]:
    found = alike.alike(session, now, known)
    rows = lists.defects_named(session, [one.defect for one in found])
    return [
        shapes.AlikeDefect(defect=_brief(rows[one.defect]), share=one.share, why=list(one.why))
        for one in found
    ]


@api.post("/defects/draft", operation_id="draftOfFailure", responses={200: shapes.DefectDraft})
def draft_of_failure(body: shapes.FailureIn) -> Response:
    """Propose a defect for a failure in a rehearsal, and the defects that it may be already."""
    with services().database.session() as session:
        failure = _failure(body)
        known = defects.same_as(session, failure)
        listed = lists.defects_named(session, [one.id for one in known])
        environment = tests.get(session, body.test).environment
        shape = shapes.DefectDraft(
            title=title(failure),
            severity="major",
            steps=steps_to_repeat(failure),
            expected=failure.expected or "The sentence succeeds.",
            found=failure.found or failure.message,
            environment=f"{environment.name} ({environment.address})",
            browser="",
            release="",
            picture="",
            same_as=[_brief(listed[one.id]) for one in known],
            alike=_alike(session, alike.shown_by(session, failure), listed),
        )
    return reply(shape)


def _failure(given: shapes.FailureIn) -> Failure:
    return Failure(
        test=str(given.test),
        step_id=given.step,
        sentence=given.sentence,
        reason=given.reason,
        message=given.message,
        expected=given.expected,
        found=given.found,
        before=given.before,
    )


@api.post("/defects", operation_id="raiseDefect", responses={200: shapes.DefectOut})
def raise_defect(body: shapes.NewDefect) -> Response:
    """Raise a defect from a failed step, or from a failure in a rehearsal."""
    with services().database.session() as session:
        if body.result_id is None:
            return reply(_of_rehearsal(session, body))
        failure, result, run = defects.failure_of(session, body.result_id)
        environment = f"{run.environment_name} ({run.address})"
        defect = _made(session, body, failure, environment)
        defect.browser, defect.release = result.cast.version or run.browser, run.release
        defect.picture = result.picture
        defect.shown = alike.shown_by(session, failure, result).write()
        defects.see(session, defect, result.id, *body.also)
        shape = _out(session, defect)
    return reply(shape)


@api.get("/defects/<int:id>", operation_id="getDefect", responses={200: shapes.DefectOut})
def get_defect(path: shapes.ById) -> Response:
    """Return a defect in full."""
    with services().database.session() as session:
        shape = _out(session, _get(session, path.id))
    return reply(shape)


def _made(session: Session, body: shapes.NewDefect, failure: Failure, environment: str) -> Defect:
    defect = Defect(
        **_safe(session, body.model_dump(include=WRITTEN)),
        severity=defects.check_severity(body.severity),
        environment=environment,
        browser="",
        release="",
        fingerprint=fingerprint(failure),
        account_id=me().id,
    )
    session.add(defect)
    session.flush()
    session.refresh(defect)
    return defect


def _safe(session: Session, fields: dict[str, Any]) -> dict[str, Any]:
    return {
        name: safe(session, value) if name in WRITTEN else value for name, value in fields.items()
    }


def _of_rehearsal(session: Session, body: shapes.NewDefect) -> shapes.DefectOut:
    if body.failure is None:
        raise BadInput("A defect is raised from a failure.", where="failure")
    environment = tests.get(session, body.failure.test).environment
    place = f"{environment.name} ({environment.address})"
    defect = _made(session, body, _failure(body.failure), place)
    tell(session, "defect", id=defect.id)
    return _out(session, defect)


def _get(session: Session, defect_id: int) -> Defect:
    defect = session.get(Defect, defect_id)
    if defect is None:
        raise Missing(f"There is no defect {defect_id}.", where=str(defect_id))
    return defect


@api.patch("/defects/<int:id>", operation_id="changeDefect", responses={200: shapes.DefectOut})
def change_defect(path: shapes.ById, body: shapes.DefectChange) -> Response:
    """Change a defect; a conflict with someone else's change answers 409."""
    fields = body.model_dump(exclude={"version"}, exclude_none=True)
    if "owner_id" in body.model_fields_set and body.owner_id is None:
        fields["owner_id"] = None  # nobody has it any more
    with services().database.session() as session:
        defect = defects.change(session, path.id, body.version, _safe(session, fields), me().id)
        session.flush()
        shape = _out(session, defect)
    return reply(shape)


@api.post(
    "/defects/<int:id>/sightings", operation_id="seeDefect", responses={200: shapes.DefectOut}
)
def see_defect(path: shapes.ById, body: shapes.SightingAsk) -> Response:
    """Say that a defect was seen in another failed step."""
    with services().database.session() as session:
        defect = _get(session, path.id)
        if session.get(Result, body.result_id) is None:
            raise Missing("That result does not exist any more.", where=str(body.result_id))
        defects.see(session, defect, body.result_id, *body.also)
        session.flush()
        shape = _out(session, defect)
    return reply(shape)


@api.post(
    "/defects/<int:id>/retest", operation_id="retestDefect", responses={200: shapes.RetestOut}
)
def retest_defect(path: shapes.ById) -> Response:
    """Run the rows again in which a defect was seen."""
    with services().database.session() as session:
        found = defects.retest(session, _get(session, path.id), me().id)
    return reply(shapes.RetestOut(runs=found))


# -- files ----------------------------------------------------------------------------------------


@api.post("/defects/<int:id>/files", operation_id="putDefectFile", responses={200: shapes.Done})
def put_file(path: shapes.ById, body: shapes.FileIn) -> Response:
    """Keep a file with a defect, in place of an older one of that name."""
    content = bytes_of(body.content, body.name)
    with services().database.session() as session:
        defect_files.put(session, path.id, body.name, content, me().id)
    return done()


@api.delete(
    "/defects/<int:id>/files/<string:name>", operation_id="deleteDefectFile",
    responses={200: shapes.Done},
)  # fmt: skip
def delete_file(path: shapes.FileName) -> Response:
    """Remove a file from a defect."""
    with services().database.session() as session:
        defect_files.remove(session, path.id, path.name, me().id)
    return done()


# -- filters --------------------------------------------------------------------------------------


@api.get("/me/filters", operation_id="listFilters", responses={200: shapes.FilterList})
def list_filters(query: shapes.FiltersAsk) -> Response:
    """List one's own saved filters of a list."""
    with services().database.session() as session:
        found = filters.of(session, me().id, query.view)
        shape = shapes.FilterList(filters=[shapes.FilterOut.model_validate(one) for one in found])
    return reply(shape)


@api.post("/me/filters", operation_id="saveFilter", responses={200: shapes.FilterOut})
def save_filter(body: shapes.FilterIn) -> Response:
    """Save a filter for oneself, in place of an older one of that name."""
    with services().database.session() as session:
        kept = filters.put(session, me().id, body.view, body.name, body.body)
        shape = shapes.FilterOut.model_validate(kept)
    return reply(shape)


@api.delete("/me/filters/<int:id>", operation_id="deleteFilter", responses={200: shapes.Done})
def delete_filter(path: shapes.ById) -> Response:
    """Forget one's own filter."""
    with services().database.session() as session:
        filters.drop(session, me().id, path.id)
    return done()
