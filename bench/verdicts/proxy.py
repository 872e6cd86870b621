"""A proxy between the browser and the desk: what passes can be altered without the desk knowing."""

from __future__ import annotations

import http.client
import http.server
import re
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from urllib.parse import urlsplit

HOP = frozenset(
    {"connection", "transfer-encoding", "content-length", "keep-alive", "date", "server"}
)


@dataclass
class Answer:
    """What goes back to the browser."""

    status: int
    headers: list[tuple[str, str]]
    body: bytes

    @property
    def text(self) -> str:
        """The body of a page."""
        return self.body.decode("utf-8", "replace")


@dataclass
class Asked:
    """What a browser asks for; a rule may change it before the desk is asked."""

    method: str
    path: str
    headers: dict[str, str]
    body: bytes


@dataclass
class Rule:
    """What is done with requests whose "METHOD /path" a pattern matches.

    `before` changes the request, `instead` answers it without the desk (None: cut it off),
    `delay` holds it up, `after` changes the answer.
    """

    pattern: str
    before: Callable[[Asked], None] | None = None
    instead: Callable[[Asked], Answer | None] | None = None
    delay: float = 0.0
    after: Callable[[Answer], None] | None = None


@dataclass
class Proxy:
    """A reverse proxy on loopback; `rules` hold from the next request on."""

    desk: str
    rules: list[Rule] = field(default_factory=list)

    def __post_init__(self) -> None:
        proxy = self

        class Handler(http.server.BaseHTTPRequestHandler):
            protocol_version = "HTTP/1.1"

            def do_GET(self) -> None:
                with suppress(OSError):
                    proxy.serve(self)

            do_POST = do_GET  # noqa: N815 - the name that the server calls

            def log_message(self, *_: object) -> None:
                pass

        self.server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        self.server.daemon_threads = True
        self.address = f"http://127.0.0.1:{self.server.server_port}"
        threading.Thread(target=self.server.serve_forever, daemon=True).start()

    def serve(self, handler: http.server.BaseHTTPRequestHandler) -> None:
        """Answer one request, by way of the rules that are about it."""
        length = int(handler.headers.get("Content-Length") or 0)
        asked = Asked(
            handler.command, handler.path, dict(handler.headers.items()), handler.rfile.read(length)
        )
        rules = [
            one for one in self.rules if re.search(one.pattern, f"{asked.method} {asked.path}")
        ]
        answer: Answer | None = None
        for rule in rules:
            if rule.delay:
                threading.Event().wait(rule.delay)
            if rule.before:
                rule.before(asked)
        instead = next((rule.instead for rule in rules if rule.instead), None)
        answer = instead(asked) if instead else self._from_desk(asked)
        if answer is None:
            handler.close_connection = True
            handler.connection.close()
            return
        for rule in rules:
            if rule.after:
                rule.after(answer)
        handler.send_response(answer.status)
        for name, value in answer.headers:
            if name.lower() not in HOP:
                handler.send_header(name, value)
        handler.send_header("Content-Length", str(len(answer.body)))
        handler.end_headers()
        handler.wfile.write(answer.body)

    def _from_desk(self, asked: Asked) -> Answer:
        target = urlsplit(self.desk)
        line = http.client.HTTPConnection(target.hostname or "", target.port, timeout=30)
        headers = {name: value for name, value in asked.headers.items() if name.lower() not in HOP}
        line.request(asked.method, asked.path, asked.body or None, headers)
        got = line.getresponse()
        answer = Answer(got.status, got.getheaders(), got.read())
        line.close()
        return answer

    def close(self) -> None:
        """End it."""
        self.server.shutdown()
        self.server.server_close()


def page(status: int, words: str, title: str = "Kiln Desk") -> Callable[[Asked], Answer]:
    """Return what answers with a page of some words."""
    body = f"<!doctype html><title>{title}</title><main>{words}</main>".encode()
    headers = [("Content-Type", "text/html; charset=utf-8")]
    return lambda _: Answer(status, headers, body)


def cut(_: Asked) -> None:
    """Cut a request off."""


def put(old: str, new: str) -> Callable[[Answer], None]:
    """Return what puts one text in the place of another, which is a pattern."""

    def change(answer: Answer) -> None:
        answer.body = re.sub(old, new, answer.text, flags=re.DOTALL).encode()

    return change


def add(markup: str) -> Callable[[Answer], None]:
    """Return what adds markup at the end of a page."""

    def change(answer: Answer) -> None:
        answer.body = answer.text.replace("</body>", markup + "</body>").encode()

    return change
