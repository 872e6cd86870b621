"""The tracker that ships with the demo, served to tests."""

import threading
from contextlib import contextmanager

from werkzeug.serving import make_server

from lantern.demo.slate.app import create_app, teller
from lantern.demo.slate.items import Items


@contextmanager
def slate(tells="", secret=""):
    """Serve a tracker; yields its items and its address. It tells an address what changes."""
    items = Items()
    server = make_server("127.0.0.1", 0, create_app(items, teller(tells, secret)), threaded=True)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield items, f"http://127.0.0.1:{server.server_port}"
    finally:
        server.shutdown()
        server.server_close()
