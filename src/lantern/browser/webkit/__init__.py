"""WebKit, in its small browser for GTK, driven over WebDriver."""

from lantern.browser.webkit.engine import WebKit

__all__ = ["WebKit"]
