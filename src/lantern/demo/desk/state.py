"""What the desk knows: accounts, firings, the release that runs and the faults it has."""

from __future__ import annotations

import threading
from dataclasses import dataclass, field, replace
from datetime import date, timedelta

from lantern.demo.desk.rules import CLOSED_WEEKDAY

RELEASES = ("spring", "summer", "autumn")
FAULTS = {
    "price": "The rush supplement is forgotten",
    "lost row": "A firing of more than 12 pieces never reaches the board",
    "silent delete": "Deleting a firing gives no message",
}
"""Faults that can be switched on and off; autumn has all of them."""


@dataclass(frozen=True)
class Account:
    """Someone who can sign in; `slow` accounts take some seconds to get in."""

    name: str
    password: str = field(repr=False)
    tier: str
    slow: bool = False


ACCOUNTS = {
    "mara": Account("Mara Ellwood", "wheel-and-kiln", "member"),
    "tobin": Account("Tobin Ashgrove", "slip-and-score", "resident"),
    "ines": Account("Ines Quill", "raw-to-glaze", "guest", slow=True),
}


@dataclass(frozen=True)
class Firing:
    """A booked firing."""

    number: int
    piece: str
    clay: str
    cone: str
    count: int
    drop_off: date
    price: str
    member: str


def next_open_day(today: date) -> date:
    """Return the first day from tomorrow on which the studio is open."""
    day = today + timedelta(days=1)
    while day.weekday() == CLOSED_WEEKDAY:
        day += timedelta(days=1)
    return day


def _first_firings(today: date) -> list[Firing]:
    day = next_open_day(today)
    return [
        Firing(1, "Moon jar", "Porcelain", "10", 1, day, "€ 10.80", "Mara Ellwood"),
        Firing(2, "Breakfast bowls", "Stoneware", "6", 12, day, "€ 21.40", "Tobin Ashgrove"),
        Firing(3, "Garden lantern", "Raku", "06", 2, day, "€ 6.00", "Ines Quill"),
        Firing(4, "Tea caddy", "Earthenware", "04", 4, day, "€ 5.40", "Mara Ellwood"),
    ]


class Desk:
    """The desk's data; one call puts all of it back."""

    def __init__(self, release: str = "spring") -> None:
        self.lock = threading.Lock()
        self.release = release
        self.faults: set[str] = set()
        self.firings: list[Firing] = []
        self.last = 0
        self.said: dict[str, str] = {}
        self.said_at: dict[str, float] = {}
        self.files: list[str] = []
        self.reset(release)

    def reset(self, release: str | None = None) -> None:
        """Put all data back, and start a release if one is named."""
        with self.lock:
            if release is not None:
                self.release = release
                self.faults = set(FAULTS) if release == "autumn" else set()
            self.firings = _first_firings(date.today())
            self.last = len(self.firings)
            self.said, self.said_at, self.files = {}, {}, []

    def book(self, firing: Firing) -> Firing:
        """Book a firing under the next number."""
        with self.lock:
            self.last += 1
            booked = Firing(self.last, *list(vars(firing).values())[1:])
            if not ("lost row" in self.faults and firing.count > 12):
                self.firings.append(booked)
            return booked

    def change_count(self, number: int, count: int) -> None:
        """Change the number of pieces of a firing."""
        with self.lock:
            self.firings = [
                replace(one, count=count) if one.number == number else one for one in self.firings
            ]

    def note(self, what: str, value: str, at: float = 0.0) -> None:
        """Note what a widget of the workrooms was set to.

        `at` is when that was, in milliseconds: notes overtake each other on their way.
        """
        with self.lock:
            if at >= self.said_at.get(what, 0.0):
                self.said[what], self.said_at[what] = value, at

    def give_file(self, name: str, size: int) -> None:
        """Take a file of `size` bytes; only its name and size are kept."""
        with self.lock:
            self.files.append(name)
            self.said[f"file {name}"] = f"{size} bytes"

    def delete(self, number: int) -> Firing | None:
        """Delete a firing; returns it, or None when there is none."""
        with self.lock:
            found = next((one for one in self.firings if one.number == number), None)
            if found:
                self.firings.remove(found)
            return found
