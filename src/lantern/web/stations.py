"""Where stations are, and asking one of them something."""

from __future__ import annotations

import json
from typing import Any

from websockets.exceptions import WebSocketException
from websockets.sync.client import connect

from lantern.core.problems import Problem
from lantern.core.storable import read_json
from lantern.store import stations
from lantern.store.passes import write_pass
from lantern.web.context import services


class NoStation(Problem):
    """No station can be reached."""

    code = "no_station"


def any_address() -> str:
    """Return the address of a station that is up; raises NoStation."""
    with services().database.session() as session:
        # One that joined over the network can not be reached from here.
        living = [one for one in stations.alive(session) if one.address]
        if not living:
            raise NoStation(
                "No station is up: there is no browser to show and nothing to run code in.",
                hint="Start one with: ./lantern station",
            )
        return living[0].address


def address_of(station_id: str | None) -> str:
    """Return the address of a station by its id; raises NoStation."""
    with services().database.session() as session:
        for station in stations.alive(session):
            if station.id == station_id and station.address:
                return station.address
            if station.id == station_id:
                raise NoStation(
                    f"{station.name} joined over the network: what it plays can not be watched.",
                    hint="Its sentences and pictures come as they end.",
                )
    raise NoStation("The run is not under way on any station.")


def target(address: str, content: dict[str, Any]) -> str:
    """Return where to connect to for what a pass allows."""
    return f"{address}/?pass={write_pass(content)}"


def asked(content: dict[str, Any], question: dict[str, Any], limit: float) -> dict[str, Any]:
    """Ask any station and return its answer, within `limit` seconds; raises NoStation."""
    where = target(any_address(), content)
    try:
        with connect(where, compression=None, proxy=None) as station:
            station.send(json.dumps(question))
            answer: dict[str, Any] = read_json(station.recv(limit))
    except (WebSocketException, OSError, ValueError) as error:
        raise NoStation("The station gave no answer.", hint="Try it again.") from error
    return answer
