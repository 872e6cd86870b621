"""What goes wrong between Lantern and a browser, whichever engine it is."""

from __future__ import annotations


class BrowserError(Exception):
    """Something went wrong between Lantern and the browser."""


class BrowserGone(BrowserError):
    """The browser process or its connection ended."""


class CommandFailed(BrowserError):
    """The browser refused a command; the message is the browser's own."""


class DialogOpen(BrowserError):
    """The page does not answer because a browser dialog is open."""


class NoAnswer(BrowserError):
    """The browser did not answer a command in time."""
