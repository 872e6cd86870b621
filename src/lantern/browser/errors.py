"""What goes wrong between Lantern and a browser, whichever engine it is."""

from __future__ import annotations


class BrowserError(Exception):
    """Something went wrong between Lantern and the browser."""


class BrowserGone(BrowserError):
    """The browser process or its connection ended."""


class LineLost(BrowserGone):
    """The connection to a driver broke: whether the last command was carried out nobody knows."""


class CommandFailed(BrowserError):
    """The browser refused a command; the message and the `code` ("" none) are the browser's own."""

    def __init__(self, message: str, code: str = "") -> None:
        super().__init__(message)
        self.code = code


class OutOfReach(BrowserError):
    """A point that input is to go to lies outside of the window."""


class DialogOpen(BrowserError):
    """The page does not answer because a browser dialog is open."""


class NoAnswer(BrowserError):
    """The browser did not answer a command in time."""
