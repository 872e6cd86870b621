"""Tables of test data."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from lantern.core.data.table import ColumnType, Role
from lantern.web.shapes.base import Query, Shape


class RowOut(Shape):
    """A row of test data."""

    id: str
    values: dict[str, str]
    ticked: bool
    designed: bool


class ColumnOut(Shape):
    """A column: see core.data.table for its type and role; `offers` is what a cell may hold."""

    name: str
    type: ColumnType
    role: Role
    choices: list[str]
    offers: list[str]


class TableOut(Shape):
    """The table of a test, or a shared one; `source` is the attached file, {} for none."""

    id: int
    version: int
    table_version: int
    columns: list[ColumnOut]
    rows: list[RowOut]
    source: dict[str, str]


class SharedBrief(Shape):
    """A shared table in a list, with the tests that use it."""

    id: int
    name: str
    columns: list[str]
    rows: int
    changed_at: datetime
    used_by: list[str]


class SharedList(Shape):
    """A page of the shared tables, by name; `next` leads on, "" at the end."""

    tables: list[SharedBrief]
    next: str


class UseTableAsk(Shape):
    """Take the rows from a shared table; null for rows of the test's own."""

    base: int
    table: int | None


class ShareAsk(Shape):
    """A name for the shared table that the rows of a test become."""

    base: int
    name: str = Field(min_length=1, max_length=200)


class ByIdAndEnding(BaseModel):
    """A test by its id, and the ending of a file."""

    id: int
    ending: str


class ExportAsk(Query):
    """How a table is written: with `escaped` formulas a spreadsheet program carries none out.

    It matters to CSV alone; other formats say of each cell that it is a text.
    """

    formulas: Literal["as they are", "escaped"] = "as they are"


class TakeInAsk(Shape):
    """A spreadsheet: its name and, as base64, its content, "" for a file kept with the test.

    `sheet` is empty for the first one, `range` for all of it (else such as B2:F40), `header`
    null for the row that is found. With `write` the table is taken in, with `attach` the file is
    kept with the test so that it can be refreshed from it. `match` tells how rows are known to be
    the same: names of columns with commas between, "by place", "all new", or "" for the proposal;
    `changes_from` is the first change that is shown.
    """

    base: int
    name: str
    content: str = Field(default="", max_length=40_000_000)
    sheet: str = ""
    range: str = ""
    header: int | None = None
    match: str = ""
    changes_from: int = Field(default=0, ge=0)
    attach: bool = False
    write: bool = False


class TakenColumn(Shape):
    """A column of a spreadsheet: the name it gets, its header there, the type it seems to have."""

    name: str
    header: str
    type: str


class CellChangeOut(Shape):
    """A cell before and after; a `stays` one is kept although the row around it changes."""

    column: str
    before: str
    after: str
    stays: bool


class RowChangeOut(Shape):
    """What taking a table in does to a row: its places from 1, null where it is not there."""

    what: Literal["added", "changed", "removed"]
    before: int | None
    after: int | None
    cells: list[CellChangeOut]
    by_hand: bool
    expected: bool


class CsvAsk(Shape):
    """Rows as CSV text, to replace the table of version `base`."""

    base: int
    text: str = Field(max_length=20_000_000)


class CellProblemOut(Shape):
    """What is wrong with a value; `row` from 1, 0 for all rows.

    `near` are values that would fit, the likeliest first: of the cell, or for all rows of `input`.
    """

    row: int
    column: str
    step: str
    message: str
    hint: str
    near: list[str]
    input: str
    row_id: str


class TypedAsk(Shape):
    """A value as it is being typed: into a column of a row, or as an input of a sentence.

    With `choice` it says which rows are to be run.
    """

    value: str = Field(max_length=20_000)
    choice: bool = False
    row: str = ""
    column: str = ""
    step: str = ""
    input: str = ""


class TypedWrong(Shape):
    """What is wrong with it; `near` are values that would fit, the likeliest first."""

    message: str
    hint: str
    near: list[str]


class TypedOut(Shape):
    """All that is wrong with a value that is being typed."""

    problems: list[TypedWrong]


class CheckAsk(Query):
    """Which rows to check, as core.data.choosing reads it."""

    rows: str = "all"


class DataCheck(Shape):
    """What would fail for certain; `rows` were looked at."""

    rows: int
    problems: list[CellProblemOut]
    more: int
