"""The mails that were taken, and the SMTP side that takes them."""

from __future__ import annotations

import base64
import itertools
import threading
from collections import deque
from dataclasses import dataclass
from email import message_from_bytes, policy
from email.message import EmailMessage
from typing import Any

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session

MOST = 500
"""Mails that are kept."""
LARGEST = 30 * 1024 * 1024


@dataclass(frozen=True)
class Taken:
    """A mail that was taken, with a number; `to` are those whom the sender named to the server."""

    number: int
    to: tuple[str, ...]
    message: EmailMessage

    def header(self, name: str) -> str:
        """Return a header, "" when there is none."""
        return str(self.message[name] or "")

    def text(self, kind: str) -> str:
        """Return its text of a kind ("plain" or "html"), "" when there is none."""
        part = self.message.get_body((kind,))
        return str(part.get_content()) if part else ""

    def html(self) -> str:
        """Return its HTML with its pictures inside, so that it shows itself alone."""
        html = self.text("html")
        for part in self.message.walk():
            cid = str(part["Content-ID"] or "").strip("<>")
            if cid and part.get_content_maintype() == "image":
                content = base64.b64encode(part.get_content()).decode()
                html = html.replace(
                    f"cid:{cid}", f"data:{part.get_content_type()};base64,{content}"
                )
        return html

    def as_json(self) -> dict[str, Any]:
        """Return what there is to know of it."""
        return {
            "number": self.number,
            "to": list(self.to),
            "subject": self.header("Subject"),
            "id": self.header("Message-ID"),
            "text": self.text("plain"),
            "html": self.text("html"),
            "pictures": sum(p.get_content_maintype() == "image" for p in self.message.walk()),
        }


class Box:
    """Takes mails from any thread; `refusal` is what it answers instead, "" to take them."""

    def __init__(self) -> None:
        self._taken: deque[Taken] = deque(maxlen=MOST)
        self._numbers = itertools.count(1)
        self._lock = threading.Lock()
        self.refusal = ""

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:  # noqa: N802 - as the library calls it
        """Take a mail; returns the answer to its sender."""
        if self.refusal:
            return self.refusal
        content = envelope.content or b""
        raw = content.encode() if isinstance(content, str) else content
        message = message_from_bytes(raw, policy=policy.default)
        with self._lock:
            self._taken.append(Taken(next(self._numbers), tuple(envelope.rcpt_tos), message))
        return "250 Taken"

    def all(self) -> list[Taken]:
        """Return the mails, newest first."""
        with self._lock:
            return list(reversed(self._taken))

    def get(self, number: int) -> Taken | None:
        """Return a mail by its number, None when it is not there."""
        return next((one for one in self.all() if one.number == number), None)


def listening(box: Box, port: int, host: str = "127.0.0.1") -> Controller:
    """Let a box take mails on a port; whoever calls stops what is returned."""
    controller = Controller(box, hostname=host, port=port, data_size_limit=LARGEST)
    controller.start()
    return controller
