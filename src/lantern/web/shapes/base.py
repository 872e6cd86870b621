"""What all shapes have in common."""

from __future__ import annotations

from functools import cache
from typing import Any

from pydantic import BaseModel, ConfigDict


class Query(BaseModel):
    """What is asked for in an address; its JSON schema, which each request needs, is made once."""

    @classmethod
    def model_json_schema(cls, *given: Any, **named: Any) -> dict[str, Any]:  # noqa: ANN401
        """Return the JSON schema of the query; without arguments it is not to be changed."""
        if given or named:
            return super().model_json_schema(*given, **named)
        return _schema(cls)


@cache
def _schema(of: type[Query]) -> dict[str, Any]:
    return super(Query, of).model_json_schema()


class ListAsk(Query):
    """What to list: what has `q` in its names; `after` is the `next` of the page before."""

    q: str = ""
    after: str = ""


class Shape(BaseModel):
    """All shapes refuse fields that they do not know."""

    model_config = ConfigDict(extra="forbid", from_attributes=True)


class Problem(Shape):
    """An error: what happened (`message`), to which thing (`where`), what to do (`hint`)."""

    code: str
    message: str
    where: str = ""
    hint: str = ""


class Done(Shape):
    """Nothing more to say than that it is done."""

    done: bool = True


class ById(BaseModel):
    """A path with a number."""

    id: int


class ByKey(BaseModel):
    """A path with a key."""

    key: str
