"""A window of WebDriver as far as its frames and the scripts in them go."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import structlog

from lantern.browser.base_window import MOST_FRAMES, BaseWindow
from lantern.browser.classic import scripts
from lantern.browser.classic.place import APART, MOST_DEEP
from lantern.browser.classic.wire import ELEMENT, SHADOW
from lantern.browser.errors import BrowserError, CommandFailed, DialogOpen, NoAnswer
from lantern.browser.session import Dialog
from lantern.core.engine.browsers import Browser
from lantern.core.engine.requests import Ran
from lantern.core.storable import read_json

if TYPE_CHECKING:
    from lantern.browser.classic.session import ClassicSession

log = structlog.get_logger()
UNLIMITED = 3600.0
"""Seconds that scripts may take, as far as the driver goes: who asks has a limit of their own."""
KINDS = ("alert", "confirm", "prompt")


class FramesWindow(BaseWindow):
    """The frames of a window; the id of one is the references that lead to it."""

    def __init__(self, session: ClassicSession, target: str, held_for: Browser) -> None:
        super().__init__(target, held_for)
        self.session = session
        self.main_frame = target

    # -- commands ------------------------------------------------------------------------------

    def call(
        self,
        method: str,
        path: str,
        body: dict[str, Any] | None = None,
        *,
        frame: str = "",
        timeout: float = 30.0,
    ) -> Any:  # noqa: ANN401 - whatever the command returns
        """Carry out a command in a frame; takes note of a dialog that is open, and raises it."""
        try:
            return self.session.carry_out(self, frame, method, path, body, timeout)
        except DialogOpen as error:
            self.dialog_opens(str(error))
            raise

    def script(
        self,
        script: str,
        *args: object,
        frame: str = "",
        timeout: float = 30.0,
        waits: bool = False,
    ) -> Any:  # noqa: ANN401 - whatever the script returns
        """Run the body of a function in a frame; with `waits` it calls its last argument."""
        kind = "async" if waits else "sync"
        body = {"script": script, "args": list(args)}
        return self.call("POST", f"/execute/{kind}", body, frame=frame, timeout=timeout)

    def dialog_opens(self, message: str) -> None:
        """Take note of a dialog; of which type it is only what watches the page can tell."""
        if self.dialog is None:
            self.dialog = _dialog(message)
            self.session.happened += 1
            self._wake()
            self.on_change()

    # -- the probe -----------------------------------------------------------------------------

    def ask_probe(self, frame: str, expression: str, timeout: float) -> str | None:
        """Return the text that an expression comes to beside the probe of a frame."""
        asked = scripts.ASK % {"key": self.session.key, "expression": expression}
        for _ in range(2):
            told = self.script(asked, frame=frame, timeout=timeout, waits=True)
            if told[0] != "absent":
                break
            self.install(frame)
        if told[0] == "failed":
            raise CommandFailed(f"The probe failed: {str(told[1])[:300]}")
        if told[0] == "absent":
            raise CommandFailed("The document was replaced.")
        return None if told[1] is None else str(told[1])

    def install(self, frame: str = "") -> None:
        """Put the probe into the document of a frame, unless it is there."""
        if self.script(scripts.install(self.session.key), frame=frame) and self.probe_tail:
            self.script(f"const lantern = window[{self.session.key}].lantern; {self.probe_tail}")

    def frames(self) -> list[str]:
        """Return the ids of all frames, the main one first."""
        found = [self.target]
        for frame in found:  # grows while it is gone through
            if len(found) > MOST_FRAMES or frame.count(APART) >= MOST_DEEP:
                break
            try:
                inner = self.script(scripts.FRAMES, frame=frame)
            except CommandFailed:
                if frame == self.target:
                    raise
                found.remove(frame)  # it went away just now
                break
            for holder, name, address in inner[: MOST_FRAMES - len(found)]:
                key = frame + APART + holder[ELEMENT]
                self.know_frame(key, frame, name, address)
                found.append(key)
        return found

    def frame_offset(self, frame: str) -> tuple[float, float]:
        """Return where a frame's own corner is in the window, in CSS pixels."""
        x = y = 0.0
        while APART in frame:
            frame, _, holder = frame.rpartition(APART)
            dx, dy = self.script(scripts.CORNER, {ELEMENT: holder}, frame=frame)
            x, y = x + dx, y + dy
        return x, y

    def frame_at(self, x: float, y: float) -> str:
        """Return the innermost frame at a point; raises CommandFailed where there is nothing."""
        frame = self.target
        for _ in range(MOST_DEEP):
            dx, dy = self.frame_offset(frame)
            script = (
                "const at = document.elementFromPoint(...arguments);"
                "return at && ['iframe', 'frame'].includes(at.localName) ? at : null"
            )
            holder = self.script(script, x - dx, y - dy, frame=frame)
            if holder is None:
                break
            frame += APART + holder[ELEMENT]
        return frame

    def node(self, handle: int, frame: str) -> str:
        """Return the reference of a node of the probe; raises CommandFailed where it is gone."""
        script = f"return window[{self.session.key}].lantern.node(arguments[0]) ?? null"
        told = self.script(script, int(handle), frame=frame)
        if not isinstance(told, dict) or ELEMENT not in told:
            raise CommandFailed("The field went away.")
        return str(told[ELEMENT])

    def look_into(self, handles: Sequence[int], frame: str = "") -> int:
        """Hand closed shadow roots of nodes over to the probe; returns how many there were."""
        found = 0
        for handle in handles if self.session.opens_shut else ():
            try:
                host = self.node(handle, frame)
                root = self.call("GET", f"/element/{host}/shadow", frame=frame)
            except CommandFailed:
                continue
            adopt = f"window[{self.session.key}].lantern.adopt(...arguments)"
            self.script(adopt, {ELEMENT: host}, {SHADOW: root[SHADOW]}, frame=frame)
            found += 1
        return found

    def listens_to_press(self, press: int, frame: str = "") -> bool:
        """Tell that it is not known whether a script listens: the protocol does not say."""
        return True

    def run_script(self, script: str, limit: float) -> Ran:
        """Run the body of an async function among the page's own scripts; gives `value`."""
        told_by = (
            "const done = arguments[arguments.length - 1];"
            f"(async () => {{ {script}\n}})().then((value) => done(['said', "
            "JSON.stringify([value ?? ''])]), (error) => done(['failed', String(error)]))"
        )
        try:
            kind, said = self.script(told_by, timeout=limit, waits=True)
        except NoAnswer:
            return Ran(error=f"It was not done after {limit:g} s.")
        except CommandFailed as error:
            return Ran(error=str(error))
        if kind == "failed":
            return Ran(error=str(said).splitlines()[0])
        [value] = read_json(said)
        text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
        return Ran({"value": text})

    # -- what happened meanwhile ---------------------------------------------------------------

    def drain(self) -> None:
        """Take note of what the page's requests and console told since the last time.

        Raises nothing: a document that is being replaced tells nothing.
        """
        if self.dialog or self.gone.is_set():
            return
        script = f"const own = window[{self.session.key}]; return own ? own.drain() : null"
        try:
            told = self.script(script, timeout=10.0)
            if told is None:
                self.install()
                told = self.script(script, timeout=10.0)
            if told is not None:
                self._take(told)
        except BrowserError:
            return
        except (ValueError, TypeError, IndexError):
            log.warning("page_told_nonsense")  # a script of the page can put itself in between

    def _take(self, told: list[Any]) -> None:
        ready, address, title, under_way, telling, log = told
        if address != self.address:
            self.address = str(address)
            self.traffic.under_way.clear()
            self.traffic.telling.clear()
            self.on_change()
        self.title = str(title)
        self._set_loading(ready == "loading")
        for kind, *rest in log:
            self._take_one(kind, rest)
        if not under_way:
            self.traffic.under_way.clear()
        if not telling:
            self.traffic.telling.clear()
        self._wake()

    def _take_one(self, kind: str, rest: list[Any]) -> None:
        traffic = self.traffic
        if kind == "complaint":
            traffic.complained(str(rest[0]))
        elif kind == "told":
            traffic.told(str(rest[0]))
        elif kind == "request":
            traffic.requested(rest[0], rest[1], rest[2], waits=True)
        elif kind == "done":
            traffic.response(int(rest[1]), rest[2], document=False)
            traffic.done(rest[0])
        elif kind == "failed":
            traffic.failed(rest[0], f"No answer from {rest[2]}")


def _dialog(message: str) -> Dialog:
    """Return a dialog by what it says: what watches the page puts behind it what it is."""
    words, mark, told = message.rpartition(scripts.MARK)
    try:
        kind, default = read_json(told) if mark else ("alert", "")
    except (ValueError, TypeError):
        kind, default = "", ""
    if not mark or kind not in KINDS:  # it opened before the page was watched, or says so itself
        return Dialog("alert", message)
    return Dialog(kind, words, str(default))
