"""The pages on which the mails are shown, and the process that runs both sides."""

from __future__ import annotations

import os
import re
from contextlib import suppress

from flask import Flask, Response, abort, redirect, render_template, request
from werkzeug.wrappers import Response as AnyResponse

from lantern.demo.post.box import Box, listening

SHUT = "default-src 'none'; img-src data:; style-src 'unsafe-inline'; sandbox"
"""What a mail may do when it is looked at: show itself."""
REFUSAL = re.compile(r"[45]\d\d [ -~]{1,100}")


def create_app(box: Box) -> Flask:
    """Return the pages of a box."""
    app = Flask(__name__)

    @app.get("/")
    def all_mails() -> str:
        return render_template("mails.html", mails=box.all(), refusal=box.refusal)

    @app.get("/mails.json")
    def as_json() -> dict[str, object]:
        return {"mails": [one.as_json() for one in box.all()]}

    @app.get("/mails/<int:number>")
    def one_mail(number: int) -> str:
        one = box.get(number) or abort(404)
        return render_template("mail.html", one=one)

    @app.get("/mails/<int:number>/html")
    def html_of(number: int) -> Response:
        one = box.get(number) or abort(404)
        answer = Response(one.html(), mimetype="text/html")
        answer.headers["Content-Security-Policy"] = SHUT
        return answer

    @app.post("/refusal")
    def refuse() -> AnyResponse:
        """Refuse mails from now on with an answer such as “451 Try later”; "" takes them again."""
        said = request.form.get("answer", "").strip()
        if said and not REFUSAL.fullmatch(said):
            abort(400)
        box.refusal = said
        return redirect("/")

    @app.get("/health")
    def health() -> dict[str, str]:
        return {"status": "ok"}

    return app


def serve() -> Flask:
    """Return the pages for gunicorn, with the SMTP side on the port KEPT_MAILS_SMTP."""
    box = Box()
    with suppress(KeyError):
        listening(box, int(os.environ["KEPT_MAILS_SMTP"]))
    return create_app(box)
