"""Tables: rows of a test or shared, taken in from spreadsheets, checked, and given out."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from flask import Response
from sqlalchemy.orm import Session

from lantern.core.data import matching, taking
from lantern.core.data.checking import (
    CellProblem,
    ValueProblem,
    check_choice,
    check_data,
    check_template,
)
from lantern.core.data.matching import Match
from lantern.core.problems import Missing
from lantern.core.steps.edits import SetTable, TakeTable
from lantern.core.steps.model import Document, Row
from lantern.exchange import csv_rows, sheets
from lantern.exchange.reading import read_apart
from lantern.store import elements, files, pictures, remotes, runs, stations, tables, tests
from lantern.store.database import tell
from lantern.store.models import Test
from lantern.store.rows import row_count, unpacked
from lantern.web import shapes
from lantern.web.context import blueprint, bytes_of, done, me, reply, services
from lantern.web.views.tests import checked_names, names_in, test_out

api = blueprint("tables")
MOST_PROBLEMS = 200
MOST_SHOWN = 50
MOST_OFFERED = 200
CHANGES_SHOWN = 200
"""Changed rows in one answer."""


def table_out(session: Session, test: Test) -> shapes.TableOut:
    """Return the shape of the table that a test uses."""
    owner = tables.owner(session, test)
    document = unpacked(owner)
    offered = _offered(session, owner)
    browsers = _browsers(session)
    return shapes.TableOut(
        id=owner.id,
        version=owner.version,
        table_version=owner.table_version,
        columns=[
            shapes.ColumnOut(
                name=name,
                offers=browsers
                if trait.role == "browser"
                else list(trait.offers) or offered.get(name, []),
                **trait.as_json(),
            )
            for name in document.columns
            for trait in [document.trait(name)]
        ],
        rows=[shapes.RowOut.model_validate(row) for row in document.rows],
        source={name: str(value) for name, value in document.source.items()},
    )


def _browsers(session: Session) -> list[str]:
    """Return the browsers that stations offer now; all that there are while none is up."""
    known = remotes.catalogue(session)
    there = {name for one in stations.offers(session) for name in one.engines}
    return [name for name, one in known.items() if one.engine in there] or list(known)


def _offered(session: Session, owner: Test) -> dict[str, list[str]]:
    """Return what the lists offer into which columns go, as they were seen last."""
    shared = owner.kind == tables.TABLE
    users = [unpacked(one) for one in (tables.uses(session, owner.id) if shared else [owner])]
    known = elements.load(session, {key for one in users for key in one.element_ids()})
    found: dict[str, list[str]] = {}
    for step in (step for user in users for step in user.steps):
        seen = known[step.element].seen if step.element in known else None
        option = re.fullmatch(r"\$\{row\.(\w+)\}", step.inputs.get("option", "").strip())
        if seen and option:
            found.setdefault(option[1], list(seen.options)[:MOST_OFFERED])
    return found


@api.get("/tests/<int:id>/table", operation_id="getTable", responses={200: shapes.TableOut})
def get_table(path: shapes.ById) -> Response:
    """Return the table of a test, be it shared or its own."""
    with services().database.session() as session:
        shape = table_out(session, tests.get(session, path.id))
    return reply(shape)


# -- shared tables -------------------------------------------------------------------------------


@api.get("/tables", operation_id="listTables", responses={200: shapes.SharedList})
def list_tables(query: shapes.ListAsk) -> Response:
    """List the shared tables by name, with what uses them."""
    with services().database.session() as session:
        found = tables.listed(session, query.q.strip(), query.after)
        used = tables.users(session, [one.id for one in found.rows])
        listed = [_shared(one, used) for one in found.rows]
    return reply(shapes.SharedList(tables=listed, next=found.next))


@api.get("/tables/<int:id>", operation_id="getSharedTable", responses={200: shapes.SharedBrief})
def get_shared(path: shapes.ById) -> Response:
    """Return what lists say of a shared table, and what uses it."""
    with services().database.session() as session:
        shape = _shared(tables.get(session, path.id), tables.users(session, [path.id]))
    return reply(shape)


def _shared(table: Test, used: Mapping[int, list[str]]) -> shapes.SharedBrief:
    return shapes.SharedBrief(
        id=table.id,
        name=table.name,
        columns=list(table.body.get("columns", [])),
        rows=row_count(table),
        changed_at=table.changed_at,
        used_by=used.get(table.id, []),
    )


@api.post("/tests/<int:id>/share", operation_id="shareTable", responses={200: shapes.TestOut})
def share_table(path: shapes.ById, body: shapes.ShareAsk) -> Response:
    """Make the rows of a test a shared table, which the test then uses."""
    with services().database.session() as session:
        test = tests.get(session, path.id, lock=True)
        own = tables.filled(session, unpacked(test))
        table = tests.create(
            session,
            body.name,
            test.environment_id,
            me().id,
            Document(columns=own.columns, rows=own.rows, traits=own.traits, source=own.source),
            kind=tables.TABLE,
        )
        tables.use(session, test.id, table.id, me().id, base=body.base)
        shape = test_out(session, test)
    return reply(shape)


@api.put("/tests/<int:id>/shared", operation_id="useTable", responses={200: shapes.TestOut})
def use_table(path: shapes.ById, body: shapes.UseTableAsk) -> Response:
    """Let a test take its rows from a shared table, or have a copy of them for itself."""
    with services().database.session() as session:
        test = tables.use(session, path.id, body.table, me().id, base=body.base)
        shape = test_out(session, test)
    return reply(shape)


@api.delete("/tables/<int:id>", operation_id="deleteTable", responses={200: shapes.Done})
def delete_table(path: shapes.ById) -> Response:
    """Delete a shared table that no test uses."""
    with services().database.session() as session:
        tables.delete(session, path.id)
        tell(session, "test", id=path.id)
    return done()


# -- in and out ----------------------------------------------------------------------------------


@api.get("/tests/<int:id>/rows.<ending>", operation_id="exportRows", responses={200: None})
def export_rows(path: shapes.ByIdAndEnding, query: shapes.ExportAsk) -> Response:
    """Return the rows as a file of that format."""
    if path.ending not in sheets.FORMATS:
        raise Missing(f"Tables are not written as .{path.ending}.", where="ending")
    wanted = sheets.FORMATS[path.ending]
    with services().database.session() as session:
        owner = tables.owner(session, tests.get(session, path.id))
        document = unpacked(owner)
    values = [row.values for row in document.rows]
    if path.ending == "csv" and query.formulas == "escaped":
        content = csv_rows.write(document.columns, values, escape=True).encode()
    else:
        content = wanted.write(document.columns, values)
    name = f"test-{path.id}-rows.{path.ending}"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(content, mimetype=wanted.mime, headers=headers)


@api.post("/tests/<int:id>/rows.csv", operation_id="importRows", responses={200: shapes.TestOut})
def import_rows(path: shapes.ById, body: shapes.CsvAsk) -> Response:
    """Replace the table by the rows of a CSV text; all or nothing."""
    columns, values = csv_rows.read(body.text)
    edit = SetTable(tuple(columns), tuple(Row("", row) for row in values))
    with services().database.session() as session:
        test = tests.edit(session, path.id, edit, me().id, base=body.base)
        shape = test_out(session, test)
    return reply(shape)


@api.post("/tests/<int:id>/take-in", operation_id="takeIn", responses={200: shapes.TakeInOut})
def take_in(path: shapes.ById, body: shapes.TakeInAsk) -> Response:
    """Look into a spreadsheet, or take a table out of it; all or nothing.

    The file comes with the request, or is one that is kept with the test. What would be added,
    changed and removed is told first.
    """
    with services().database.session() as session:
        content = _content(session, tests.get(session, path.id), body)
    book = read_apart(content, body.name)  # it may take its time: no connection is held meanwhile
    with services().database.session() as session:
        test = tests.get(session, path.id)
        sheet = body.sheet if body.sheet in book else next(iter(book))
        document = unpacked(test)
        taken = taking.take(book[sheet], body.range, body.header)
        taken = taking.fitted(taken, document.columns)
        common = [name for name in taken.columns if name in document.columns]
        proposed = matching.propose(common, document.traits, document.rows, taken.rows)
        match = Match.read(body.match, common) if body.match else proposed
        merged = taking.merge(document.columns, document.rows, taken, match, document.traits)
        part = merged.changes[body.changes_from : body.changes_from + CHANGES_SHOWN]
        touched = [one for one in merged.changes if one.what != "added"]
        shape = shapes.TakeInOut(
            sheets=list(book),
            sheet=sheet,
            header=taken.header_row,
            columns=[
                shapes.TakenColumn(name=name, header=header, type=taken.types[name].type)
                for name, header in zip(taken.columns, taken.headers, strict=True)
            ],
            rows=[dict(row) for row in taken.rows[:MOST_SHOWN]],
            count=len(taken.rows),
            added=merged.count("added"),
            changed=merged.count("changed"),
            removed=merged.count("removed"),
            match=str(match),
            proposed=str(proposed),
            common=common,
            changes=[shapes.RowChangeOut.model_validate(one) for one in part],
            by_hand=sum(one.by_hand for one in touched),
            expected=sum(one.expected for one in touched),
        )
        if body.write:
            kept = files.put(session, test.id, body.name, content) if body.attach else None
            source = (
                {
                    "name": kept.name,
                    "sheet": sheet,
                    "range": body.range,
                    "header": taken.header_row,
                    "match": str(match),
                }
                if kept
                else {}
            )
            edit = TakeTable(merged, taking.traits_after(document.traits, taken), source)
            changed = tests.edit(session, test.id, edit, me().id, base=body.base)
            shape.test = test_out(session, changed)
    return reply(shape)


def _content(session: Session, test: Test, body: shapes.TakeInAsk) -> bytes:
    if not body.content:
        digest = files.digests(session, test.id).get(body.name)
        kept = pictures.load(session, digest) if digest else None
        if kept is None:
            raise Missing(f"This test keeps no file named “{body.name}”.", where=body.name)
        return kept.content
    return bytes_of(body.content, "content")


@api.get("/tests/<int:id>/data-check", operation_id="checkData", responses={200: shapes.DataCheck})
def check_rows(path: shapes.ById, query: shapes.CheckAsk) -> Response:
    """Check rows ahead of a run, against the options and limits of their fields."""
    with services().database.session() as session:
        document = tables.filled(session, unpacked(tests.get(session, path.id)))
        found = check_data(document, elements.load(session, document.element_ids()))
        places = {place + 1 for place in runs.chosen_places(session, document, query.rows)}
    found = [one for one in found if not one.row or one.row in places]
    shown = found[:MOST_PROBLEMS]
    return reply(
        shapes.DataCheck(
            rows=len(places),
            problems=[shapes.CellProblemOut.model_validate(one) for one in shown],
            more=len(found) - len(shown),
        )
    )


@api.post("/tests/<int:id>/typed", operation_id="checkTyped", responses={200: shapes.TypedOut})
def check_typed(path: shapes.ById, body: shapes.TypedAsk) -> Response:
    """Tell what is wrong with a value that is being typed, before it is saved."""
    with services().database.session() as session:
        test = tests.get(session, path.id)
        found: Sequence[CellProblem | ValueProblem]
        if body.choice:
            found = check_choice(tables.filled(session, unpacked(test)).rows, body.value)
        elif body.column:
            found = _in_cell(session, test, body)
        else:
            found = _in_sentence(session, test, body)
    listed = [
        shapes.TypedWrong(message=one.message, hint=one.hint, near=list(one.near)) for one in found
    ]
    return reply(shapes.TypedOut(problems=listed))


def _in_cell(session: Session, test: Test, body: shapes.TypedAsk) -> list[CellProblem]:
    """Check the value in its row, against every test that uses the table."""
    shared = test.kind == tables.TABLE
    found: dict[str, CellProblem] = {}
    for user in [test, *(tables.uses(session, test.id) if shared else ())]:
        document = tables.filled(session, unpacked(user))
        row = next((one for one in document.rows if one.id == body.row), Row(body.row))
        values = dict.fromkeys(document.columns, "") | dict(row.values) | {body.column: body.value}
        alone = replace(document, rows=(replace(row, values=values),))
        known = elements.load(session, document.element_ids())
        for one in check_data(alone, known):
            if one.column == body.column and one.row:
                found.setdefault(one.message, one)
    return list(found.values())


def _in_sentence(session: Session, test: Test, body: shapes.TypedAsk) -> list[ValueProblem]:
    document = unpacked(test)
    step = document.step(body.step)
    known = elements.load(session, filter(None, (step.element, step.onto)))
    names = checked_names(test, names_in(session, test))
    return list(check_template(step, body.input, body.value, known, names))
