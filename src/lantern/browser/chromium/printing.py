"""Printing a document on paper, as PDF (ISO 32000)."""

from __future__ import annotations

import base64

from lantern.browser.chromium.engine import Chromium
from lantern.browser.errors import BrowserError

LIMIT = 60.0
"""Seconds that printing may take."""
_DRAWN = "Promise.all([...document.images].map((one) => one.decode().catch(() => 0))).then(() => 1)"


def print_pdf(browser: Chromium, html: str) -> bytes:
    """Return a document as PDF, in a context of its own; raises BrowserError."""
    session = browser.new_session()
    try:
        page = session.open_page()
        page.call("Page.setDocumentContent", LIMIT, frameId=page.main_frame, html=html)
        page.call("Runtime.evaluate", LIMIT, expression=_DRAWN, awaitPromise=True)
        made = page.call(
            "Page.printToPDF", LIMIT, printBackground=True, preferCSSPageSize=True,
            transferMode="ReturnAsStream",
        )  # fmt: skip
        pieces = []
        while True:
            piece = page.call("IO.read", LIMIT, handle=made["stream"], size=1 << 20)
            data = str(piece["data"])
            pieces.append(base64.b64decode(data) if piece.get("base64Encoded") else data.encode())
            if piece.get("eof"):
                return b"".join(pieces)
    except KeyError as error:
        raise BrowserError("The browser printed nothing.") from error
    finally:
        session.close()
