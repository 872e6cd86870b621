"""What makes a window that of a mobile device, and what it shows of a page as seen from there.

On such a device a page that says nothing of its width is laid out as wide as on a desk and shown
smaller, and one that is too wide can be moved about. So that what is shown is what the page counts
from, it is made small enough to be seen whole, as a hand does.
"""

from __future__ import annotations

import io
from collections.abc import Callable
from typing import Any

from PIL import Image

SAME = 0.002
"""Scales of a page that differ by less are the same."""
TOUCHES = 5
"""Fingers that the screen feels at once."""


def manners(version: str) -> dict[str, dict[str, Any]]:
    """Return the commands that make a window of a browser of that version a touched one."""
    number = version.rpartition(" ")[2].partition(".")[0]
    agent = (
        "Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) "
        f"Chrome/{number}.0.0.0 Mobile Safari/537.36"
    )
    return {
        "Emulation.setTouchEmulationEnabled": {"enabled": True, "maxTouchPoints": TOUCHES},
        "Emulation.setUserAgentOverride": {"userAgent": agent, "platform": "Linux armv81"},
    }


class Screen:
    """The screen of a mobile device, of a `size` in pixels; `call` carries out a command."""

    def __init__(self, call: Callable[..., dict[str, Any]], size: tuple[int, int]) -> None:
        self._call, self._size = call, size
        self._share = 1.0

    def see_all(self) -> tuple[int, int]:
        """Have a page seen whole; returns how much of it is shown, in CSS pixels."""
        seen = self._call("Page.getLayoutMetrics", 10.0)
        wide = max(seen["cssLayoutViewport"]["clientWidth"], seen["cssContentSize"]["width"], 1)
        self._share = min(1.0, self._size[0] / wide)
        if not self.is_whole(seen["cssVisualViewport"]["scale"]):
            self._call("Emulation.setPageScaleFactor", 10.0, pageScaleFactor=self._share)
            seen = self._call("Page.getLayoutMetrics", 10.0)
        shown = seen["cssVisualViewport"]
        return round(shown["clientWidth"]), round(shown["clientHeight"])

    def starts_anew(self) -> None:
        """Take note of another document: it is seen as it comes."""
        self._share = 1.0

    def is_whole(self, scale: float) -> bool:
        """Tell whether a page is seen whole at a scale, as far as is known."""
        return abs(scale - self._share) <= SAME


def in_css_pixels(picture: bytes, size: tuple[int, int], quality: int) -> bytes:
    """Return a JPEG as large as what it shows is in CSS pixels."""
    image = Image.open(io.BytesIO(picture))
    if abs(image.width - size[0]) <= 1:
        return picture
    out = io.BytesIO()
    image.resize(size).save(out, "JPEG", quality=quality)
    return out.getvalue()
