"""The desk's pages."""

from __future__ import annotations

import os
import secrets
import threading
from datetime import date
from pathlib import Path

from flask import (
    Flask,
    Response,
    flash,
    jsonify,
    redirect,
    render_template,
    request,
    session,
    url_for,
)
from jinja2 import FileSystemLoader
from werkzeug.wrappers import Response as AnyResponse

from lantern.demo.desk import rules
from lantern.demo.desk.parts import part_marker
from lantern.demo.desk.state import ACCOUNTS, FAULTS, RELEASES, Account, Desk, Firing, next_open_day
from lantern.demo.desk.widgets import add_workrooms

HERE = Path(__file__).parent
SLOW_SIGN_IN = 2.5
"""Seconds that a slow account takes to get in."""

OPEN = frozenset(
    "sign_in health reset static releases state library recipe_notes supplier broken noisy".split()
)
PER_PAGE = 10
SORTABLE = ("number", "piece", "clay", "cone", "count", "drop_off")
Answer = str | Response | AnyResponse


def create_app(release: str = "spring", *, mark_parts: bool = False) -> Flask:
    """Return the desk's application, starting with a release.

    With `mark_parts` the pages say which part is which in every release: the truth against which
    recognising is measured. No clue ever looks at it.
    """
    if release not in RELEASES:
        raise ValueError(f"There is no release {release!r}. Known: {', '.join(RELEASES)}.")
    app = Flask(__name__, template_folder=None)
    app.secret_key = secrets.token_bytes(16)
    app.config["SESSION_COOKIE_NAME"] = "emberhall"
    desk = Desk(release)
    loaders = {
        name: FileSystemLoader([HERE / "templates" / folder for folder in folders])
        for name, folders in {
            "spring": ["spring"],
            "summer": ["summer", "spring"],
            "autumn": ["spring"],
        }.items()
    }
    app.extensions["desk"] = desk

    @app.before_request
    def choose_release() -> Answer | None:
        app.jinja_env.loader = loaders[desk.release]
        if "user" not in session and request.endpoint not in OPEN:
            return redirect(url_for("sign_in"))
        return None

    @app.context_processor
    def shared() -> dict[str, object]:
        return {
            "release": desk.release,
            "user": _user(),
            "rules": rules,
            "part": part_marker(mark_parts),
        }

    app.jinja_env.cache = None  # releases share names of templates
    _sign_in(app)
    _quote(app, desk)
    _board(app, desk)
    _switches(app, desk)
    add_workrooms(app, desk)
    return app


def _user() -> Account | None:
    return ACCOUNTS.get(session.get("user", ""))


def _tier() -> str:
    user = _user()
    return user.tier if user else "guest"


def _sign_in(app: Flask) -> None:
    @app.route("/sign-in", methods=["GET", "POST"])
    def sign_in() -> Answer:
        if request.method == "GET":
            return render_template("sign_in.html", message="")
        name = request.form.get("member", "").strip().lower()
        account = ACCOUNTS.get(name)
        if not name:
            return render_template("sign_in.html", message="Please enter your member name.")
        if account is None:
            return render_template("sign_in.html", message=f"We know no member “{name}”.")
        if account.password != request.form.get("password"):
            return render_template("sign_in.html", message="That password is not right.")
        if account.slow:
            threading.Event().wait(SLOW_SIGN_IN)
        session["user"] = name
        return redirect(url_for("quote"))

    @app.post("/sign-out")
    def sign_out() -> Answer:
        session.clear()
        return redirect(url_for("sign_in"))


def _read_ask() -> tuple[rules.Ask | None, list[str]]:
    """Read the quote form; returns what is asked for, or what is wrong with the form."""
    form = request.form
    wrong = []
    try:
        count = int(form.get("count", ""))
    except ValueError:
        wrong.append("The number of pieces is not a number.")
        count = 0
    try:
        drop_off = date.fromisoformat(form.get("drop_off", ""))
    except ValueError:
        wrong.append("Choose the day on which you drop the pieces off.")
        drop_off = date.today()
    for name, known in (("clay", rules.CLAYS), ("cone", rules.RATES), ("shelf", rules.SHELVES)):
        if form.get(name, "") not in known:
            wrong.append(f"Choose a {name}.")
    if wrong:
        return None, wrong
    return (
        rules.Ask(
            form.get("piece", ""),
            form["clay"],
            form["cone"],
            form.get("glaze", "None"),
            count,
            form["shelf"],
            drop_off,
            "rush" in form,
        ),
        [],
    )


def _price(ask: rules.Ask, desk: Desk) -> str:
    return f"€ {rules.price(ask, _tier(), forget_rush='price' in desk.faults)}"


def _quote(app: Flask, desk: Desk) -> None:
    def page(**more: object) -> str:
        day = request.form.get("drop_off") or next_open_day(date.today()).isoformat()
        return render_template("quote.html", form=request.form, day=day, **more)

    @app.route("/")
    @app.route("/quote", methods=["GET", "POST"])
    def quote() -> Answer:
        if request.method == "GET":
            return page(price="", reasons=[])
        ask, reasons = _read_ask()
        reasons = reasons or (rules.refusals(ask, date.today()) if ask else [])
        return page(price="" if reasons or ask is None else _price(ask, desk), reasons=reasons)

    @app.post("/book")
    def book() -> Answer:
        ask, reasons = _read_ask()
        reasons = reasons or (rules.refusals(ask, date.today()) if ask else [])
        if reasons or ask is None:
            return page(price="", reasons=reasons)
        user = _user()
        booked = desk.book(
            Firing(
                0,
                ask.piece.strip(),
                ask.clay,
                ask.cone,
                ask.count,
                ask.drop_off,
                _price(ask, desk),
                user.name if user else "",
            )
        )
        flash(f"Firing no. {booked.number} is booked.")
        return redirect(url_for("board"))


def _board(app: Flask, desk: Desk) -> None:
    @app.get("/board")
    def board() -> Answer:
        order = request.args.get("sort", "number")
        wanted = request.args.get("find", "").strip()
        firings = [
            one
            for one in desk.firings
            if wanted.lower() in f"{one.piece} {one.clay} {one.member}".lower()
        ]
        if order in SORTABLE:
            firings.sort(key=lambda one: getattr(one, order))
        pages = max(1, -(-len(firings) // PER_PAGE))
        page = min(max(request.args.get("page", 1, type=int), 1), pages)
        shown = firings[(page - 1) * PER_PAGE : page * PER_PAGE]
        return render_template(
            "board.html", firings=shown, order=order, wanted=wanted, page=page, pages=pages
        )

    @app.post("/board/<int:number>/count")
    def change_count(number: int) -> Answer:
        desk.change_count(number, request.get_json()["count"])
        return jsonify(done=True)

    @app.post("/board/<int:number>/delete")
    def delete(number: int) -> Answer:
        gone = desk.delete(number)
        if gone and "silent delete" not in desk.faults:
            flash(f"The firing of {gone.piece} was deleted.")
        return redirect(url_for("board"))

    @app.get("/ticket/<int:number>")
    def ticket(number: int) -> Answer:
        firing = next((one for one in desk.firings if one.number == number), None)
        if firing is None:
            return render_template("missing.html", number=number), 404  # type: ignore[return-value]
        return render_template("ticket.html", firing=firing)


def _switches(app: Flask, desk: Desk) -> None:
    @app.get("/health")
    def health() -> Answer:
        return jsonify(status="ok", release=desk.release)

    @app.post("/reset")
    def reset() -> Answer:
        """Put all data back; `release` and `faults` (several) may be given as form values."""
        release = request.values.get("release")
        if release is not None and release not in RELEASES:
            return jsonify(error=f"unknown release {release}"), 422  # type: ignore[return-value]
        desk.reset(release)
        return jsonify(status="ok", release=desk.release, firings=len(desk.firings))

    @app.route("/releases", methods=["GET", "POST"])
    def releases() -> Answer:
        """The switch page: which release runs, and single faults."""
        if request.method == "POST":
            if request.form.get("release") in RELEASES:
                desk.reset(request.form["release"])
            else:
                desk.faults = {name for name in FAULTS if name in request.form.getlist("fault")}
            return redirect(url_for("releases"))
        return render_template("releases.html", releases=RELEASES, faults=FAULTS, on=desk.faults)


def serve() -> Flask:
    """Return the application for gunicorn, with the release that KILN_DESK_RELEASE names."""
    return create_app(
        os.environ.get("KILN_DESK_RELEASE", "spring"),
        mark_parts=bool(os.environ.get("KILN_DESK_PARTS")),
    )
