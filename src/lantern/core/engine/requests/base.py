"""What a request is, and what is thrown into a play instead of an answer."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Generator
from typing import TYPE_CHECKING, Any, Generic, TypeVar

if TYPE_CHECKING:
    from lantern.core.engine.driver import Driver


T = TypeVar("T")


class StageLost(Exception):
    """The browser behind the stage died or stopped answering."""


class DriverFailed(Exception):
    """Whoever drives the interpreter could not do what was asked: a mistake of Lantern's own."""


class PageGone(Exception):
    """The document that a request was about was replaced under it."""


class Request(ABC, Generic[T]):
    """Something that is asked of whoever drives the interpreter, whose answer is a T.

    `answer = yield from request` asks it within a play, and has the type of the answer.
    """

    def __iter__(self) -> Generator[Request[Any], Any, T]:
        """Ask, and return the answer."""
        answer: T = yield self
        return answer

    @abstractmethod
    def ask_of(self, driver: Driver) -> T:
        """Let a driver answer it."""


Play = Generator[Request[Any], Any, T]
"""A piece of a test being played: yields requests, is sent answers, returns a T."""
