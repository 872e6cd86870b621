"""Rows apart from documents: a long table is cheap to change, and nothing of it is lost."""

import pytest
from alembic import command
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import delete, func, select, text

from lantern.core.data.table import Row
from lantern.core.problems import Missing
from lantern.core.steps.edits import AddRows, SetCells, SetTable
from lantern.core.steps.model import Document
from lantern.store import rows, tests, undoing
from lantern.store.migrating import alembic_config
from lantern.store.models import RowChunk, Test

MANY = tuple(Row(f"r{n}", {"piece": f"Moon jar {n}", "note": ""}) for n in range(3000))


def a_long_table(session):
    test = tests.create(session, "Long", 1, None)
    tests.edit(session, test.id, SetTable(("piece", "note"), MANY), None)
    return test


def chunks_after(session, test, edit):
    """How many chunks an edit adds."""
    count = select(func.count()).select_from(RowChunk)
    before = session.scalar(count)
    tests.edit(session, test.id, edit, None)
    return session.scalar(count) - before


def test_a_change_of_a_long_table_adds_one_chunk(database):
    with database.session() as session:
        test_id = a_long_table(session).id
    with database.session() as session:
        test = tests.get(session, test_id)
        cell = SetCells.read({"cells": [{"row": "r1500", "column": "note", "value": "cracked"}]})
        assert chunks_after(session, test, cell) == 1
        assert (
            chunks_after(session, test, AddRows.read({"rows": [{"id": "extra"}], "after": "r700"}))
            == 1
        )
        document = rows.unpacked(test)
        assert len(document.rows) == rows.row_count(test) == len(MANY) + 1
        assert document.rows[701].id == "extra"
        assert next(row for row in document.rows if row.id == "r1500").values["note"] == "cracked"
        undoing.travel(session, test.id, None, forward=False)  # one transaction is one act
        assert rows.unpacked(test).rows == MANY


def test_what_one_process_stored_another_reads(database):
    with database.session() as session:
        test_id = a_long_table(session).id
    rows._known = rows._Known()
    with database.session() as session:
        test = tests.get(session, test_id)
        assert rows.unpacked(test).rows == MANY
        assert rows.packed(session, rows.unpacked(test)) == test.body


def test_rows_that_are_missing_are_an_error_and_no_empty_table(database):
    with database.session() as session:
        test_id = a_long_table(session).id
    rows._known = rows._Known()
    with database.session() as session:
        session.execute(delete(RowChunk))
        with pytest.raises(Missing, match="missing from the database"):
            rows.unpacked(tests.get(session, test_id))


IDS = st.lists(st.uuids().map(str), unique=True, max_size=900)


@given(IDS, st.data())
def test_neighbours_make_the_same_chunk_wherever_they_stand(ids, data):
    table = [Row(key) for key in ids]

    def chunks(table):
        return [tuple(row.id for row in chunk) for chunk in rows.chunks(table)]

    before = chunks(table)
    assert [key for chunk in before for key in chunk] == ids
    place = data.draw(st.integers(0, len(table)))
    after = chunks([*table[:place], Row("new"), *table[place:]])
    assert len(set(after) - set(before)) <= 2


def test_documents_that_hold_their_rows_are_moved_and_could_be_moved_back(database):
    with database.session() as session:
        kept = {test.id: rows.unpacked(test) for test in session.scalars(select(Test))}
        long = a_long_table(session)
        kept[long.id] = rows.unpacked(long)
    with database.engine.begin() as connection:
        command.downgrade(alembic_config(connection), "0007")
        body = connection.scalar(text("SELECT body FROM tests WHERE name = 'Long'"))
        assert Document.read(body).rows == MANY
        command.upgrade(alembic_config(connection), "head")
    rows._known = rows._Known()
    with database.session() as session:
        found = {test.id: rows.unpacked(test) for test in session.scalars(select(Test))}
    assert found == kept
