"""The desk's workrooms: shelves, recipes, the glaze bench, files and talk, with their widgets.

Whatever a person does there is noted under the widget's name, so that `/state` tells what the
application knows in the end; a test that is played again must lead to the same.
"""

from __future__ import annotations

import json
import threading
from datetime import date
from urllib.parse import urlsplit

from flask import Flask, Response, abort, jsonify, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as AnyResponse

from lantern.demo.desk.state import Desk

Answer = str | Response | AnyResponse
LARGEST_FILE = 2 * 1024 * 1024
"""Bytes of the largest file that the desk takes."""

PIECES = ("Moon jar", "Tea caddy", "Ash tile", "Roof finial")
SHELVES = ("Top shelf", "Middle shelf", "Bottom shelf")
FINISHES = (
    "Matt", "Satin", "Gloss", "Crackle", "Crystalline", "Celadon", "Shino", "Tenmoku", "Ash",
    "Salt", "Oribe", "Majolica",
)  # fmt: skip
JARS = (("Celadon", "4", "Top"), ("Tenmoku", "2.5", "Middle"), ("Ash white", "7", "Bottom"))
RECIPES = (
    ("River celadon", "Celadon", "9"),
    ("Iron tenmoku", "Tenmoku", "10"),
    ("Snow shino", "Shino", "8"),
    ("Copper oribe", "Oribe", "6"),
    ("Pine ash", "Ash", "10"),
)
CONES = (("06", "999 °C"), ("04", "1060 °C"), ("1", "1154 °C"), ("6", "1222 °C"), ("10", "1305 °C"))
LOADING = 1.2
"""Seconds that the list of kilns takes to load."""


def add_workrooms(app: Flask, desk: Desk) -> None:
    """Add the pages of the workrooms to the desk."""
    _rooms(app, desk)
    _frames(app)
    _files(app, desk)
    _trouble(app)


def _rooms(app: Flask, desk: Desk) -> None:
    @app.get("/shelves")
    def shelves() -> Answer:
        placed = {piece: desk.said.get(f"shelf of {piece}", "") for piece in PIECES}
        return render_template("shelves.html", pieces=placed, shelves=SHELVES)

    @app.get("/bench")
    def bench() -> Answer:
        return render_template("bench.html", finishes=FINISHES, jars=JARS, today=date.today())

    @app.get("/talk")
    def talk() -> Answer:
        return render_template("talk.html")

    @app.get("/chart")
    def chart() -> Answer:
        return render_template("chart.html", cones=CONES)

    @app.get("/kilns")
    def kilns() -> Answer:
        threading.Event().wait(LOADING)
        return jsonify(kilns=["Big Ember", "Little Ember"])

    @app.post("/note")
    def note() -> Answer:
        """Note what a widget was set to."""
        said = request.get_json()
        desk.note(str(said["what"]), str(said["value"]), float(said.get("at") or 0))
        return jsonify(done=True)

    @app.get("/state")
    def state() -> Answer:
        """What the desk knows: the test of whether a story was repeated faithfully."""
        firings = [
            [f.number, f.piece, f.clay, f.cone, f.count, f.price, f.member] for f in desk.firings
        ]
        return Response(
            json.dumps({"said": desk.said, "firings": firings}, sort_keys=True),
            mimetype="application/json",
        )


def _frames(app: Flask) -> None:
    @app.get("/recipes")
    def recipes() -> Answer:
        here = urlsplit(request.host_url)
        other = {"127.0.0.1": "localhost", "localhost": "127.0.0.1"}.get(here.hostname or "", "")
        elsewhere = f"http://{other}:{here.port}" if other else ""
        return render_template("recipes.html", elsewhere=elsewhere)

    @app.get("/recipes/library")
    def library() -> Answer:
        wanted = request.args.get("find", "").lower()
        found = [one for one in RECIPES if wanted in " ".join(one).lower()]
        return render_template("library.html", recipes=found, wanted=wanted)

    @app.get("/recipes/notes")
    def recipe_notes() -> Answer:
        return render_template("recipe_notes.html")

    @app.get("/recipes/supplier")
    def supplier() -> Answer:
        return render_template("supplier.html")


def _files(app: Flask, desk: Desk) -> None:
    @app.route("/files", methods=["GET", "POST"])
    def files() -> Answer:
        if request.method == "GET":
            return render_template("files.html", names=desk.files, message="")
        given = [one for one in request.files.getlist("photo") if one.filename]
        if not given:
            return render_template("files.html", names=desk.files, message="Choose a file first.")
        for one in given:
            content = one.read(LARGEST_FILE + 1)
            if len(content) > LARGEST_FILE:
                message = f"{one.filename} is larger than 2 MB."
                return render_template("files.html", names=desk.files, message=message)
            desk.give_file(str(one.filename), len(content))
        return redirect(url_for("files"))

    @app.get("/files/price-list.csv")
    def price_list() -> Answer:
        lines = ["shelf,litres,cone 6", "Small,4,2.40", "Medium,9,5.40", "Large,16,9.60"]
        return Response(
            "\n".join(lines) + "\n",
            mimetype="text/csv",
            headers={"Content-Disposition": 'attachment; filename="price-list.csv"'},
        )


def _trouble(app: Flask) -> None:
    @app.get("/broken")
    def broken() -> Answer:
        """A page that answers with an error, on demand."""
        abort(500)

    @app.get("/noisy")
    def noisy() -> Answer:
        """A page whose script fails, on demand."""
        return render_template("noisy.html")
