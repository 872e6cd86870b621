"""The live stage, taken at the web process's own connection.

`pictures_per_second`: of a page that moves all the time. `input_to_picture_ms`: the median time
from sending a press to the arrival of the first picture that shows its effect.
"""

from __future__ import annotations

import http.server
import io
import json
import statistics
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager

from PIL import Image
from sqlalchemy import select
from websockets.sync.client import ClientConnection, connect

from bench._bench import Place, a_lantern, report, say, sized
from lantern.demo.data import ACCOUNTS
from lantern.store.models import Test

SECONDS = sized(5.0, 1.0)
PRESSES = sized(40, 4)
PAGE = b"""<!doctype html><title>Moving</title><style>
body { margin: 0 }
#wheel { width: 300px; height: 300px; margin: 60px; border-radius: 50%;
  border: 40px dashed #c4683a; background: #1f4d52; animation: turn 2s linear infinite }
@keyframes turn { to { transform: rotate(360deg) } }
#lamp { position: absolute; left: 600px; top: 100px; width: 400px; height: 400px;
  background: #000 }
</style><div id=wheel></div><div id=lamp></div><script>
let on = false
document.addEventListener('mousedown', () => {
  on = !on
  document.getElementById('lamp').style.background = on ? '#fff' : '#000'
})
const wheel = document.getElementById('wheel')
if (location.search === '?still') wheel.style.animation = 'none'
</script>"""
LAMP = (800, 300)


class _Handler(http.server.BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        self.end_headers()
        self.wfile.write(PAGE)

    def log_message(self, *_: object) -> None:
        """Say nothing."""


@contextmanager
def _pages() -> Iterator[str]:
    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), _Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()


def cookie(address: str) -> str:
    """Sign the lead of the demo in; returns the cookie."""
    lead = ACCOUNTS[0]
    body = json.dumps({"username": lead.username, "password": lead.password}).encode()
    headers = {"Content-Type": "application/json"}
    request = urllib.request.Request(f"{address}/api/sign-in", body, headers)
    with urllib.request.urlopen(request) as answer:
        return str(answer.headers["Set-Cookie"]).split(";")[0]


def _stage(place: Place) -> ClientConnection:
    with place.database.session() as session:
        test_id = session.scalars(select(Test.id)).first()
    address = place.address.replace("http://", "ws://") + f"/api/live/stage/{test_id}"
    headers = {"Cookie": cookie(place.address)}
    return connect(address, additional_headers=headers, compression=None, max_size=None, proxy=None)


def _open(stage: ClientConnection, address: str) -> None:
    stage.send(json.dumps({"type": "open", "address": address}))
    end = time.monotonic() + 20
    while time.monotonic() < end:
        message = stage.recv(timeout=20)
        if isinstance(message, str) and json.loads(message).get("address") == address:
            return
    raise AssertionError(f"the stage did not open {address}")


def _pictures_per_second(stage: ClientConnection, page: str) -> float:
    _open(stage, page + "/?moving")
    _drain(stage, 1.0)
    start, count = time.monotonic(), 0
    while time.monotonic() - start < SECONDS:
        if isinstance(stage.recv(timeout=5), bytes):
            count += 1
    return count / (time.monotonic() - start)


def _drain(stage: ClientConnection, seconds: float) -> None:
    end = time.monotonic() + seconds
    while (left := end - time.monotonic()) > 0:
        try:
            stage.recv(timeout=left)
        except TimeoutError:
            return


def _lit(picture: bytes) -> bool:
    pixel = Image.open(io.BytesIO(picture)).convert("L").getpixel(LAMP)
    return isinstance(pixel, int) and pixel > 128


def _press(stage: ClientConnection, on: bool) -> float:
    start = time.monotonic()
    at = {"x": LAMP[0], "y": LAMP[1], "button": "left", "count": 1}
    for kind in ("down", "up"):
        stage.send(json.dumps({"type": "mouse", "kind": kind, **at}))
    while True:
        message = stage.recv(timeout=10)
        came = time.monotonic()  # before the picture is decoded, which is not the stage's time
        if isinstance(message, bytes) and _lit(message) == on:
            return (came - start) * 1000


def _input_to_picture(stage: ClientConnection, page: str) -> list[float]:
    _open(stage, page + "/?still")
    _drain(stage, 1.0)
    times = []
    for number in range(PRESSES):
        times.append(_press(stage, on=number % 2 == 0))
        _drain(stage, 0.05)
    return times


def main() -> None:
    """Measure and report."""
    with a_lantern() as place, _pages() as page, _stage(place) as stage:
        rate = _pictures_per_second(stage, page)
        times = _input_to_picture(stage, page)
    say(f"slowest press {max(times):.0f} ms, fastest {min(times):.0f} ms")
    report(
        "stage",
        {
            "pictures_per_second": round(rate, 1),
            "input_to_picture_ms": round(statistics.median(times), 1),
        },
    )


if __name__ == "__main__":
    main()
