"""Live connections: events, and the relay between a person's page and a station."""

from __future__ import annotations

import contextlib
import json
import threading
from typing import Any

from flask import Flask, request
from flask_sock import Sock
from simple_websocket import ConnectionClosed as ClientGone
from simple_websocket import Server
from websockets.exceptions import WebSocketException
from websockets.sync.client import ClientConnection, connect

from lantern.core.problems import Problem
from lantern.store import accounts, tests
from lantern.store.models import Cast
from lantern.web import presence, stations
from lantern.web.context import Forbidden, me, services, signed_in
from lantern.web.watching import Watching


def init_app(app: Flask) -> None:
    """Attach the live connections."""
    app.config["SOCK_SERVER_OPTIONS"] = {"ping_interval": 20, "max_message_size": 48 * 1024 * 1024}
    sock = Sock(app)

    # A socket, not a stream of events: browsers open only six plain connections to one server,
    # so that the seventh tab of a person would hang.
    @sock.route("/api/live/events")  # type: ignore[untyped-decorator]
    def events(socket: Server) -> None:
        with _said(socket), _counted(socket):
            hub = services().hub
            watching = Watching(hub.following.begun)
            person = presence.Person(me().id, me().name)
            given = (socket, services().database, person, watching, hub.present)
            threading.Thread(target=presence.listen, args=given, daemon=True).start()
            for notice in hub.notices(watching):
                if not socket.connected:
                    return
                if notice is not None:
                    socket.send(notice)

    @sock.route("/api/live/stage/<int:test_id>")  # type: ignore[untyped-decorator]
    def stage(socket: Server, test_id: int) -> None:
        with _said(socket), _counted(socket):
            if me().role == "viewer":
                raise Forbidden("A viewer can not use a stage.")
            with services().database.session() as session:
                tests.get(session, test_id)
            content = {"test": test_id, "account": me().id, "name": me().name}
            of = request.args.get("of", type=int)  # the stage of somebody else, to look on
            _relay(socket, stations.any_address(), content | ({"of": of} if of else {}))

    @sock.route("/api/live/cast/<int:cast_id>")  # type: ignore[untyped-decorator]
    def watch(socket: Server, cast_id: int) -> None:
        with _said(socket), _counted(socket):
            with services().database.session() as session:
                cast = session.get(Cast, cast_id)
            address = stations.address_of(cast.station_id if cast else None)
            content = {"cast": cast_id, "account": me().id, "name": me().name}
            _relay(socket, address, content)


def _counted(socket: Server) -> contextlib.AbstractContextManager[None]:
    """Count a connection as one of who is signed in, and end it when they are not any more."""
    hub = services().hub
    hub.start()
    return hub.sockets.counted(socket, me().id, accounts.mark_of(signed_in()))


class _said(contextlib.AbstractContextManager[None]):  # noqa: N801 - reads as a word
    """Says what goes wrong over the socket, before it closes."""

    def __init__(self, socket: Server) -> None:
        self._socket = socket

    def __exit__(self, _kind: object, error: BaseException | None, _trace: object) -> bool:
        if error is None or isinstance(error, ClientGone):
            return True
        if isinstance(error, Problem):
            body = {"type": "refused", "message": error.message, "hint": error.hint}
        elif isinstance(error, WebSocketException | OSError):
            body = {
                "type": "refused",
                "message": "The station can not be reached.",
                "hint": "It may be starting again; this page keeps trying.",
            }
        else:
            return False
        with contextlib.suppress(ClientGone):
            self._socket.send(json.dumps(body))
        return True


def _relay(socket: Server, address: str, content: dict[str, Any]) -> None:
    """Pass messages between the person's page and the station until one of them goes."""
    where = stations.target(address, content)
    with connect(where, compression=None, max_size=None, proxy=None) as station:
        pump = threading.Thread(target=_pump_out, args=(station, socket), daemon=True)
        pump.start()
        try:
            while True:
                message = socket.receive()
                if message is not None:
                    station.send(message)
        finally:
            station.close()
            pump.join(2)


def _pump_out(station: ClientConnection, socket: Server) -> None:
    try:
        for message in station:
            socket.send(message)
        reason = station.close_reason or ""
        if reason:
            socket.send(json.dumps({"type": "refused", "message": reason, "hint": ""}))
    except (WebSocketException, OSError, ClientGone):
        pass
    with contextlib.suppress(ClientGone, OSError):
        socket.close()
