"""Choosing an option of a native list, as a person does by a key, in every engine."""

from __future__ import annotations

from typing import Literal, TypedDict

from lantern.browser.errors import BrowserError
from lantern.browser.session import Window


class Choice(TypedDict):
    """What became of it, and the texts of the options that the list has."""

    state: Literal["there", "key", "set", "missing"]
    options: list[str]


def choose(page: Window, handle: int, option: str, frame: str) -> Choice:
    """Choose the option with a text, or value, in the native list that a handle is of.

    The key that chooses it is a real one. A page that keeps keys for itself, or takes the focus
    away, must not leave the list at another option: what came of the key is asked for.
    """
    choice = page.probe("toChoose", handle, option, frame=frame)
    if choice["state"] == "key":
        page.press_key(choice["key"])
        if not _took(page, handle, frame):
            return {"state": "missing", "options": choice["options"]}
    return {"state": choice["state"], "options": choice["options"]}


def _took(page: Window, handle: int, frame: str) -> bool:
    """Tell whether the list took its key; one whose page went on, or asks something, did."""
    if page.dialog:
        return True
    try:
        return page.probe("chose", handle, frame=frame) is not False
    except BrowserError:
        return True
