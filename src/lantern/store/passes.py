"""Passes: short-lived, signed proofs by which the web process speaks to a station."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from itsdangerous import BadSignature, URLSafeTimedSerializer

LASTS = 60
"""Seconds for which a pass is good."""


def _serializer() -> URLSafeTimedSerializer:
    key = Path(os.environ["LANTERN_KEY_FILE"]).read_bytes()
    return URLSafeTimedSerializer(key, salt="station")


def write_pass(content: dict[str, Any]) -> str:
    """Return a pass that says `content`."""
    return str(_serializer().dumps(content))


def read_pass(text: str) -> dict[str, Any] | None:
    """Return what a pass says, or None when it is forged or too old."""
    try:
        content = _serializer().loads(text, max_age=LASTS)
    except BadSignature:
        return None
    return dict(content)
