"""The tracker's pages, its REST side, and what it tells to others."""

from __future__ import annotations

import hmac
import json
import os
import time
import urllib.request
from collections.abc import Callable
from http import HTTPStatus
from pathlib import Path
from threading import Thread
from typing import Any

from flask import Flask, abort, redirect, render_template, request
from werkzeug.wrappers import Response as AnyResponse

from lantern.demo.slate.items import STATES, WEIGHTS, Item, Items

Tell = Callable[[Item], None]
"""Tells somebody that an item changed."""
TOKEN = "emberhall-slate"  # noqa: S105 - printed with the demo, so it is no secret
LIMIT = 5.0


def create_app(items: Items, tell: Tell, token: str = TOKEN) -> Flask:
    """Return the tracker; its REST side lets in who sends the token."""
    app = Flask(__name__)

    def found(key: str) -> Item:
        return items.get(key) or abort(HTTPStatus.NOT_FOUND)

    def let_in() -> None:
        said = request.headers.get("Authorization", "").encode()
        if not hmac.compare_digest(said, f"Bearer {token}".encode()):
            abort(HTTPStatus.UNAUTHORIZED)

    def body() -> dict[str, Any]:
        raw = request.get_json()
        return raw if isinstance(raw, dict) else abort(HTTPStatus.BAD_REQUEST)

    def shape(item: Item) -> dict[str, Any]:
        own = {"id": item.id, "url": f"{request.host_url}items/{item.id}"}
        return {**item.values, **own, "made_at": item.made_at, "comments": item.comments}

    @app.get("/")
    def all_items() -> str:
        wanted = request.args.get("state", "")
        shown = [one for one in items.all() if wanted in ("", one.state)]
        return render_template("items.html", items=shown, states=STATES, wanted=wanted)

    @app.get("/items/<key>")
    def one_item(key: str) -> str:
        return render_template("item.html", item=found(key), states=STATES, weights=WEIGHTS)

    @app.get("/new")
    def new_item() -> str:
        return render_template("item.html", item=None, states=STATES, weights=WEIGHTS)

    @app.post("/new")
    def make_by_form() -> AnyResponse:
        made = items.make(request.form.to_dict())
        return redirect(f"/items/{made.id}")

    @app.post("/items/<key>")
    def change_by_form(key: str) -> AnyResponse:
        item = found(key)
        values = request.form.to_dict()
        text = values.pop("comment", "").strip()
        items.change(item, values)
        if text:
            items.comment(item, "Slate", text)
        tell(item)
        return redirect(f"/items/{key}")

    @app.get("/api/items")
    def list_items() -> dict[str, Any]:
        let_in()
        return {"items": [shape(one) for one in items.all()]}

    @app.post("/api/items")
    def make_item() -> tuple[dict[str, Any], int]:
        let_in()
        values = body()
        if not str(values.get("title", "")).strip():
            return {"error": "An item needs a title."}, HTTPStatus.UNPROCESSABLE_ENTITY
        made = items.make(values, request.headers.get("Idempotency-Key", ""))
        return shape(made), HTTPStatus.CREATED

    @app.get("/api/items/<key>")
    def get_item(key: str) -> dict[str, Any]:
        let_in()
        return shape(found(key))

    @app.patch("/api/items/<key>")
    def change_item(key: str) -> dict[str, Any]:
        let_in()
        item = found(key)
        items.change(item, body())
        return shape(item)

    @app.post("/api/items/<key>/comments")
    def comment_on(key: str) -> tuple[dict[str, Any], int]:
        let_in()
        said = body()
        author, text = str(said.get("author", "")), str(said.get("text", ""))
        items.comment(found(key), author, text, request.headers.get("Idempotency-Key", ""))
        return {"comments": found(key).comments}, HTTPStatus.CREATED

    @app.get("/health")
    def health() -> dict[str, str]:
        return {"status": "ok"}

    return app


def teller(address: str, secret: str) -> Tell:
    """Return what tells an address, signed, that an item changed; in the background."""

    def tell(item: Item) -> None:
        Thread(target=_post, args=(address, secret, item.id), daemon=True).start()

    return tell if address else lambda _: None


def _post(address: str, secret: str, key: str) -> None:
    body, at = json.dumps({"id": key}).encode(), int(time.time())
    signed = hmac.new(secret.encode(), f"{at}.".encode() + body, "sha256").hexdigest()
    headers = {
        "Content-Type": "application/json",
        "Lantern-Time": str(at),
        "Lantern-Signature": f"sha256={signed}",
    }
    ask = urllib.request.Request(address, body, headers)  # noqa: S310 - the demo's own address
    try:
        urllib.request.urlopen(ask, timeout=LIMIT).close()  # noqa: S310
    except OSError as error:  # it is asked what changed after a while anyway
        print(f"{address} was not told of {key}: {error}")


def serve() -> Flask:
    """Return the tracker for gunicorn: items in SLATE_FILE, changes told to SLATE_TELLS."""
    file = os.environ.get("SLATE_FILE")
    items = Items(Path(file) if file else None)
    tells, secret = os.environ.get("SLATE_TELLS", ""), os.environ.get("SLATE_SECRET", "")
    return create_app(items, teller(tells, secret))
