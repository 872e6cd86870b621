"""Versions of a test: who changed what, comparing, restoring, and the baseline."""

from __future__ import annotations

from flask import Response

from lantern.core.steps.comparing import difference
from lantern.store import accounts, tests
from lantern.store.rows import row_count
from lantern.web import shapes
from lantern.web.context import blueprint, me, reply, services
from lantern.web.views.changes import changes_out
from lantern.web.views.tests import test_out

api = blueprint("versions")
PAGE = 50


@api.get(
    "/tests/<int:id>/versions", operation_id="listVersions", responses={200: shapes.VersionList}
)
def list_versions(path: shapes.ById, query: shapes.VersionsAsk) -> Response:
    """List the versions of a test, newest first."""
    with services().database.session() as session:
        test = tests.get(session, path.id)
        found = tests.versions(session, path.id, query.before, PAGE + 1)
        names = accounts.names(session, {one.author_id for one in found if one.author_id})
        listed = [
            shapes.VersionOut(
                number=one.number,
                summary=one.summary,
                author=names.get(one.author_id or 0, ""),
                at=one.at,
                steps=len(one.body.get("steps", [])),
                rows=row_count(one),
            )
            for one in found[:PAGE]
        ]
        shape = shapes.VersionList(versions=listed, more=len(found) > PAGE, baseline=test.baseline)
    return reply(shape)


@api.get("/tests/<int:id>/compare", operation_id="compare", responses={200: shapes.DifferenceOut})
def compare(path: shapes.ById, query: shapes.CompareAsk) -> Response:
    """Compare two versions of a test."""
    with services().database.session() as session:
        before = tests.document_of(session, path.id, query.before)
        after = tests.document_of(session, path.id, query.after)
        found = difference(before, after)
        shape = shapes.DifferenceOut(
            steps=changes_out(session, found.steps), others=list(found.others)
        )
    return reply(shape)


@api.post("/tests/<int:id>/restore", operation_id="restore", responses={200: shapes.TestOut})
def restore(path: shapes.ById, body: shapes.RestoreAsk) -> Response:
    """Make an earlier version the newest one."""
    with services().database.session() as session:
        test = tests.restore(session, path.id, body.version, me().id, base=body.base)
        shape = test_out(session, test)
    return reply(shape)


@api.put("/tests/<int:id>/baseline", operation_id="setBaseline", responses={200: shapes.TestOut})
def set_baseline(path: shapes.ById, body: shapes.BaselineAsk) -> Response:
    """Mark a version as the clean run of the test, or none."""
    with services().database.session() as session:
        shape = test_out(session, tests.set_baseline(session, path.id, body.version))
    return reply(shape)
