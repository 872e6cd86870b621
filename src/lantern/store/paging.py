"""Long lists, page by page: by the last row that was seen, not by counting rows.

However far one goes, a page costs the same, and what is added or removed meanwhile neither repeats
a row nor leaves one out (keyset paging).
"""

from __future__ import annotations

import base64
import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Generic, TypeVar

from sqlalchemy import ColumnElement, Row, Select, literal, tuple_
from sqlalchemy.exc import DataError
from sqlalchemy.orm import Session

from lantern.core.problems import BadInput

USUAL = 50
"""Rows on a page."""
R = TypeVar("R")


@dataclass(frozen=True)
class Page(Generic[R]):
    """Some rows of a list, and where the next page begins ("" where nothing follows)."""

    rows: Sequence[R]
    next: str = ""


@dataclass(frozen=True)
class Order:
    """What a list is sorted by: expressions, the last one unique, all in one direction."""

    by: tuple[ColumnElement[Any], ...]
    falling: bool = False


def page(
    session: Session, query: Select[Any], order: Order, after: str = "", size: int = USUAL
) -> Page[Row[Any]]:
    """Return the page of a query's rows that follows `after`, a page's `next` ("" for the first).

    The rows have what they are sorted by as further columns at their end.

    Raises BadInput where `after` is nothing that a page of this list has given.
    """
    keys = tuple_(*order.by)
    if after:
        then = tuple_(*_values(after, order.by))
        query = query.filter(keys < then if order.falling else keys > then)
    ordered = [one.desc() if order.falling else one.asc() for one in order.by]
    query = query.order_by(None).order_by(*ordered).limit(size + 1)
    try:
        found = session.execute(query.add_columns(*order.by)).all()
    except DataError as error:
        raise _unknown() from error
    return Page(found[:size], _mark(found[size - 1][-len(order.by) :]) if len(found) > size else "")


def _mark(values: Sequence[object]) -> str:
    said = [one.isoformat() if isinstance(one, datetime) else one for one in values]
    return base64.urlsafe_b64encode(json.dumps(said).encode()).decode().rstrip("=")


def _values(mark: str, by: Sequence[ColumnElement[Any]]) -> list[ColumnElement[Any]]:
    try:
        padded = mark + "=" * (-len(mark) % 4)
        said = json.loads(base64.b64decode(padded, altchars=b"-_", validate=True))
        if not isinstance(said, list) or len(said) != len(by):
            raise _unknown()
        return [literal(_read(one, key), key.type) for one, key in zip(said, by, strict=True)]
    except (ValueError, RecursionError) as error:  # also what is no base64, UTF-8 or JSON
        raise _unknown() from error


def _read(said: object, key: ColumnElement[Any]) -> object:
    kind = key.type.python_type
    if kind is datetime:
        return datetime.fromisoformat(str(said))
    if not isinstance(said, kind) or (isinstance(said, int) and abs(said) >= 2**63):
        raise _unknown()
    if isinstance(said, str) and "\0" in said:
        raise _unknown()
    return said


def _unknown() -> BadInput:
    return BadInput(
        "This is no place in the list.", where="after", hint="Begin the list anew, without it."
    )
