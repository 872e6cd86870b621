"""Firefox, driven over WebDriver BiDi."""

from lantern.browser.firefox.engine import Firefox

__all__ = ["Firefox"]
