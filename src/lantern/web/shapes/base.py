"""What all shapes have in common."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


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
