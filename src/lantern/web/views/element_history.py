"""What elements were: their versions, what differs, and going back to one."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from flask import Response

from lantern.core.elements.clues import Element
from lantern.core.elements.comparing import differs
from lantern.core.problems import Missing
from lantern.store import accounts, acts, elements
from lantern.store.database import tell
from lantern.web import shapes
from lantern.web.context import blueprint, me, reply, services
from lantern.web.views.elements import full

api = blueprint("element history")


@api.get(
    "/elements/<string:key>/versions",
    operation_id="elementVersions",
    responses={200: shapes.ElementVersions},
)
def list_versions(path: shapes.ByKey) -> Response:
    """List what an element was, newest first; empty for one that never changed."""
    with services().database.session() as session:
        now = elements.get(session, path.key).body
        found = elements.versions(session, path.key)
        names = accounts.names(session, {one.author_id for one in found if one.author_id})
        listed = [
            shapes.ElementVersionOut(
                number=one.number,
                summary=one.summary,
                author=names.get(one.author_id or 0, ""),
                at=one.at,
                lines=_lines(older.body if older else None, one.body),
                now=_lines(one.body, now),
                there=one.body is not None,
            )
            for one, older in zip(found, [*found[1:], None], strict=True)
        ]
    return reply(shapes.ElementVersions(versions=listed))


def _lines(before: Mapping[str, Any] | None, after: Mapping[str, Any] | None) -> list[str]:
    if before is None or after is None:
        return []
    return differs(Element.read(before), Element.read(after))


@api.post(
    "/elements/<string:key>/restore",
    operation_id="restoreElement",
    responses={200: shapes.ElementFull},
)
def restore(path: shapes.ByKey, body: shapes.RestoreElement) -> Response:
    """Let an element be again what it was; every test that uses it goes by that from then on."""
    with services().database.session() as session:
        wanted = next(
            (one for one in elements.versions(session, path.key) if one.number == body.version),
            None,
        )
        if wanted is None or wanted.body is None:
            raise Missing("The element has no such version.", where=str(body.version))
        act = acts.begin(session, me().id, body.place, f"version {body.version} of an element")
        row = elements.save(session, Element.read(wanted.body), base=body.base)
        tell(session, "element", id=path.key)
        shape = full(row, elements.uses(session, path.key))
        shape.act = act.id
    return reply(shape)
