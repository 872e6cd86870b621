"""A Kiln Desk of the tests' own, and a hand that uses it through a stage as a person does."""

import json
import logging
import threading
import time
import urllib.request

import pytest
from werkzeug.serving import make_server

from lantern.browser.errors import BrowserError
from lantern.demo.desk.app import create_app


class DeskServer:
    """A Kiln Desk whose parts are marked."""

    def __init__(self, release="spring"):
        logging.getLogger("werkzeug").setLevel(logging.ERROR)
        self.server = make_server(
            "127.0.0.1", 0, create_app(release, mark_parts=True), threaded=True
        )
        self.address = f"http://127.0.0.1:{self.server.server_port}"
        threading.Thread(target=self.server.serve_forever, daemon=True).start()

    def reset(self, release="spring"):
        data = f"release={release}".encode()
        urllib.request.urlopen(f"{self.address}/reset", data=data, timeout=5).close()

    def state(self):
        with urllib.request.urlopen(f"{self.address}/state", timeout=5) as answer:
            return json.load(answer)

    def stop(self):
        self.server.shutdown()


def until(condition, what, limit=10.0):
    """Wait until a condition holds and return what it gave; fail saying what was waited for.

    `what` may be a function: what is found at the end is said then.
    """
    end = time.monotonic() + limit
    while not (got := _tried(condition)):
        if time.monotonic() >= end:
            pytest.fail(f"Not within {limit:g} s: {what() if callable(what) else what}")
        time.sleep(0.02)  # between two looks at the condition
    return got


def _tried(condition):
    try:
        return condition()
    except BrowserError:
        return None  # the page is just being replaced


class Hand:
    """Uses the page on a stage by mouse and keys; parts are named as the desk marks them."""

    def __init__(self, stage):
        self.stage = stage

    @property
    def page(self):
        return self.stage.context.current

    def place(self, part):
        """Where a part is, scrolled into view: a part's mark, or a selector in brackets."""
        selector = part[1:-1] if part.startswith("(") else f'[data-part="{part}"]'

        def found():
            for frame in self.page.frames():
                handle = self.page.probe("handleAt", selector, 0, frame=frame)
                aimed = handle and self.page.probe("aim", handle, frame=frame)
                if aimed and not aimed["problem"]:
                    dx, dy = self.page.frame_offset(frame)
                    return aimed["x"] + dx, aimed["y"] + dy
            return None

        return until(found, f"the part {part} ready")

    def mouse(self, kind, at, **more):
        self.stage.take({"type": "mouse", "kind": kind, "x": at[0], "y": at[1], **more})

    def press(self, part, button="left", count=1):
        at = self.place(part)
        self.mouse("move", at)
        for number in range(1, count + 1):
            for kind in ("down", "up"):
                held = {"left": 1, "right": 2}[button] if kind == "down" else 0
                self.mouse(kind, at, button=button, buttons=held, count=number)
        self.rest()

    def point(self, part):
        self.mouse("move", self.place(part))
        self.rest()

    def drag(self, part, onto):
        start, end = self.place(part), self.place(onto)
        self.mouse("move", start)
        self.mouse("down", start, button="left", buttons=1, count=1)
        for share in (0.02, 0.2, 0.5, 0.8, 1, 1):
            at = [a + (b - a) * share for a, b in zip(start, end, strict=True)]
            self.mouse("move", at, button="left", buttons=1)
            self.rest()
            self.begin_drag(share)
        self.mouse("up", end, button="left", count=1)
        self.rest()

    def begin_drag(self, share, limit=0.3):
        """Give the browser's own dragging, where there is one, time to begin: a hand is slower."""
        end = time.monotonic() + limit
        while share == 0.2 and self.page.dragged is None and time.monotonic() < end:
            self.rest()

    def type(self, part, text):
        self.press(part)
        self.text(text)

    def text(self, text):
        self.stage.take({"type": "text", "text": text})
        self.rest()

    def key(self, key, modifiers=0, text=""):
        shape = {"key": key, "code": key, "number": 13 if key == "Enter" else 0}
        if key == "Enter":
            text = "\r"
        for kind in ("down", "up"):
            self.stage.take(
                {"type": "key", "kind": kind, "modifiers": modifiers, "text": text, **shape}
            )
        self.rest()

    def open(self, path):
        self.stage.take({"type": "open", "address": path})
        self.rest()

    def rest(self):
        """Let the page answer what was done."""
        if not self.page.dialog:
            self.page.after_input()

    def node(self, part):
        """Wait until a part is there; returns the frame that it is in, and its handle there."""

        def found():
            for frame in self.page.frames():
                handle = self.page.probe("handleAt", f'[data-part="{part}"]', 0, frame=frame)
                if handle:
                    return frame, handle
            return None

        return until(found, f"the part {part}")

    def set(self, part, value):
        """Set a field of the browser's own, such as a date, as its picker does."""
        frame, handle = self.node(part)
        self.page.probe("toType", handle, value, frame=frame)
        self.rest()

    def choose(self, part, option):
        """Choose in a native list, as Lantern's own list of options does."""
        frame, handle = self.node(part)
        self.stage.take({"type": "choose", "handle": handle, "frame": frame, "option": option})
        self.rest()
