"""Blurring parts of pictures, so that nobody can read there what a page showed."""

from __future__ import annotations

import io
import time
from collections.abc import Callable, Collection, Sequence

from PIL import Image, ImageFilter

from lantern.browser.session import Window
from lantern.core.elements.facts import Box
from lantern.core.values.redaction import redacted
from lantern.station.lookup import hiding

ROUGH = 12
"""Pixels that become one before the rest is blurred: letters must not come back."""
QUALITY = 70
LOOK = 0.5
"""Seconds that a page has to say where secrets are before a live picture of it is shown."""
FRESH = 1.0
"""Seconds for which secrets that were asked for count as known."""


class Redactor:
    """Hides secrets in what is shown and said live; `secrets` is asked for them now and then."""

    def __init__(self, secrets: Callable[[], Collection[str]]) -> None:
        self._ask = secrets
        self._values: Collection[str] = ()
        self._asked = -FRESH

    def learn(self) -> None:
        """Ask for the values, unless that was done just now."""
        if time.monotonic() - self._asked >= FRESH:
            self._values, self._asked = self._ask(), time.monotonic()

    def hide(self, text: str) -> str:
        """Return a text without the secrets that were learned of."""
        return redacted(text, self._values)

    def over(self, page: Window, picture: bytes) -> bytes:
        """Return the picture of a page without its secrets.

        Raises BrowserError when the page can not say where they are: a dialog is open, a script
        runs, the window is gone.
        """
        self.learn()
        boxes = hiding(page, self._values, dots=False, timeout=LOOK)
        return blurred(picture, boxes, page.viewport[0])


def safe_picture(page: Window, secrets: Collection[str]) -> bytes:
    """Take a picture of a page on which none of the secrets can be read."""
    if not secrets:
        return page.picture()
    before = hiding(page, secrets)
    picture = page.picture()
    boxes = [*before, *hiding(page, secrets)]  # the page may have changed meanwhile
    return blurred(picture, boxes, page.viewport[0])


def blurred(picture: bytes, boxes: Sequence[Box], width: float) -> bytes:
    """Return a JPEG with the boxes (in pixels of a window so wide) made unreadable."""
    if not boxes:
        return picture
    image = Image.open(io.BytesIO(picture)).convert("RGB")
    scale = image.width / width
    for box in boxes:
        left, top = max(0, int(box.x * scale)), max(0, int(box.y * scale))
        right = min(image.width, int((box.x + box.width) * scale) + 1)
        bottom = min(image.height, int((box.y + box.height) * scale) + 1)
        if right <= left or bottom <= top:
            continue
        part = image.crop((left, top, right, bottom))
        small = (max(1, part.width // ROUGH), max(1, part.height // ROUGH))
        rough = part.resize(small, Image.Resampling.BOX).resize(part.size)
        image.paste(rough.filter(ImageFilter.GaussianBlur(ROUGH / 2)), (left, top))
    out = io.BytesIO()
    image.save(out, "JPEG", quality=QUALITY)
    return out.getvalue()
