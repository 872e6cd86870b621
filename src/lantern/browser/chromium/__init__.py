"""Chromium, driven over the Chrome DevTools Protocol through a pipe."""

from lantern.browser.chromium.engine import Chromium
from lantern.browser.chromium.window import ChromiumWindow

__all__ = ["Chromium", "ChromiumWindow"]
