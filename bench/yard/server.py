"""The small server of the yard: pages, their libraries, their state, a reset."""

from __future__ import annotations

import json
import logging
import re
import threading
import time
from pathlib import Path
from typing import Any

from flask import Flask, Response, abort, jsonify, redirect, request, send_from_directory
from flask_sock import Sock
from werkzeug.serving import make_server

HERE = Path(__file__).parent
FIRST = {"turbo": "turbo-name"}
"""Pages that begin with another."""
KILNS = ["Little Ember", "Big Bertha", "Old Salt", "Raku barrel", "Test kiln", "Night kiln"]
GLAZES = ["Celadon", "Tenmoku", "Shino", "Snow shino", "Chun", "Ash", "Copper red", "Oribe"]


class State:
    """What the pages say of themselves, by page and key; a reset begins a new epoch."""

    def __init__(self) -> None:
        self.epoch = 1
        self.pages: dict[str, dict[str, Any]] = {}

    def reset(self) -> None:
        """Forget everything; what pages of before still say is not listened to."""
        self.epoch += 1
        self.pages = {}

    def of(self, page: str) -> dict[str, Any]:
        """Return the state of a page, to be read and changed."""
        return self.pages.setdefault(page, {})


def _shell(page: str, content: str, state: State, base: str) -> str:
    title = re.search(r"<title>.*?</title>", content)
    head = title.group(0) if title else f"<title>{page}</title>"
    says = json.dumps({"page": page, "epoch": state.epoch, "base": base})
    content = content.replace("{{other}}", base.replace("127.0.0.1", "localhost"))
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8">{head}'
        f"<script>window.yardSays = {says}</script>"
        '<script src="/yard.js"></script><link rel="stylesheet" href="/yard.css"></head>'
        f"<body>{content.replace(head, '', 1)}</body></html>"
    )


def create_app() -> Flask:
    """Make the application."""
    app = Flask("yard", static_folder=None)
    sock = Sock(app)
    state = State()
    app.config["state"] = state

    def shown(page: str, content: str) -> Response:
        text = _shell(page, content, state, request.host.replace("localhost", "127.0.0.1"))
        return Response(text, headers={"Cache-Control": "no-store"})

    @app.get("/<any('yard.js', 'yard.css'):name>")
    def own(name: str) -> Any:  # noqa: ANN401 - as Flask has it
        return send_from_directory(HERE, name)

    @app.get("/lib/<path:name>")
    def library(name: str) -> Any:  # noqa: ANN401 - as Flask has it
        return send_from_directory(HERE / "node_modules", name, max_age=3600)

    @app.get("/built/<path:name>")
    def built(name: str) -> Any:  # noqa: ANN401 - as Flask has it
        return send_from_directory(HERE / "built", name)

    @app.get("/state")
    def tell_state() -> Any:  # noqa: ANN401 - as Flask has it
        page = request.args.get("page", "")
        return jsonify(state.of(page) if page else state.pages)

    @app.post("/reset")
    def reset() -> Response:
        state.reset()
        return jsonify({"epoch": state.epoch})

    @sock.route("/tell")  # type: ignore[untyped-decorator]
    def tell(socket: Any) -> None:  # noqa: ANN401 - flask-sock has no types
        while True:
            said = json.loads(socket.receive())
            if said["epoch"] == state.epoch:
                state.of(said["page"])[said["key"]] = said["value"]

    @app.get("/page/<name>")
    def page(name: str) -> Any:  # noqa: ANN401 - as Flask has it
        name = FIRST.get(name, name)
        html, module = HERE / "pages" / f"{name}.html", HERE / "src" / f"{name}.jsx"
        if html.exists():
            return shown(name.partition("-name")[0], html.read_text(encoding="utf-8"))
        if module.exists():
            title = name.replace("-", " ").capitalize()
            return shown(
                name,
                f"<title>{title}</title><div id=root></div>"
                f'<script type=module src="/built/{name}.js"></script>',
            )
        return abort(404)

    _served(app, state, shown)
    return app


def _served(app: Flask, state: State, shown: Any) -> None:  # noqa: ANN401 - a local function
    """Add what pages get from their server while they are used."""

    @app.get("/kilns")
    def kilns() -> Response:
        term = request.args.get("q", "").lower()
        time.sleep(0.15)
        found = [{"id": name, "text": name} for name in KILNS if term in name.lower()]
        return jsonify({"results": found})

    @app.get("/late/<path:name>")
    def late(name: str) -> Any:  # noqa: ANN401 - as Flask has it
        time.sleep(float(request.args.get("s", 1.5)))
        return shown(name, (HERE / "pages" / f"{name}.html").read_text(encoding="utf-8"))

    @app.get("/glazes/<int:first>")
    def glazes(first: int) -> Response:
        time.sleep(0.2)
        return jsonify([f"Test tile {n}" for n in range(first, min(first + 20, 200))])

    @app.get("/file/<name>")
    def file(name: str) -> Response:
        state.of("downloads")[name] = state.of("downloads").get(name, 0) + 1
        return Response(
            "piece,price\nbowl,12\n",
            headers={"Content-Disposition": f"attachment; filename={name}"},
            mimetype="text/csv",
        )

    @app.route("/parts/<part>", methods=["GET", "POST", "DELETE"])
    def parts(part: str) -> str:
        """Give pieces of pages, as pages ask for that swap them in."""
        own = state.of("htmx")
        if part == "add":
            own.setdefault("jars", []).append(request.form.get("jar", ""))
        if part == "drop":
            own["jars"] = [jar for jar in own.get("jars", []) if jar != request.args.get("jar")]
        if part == "note":
            own["note"] = request.form.get("note", "")
            return f"<p role=status>Kept: {own['note']}</p>"
        if part == "edit":
            return (
                '<form hx-post="/parts/note" hx-target="#note"><label>Note '
                "<input name=note></label> <button>Keep note</button></form>"
            )
        time.sleep(0.1)
        return "".join(
            f'<li>{jar} <button hx-get="/parts/drop?jar={jar}" hx-target="#jars">Drop</button></li>'
            for jar in own.get("jars", [])
        )

    @app.route("/turbo/<step>", methods=["GET", "POST"])
    def turbo(step: str) -> Any:  # noqa: ANN401 - as Flask has it
        own = state.of("turbo")
        if request.method == "POST":
            own.update(request.form.to_dict())
            target = {"name": "shelf", "shelf": "done"}[step]
            return redirect(f"/turbo/{target}", 303)
        text = (HERE / "pages" / f"turbo-{step}.html").read_text(encoding="utf-8")
        return shown("turbo", text.replace("{{piece}}", str(own.get("piece", ""))))


class Yard:
    """The yard's server on a free port of loopback; ends with `stop`."""

    def __init__(self) -> None:
        logging.getLogger("werkzeug").setLevel(logging.ERROR)
        app = create_app()
        self.state: State = app.config["state"]
        self._server = make_server("127.0.0.1", 0, app, threaded=True)
        self.address = f"http://127.0.0.1:{self._server.server_port}"
        threading.Thread(target=self._server.serve_forever, daemon=True).start()

    def stop(self) -> None:
        """End the server."""
        self._server.shutdown()
