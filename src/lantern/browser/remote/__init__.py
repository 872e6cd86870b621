"""A browser elsewhere, behind any address that speaks W3C WebDriver."""

from lantern.browser.remote.engine import Remote, Setup, is_ready

__all__ = ["Remote", "Setup", "is_ready"]
