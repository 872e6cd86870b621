"""Printing documents for who asked for it."""

from __future__ import annotations

from collections.abc import Callable

from lantern.browser.errors import BrowserError
from lantern.store import printing
from lantern.store.database import Database


def carry_out(database: Database, print_id: int, pdf: Callable[[str], bytes]) -> None:
    """Print a document and keep what came of it; nothing where nobody wants it any more."""
    with database.session() as session:
        html = printing.html_of(session, print_id)
    if html is None:
        return
    content, said = b"", ""
    try:
        content = pdf(html)
    except BrowserError as error:
        said = str(error) or "The browser failed."
    with database.session() as session:
        printing.done(session, print_id, content, said)
