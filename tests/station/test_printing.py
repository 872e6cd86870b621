"""A real browser prints reports: pages on paper, with their pictures."""

import base64
import io
import re

from PIL import Image

from lantern.browser.engines import ENGINES
from lantern.core.review.reporting import TEMPLATES, of_run
from lantern.exchange.reports import html
from tests.core.test_reports import RUN


def test_a_report_becomes_pages_with_pictures(chromium):
    prints = ENGINES["chromium"].prints
    before = len(chromium._sessions)
    pdf = prints(chromium, html.write(of_run(RUN, TEMPLATES["full"]), paper=True).decode())
    assert pdf.startswith(b"%PDF-")
    assert pdf.rstrip().endswith(b"%%EOF")
    assert re.search(rb"/Subtype\s*/Image", pdf), "the pictures are on it"
    assert len(chromium._sessions) == before, "what was opened is closed"


def test_a_large_report_comes_whole(chromium):
    out = io.BytesIO()
    Image.effect_noise((900, 700), 90).convert("RGB").save(out, "JPEG", quality=95)
    data = base64.b64encode(out.getvalue()).decode()
    pages = "".join(f'<p>{n}</p><img src="data:image/jpeg;base64,{data}">' for n in range(12))
    pdf = ENGINES["chromium"].prints(chromium, f"<!doctype html><title>Large</title>{pages}")
    assert pdf.rstrip().endswith(b"%%EOF")
