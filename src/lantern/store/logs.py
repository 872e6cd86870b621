"""Logs of a process: a line of JSON each, without local variables and without a secret's value.

The vault tells of each secret that it seals or opens; whatever is logged afterwards shows none of
them, nor the usual forms of one. This is the second net: nothing is meant to log a value at all.
"""

from __future__ import annotations

import json
import logging
import os
import sys
import threading
from collections.abc import Iterable, MutableMapping
from contextlib import suppress
from types import TracebackType
from typing import Any

import structlog

from lantern.core.values.redaction import redacted

_secrets: set[str] = set()
_lock = threading.Lock()


def know(secrets: Iterable[str]) -> None:
    """Never let these values, in any usual form, into a log of this process from now on."""
    with _lock:
        _secrets.update(secrets)


def hidden(text: str) -> str:
    """Return a text in which no known secret can be read."""
    with _lock:
        known = frozenset(_secrets)
    return redacted(text, known)


def _hide(value: Any) -> Any:  # noqa: ANN401 - whatever is logged
    if isinstance(value, dict):
        return {hidden(str(key)): _hide(entry) for key, entry in value.items()}
    if isinstance(value, list | tuple | set | frozenset):
        return [_hide(entry) for entry in value]
    text = value if isinstance(value, str) else repr(value)
    plain = isinstance(value, str | int | float | None) and hidden(text) == text
    return value if plain else hidden(text)


def hide_secrets(_logger: object, _method: str, event: MutableMapping[str, Any]) -> dict[str, Any]:
    """Hide secrets in all parts of a log entry: a processor of structlog."""
    return dict(_hide(dict(event)))


class _Output:
    """Where lines go: the process's output, which is a log file. A full disk ends nothing."""

    def msg(self, line: str) -> None:
        """Write a line, if that is possible."""
        with suppress(OSError):
            os.write(1, f"{line}\n".encode())

    debug = info = warning = error = critical = exception = msg


class _Plain(logging.Formatter):
    """What libraries log by themselves, in the same form."""

    def format(self, record: logging.LogRecord) -> str:
        entry = {
            "event": record.getMessage(),
            "level": record.levelname.lower(),
            "logger": record.name,
            "timestamp": self.formatTime(record),
        }
        if record.exc_info:
            entry["exception"] = self.formatException(record.exc_info)
        return json.dumps(_hide(entry), ensure_ascii=False)


def configure() -> None:
    """Let all logs of this process, those of libraries and of unforeseen errors too, be such."""
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso"),
            structlog.processors.format_exc_info,
            hide_secrets,
            structlog.processors.JSONRenderer(ensure_ascii=False),
        ],
        logger_factory=lambda *_: _Output(),
    )
    handler = logging.StreamHandler()
    handler.setFormatter(_Plain())
    logging.basicConfig(level=logging.WARNING, handlers=[handler], force=True)
    for name in ("gunicorn.error", "gunicorn.access"):
        for own in logging.getLogger(name).handlers:
            own.setFormatter(_Plain())
    sys.excepthook = _unforeseen
    threading.excepthook = lambda args: _unforeseen(
        args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback
    )


def _unforeseen(
    kind: type[BaseException], error: BaseException, trace: TracebackType | None
) -> None:
    if issubclass(kind, KeyboardInterrupt | SystemExit):
        return
    structlog.get_logger().error("unforeseen", exc_info=(kind, error, trace))
