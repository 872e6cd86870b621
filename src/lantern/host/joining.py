"""`lantern station --join ADDRESS`: a station of a Lantern elsewhere."""

from __future__ import annotations

import socket
from dataclasses import dataclass
from pathlib import Path

from lantern import account
from lantern.client.talk import Refused, Unreached
from lantern.host.setup import say
from lantern.station.joined import JoinedStation, NotJoined, join
from lantern.station.joined.service import is_private
from lantern.store import logs

PASSED, COULD_NOT = 0, 2


@dataclass(frozen=True)
class Asked:
    """What the command was given; without a token who joined from the folder before goes on."""

    address: str
    token: str
    name: str | None
    places: int
    folder: Path
    in_clear: bool


def run_joined(asked: Asked) -> int:
    """Join where a token is given, and be a station until Ctrl-C; returns the exit code."""
    if not is_private(asked.address) and not asked.in_clear:
        say(
            f"{asked.address} is not private: secrets of tests would go there in clear. "
            "Give an address that begins with https://, or --in-clear."
        )
        return COULD_NOT
    logs.configure()
    try:
        folder = asked.folder.resolve()
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        if account.shut_at(folder.parent) is None:  # else it can not be entered as anybody else
            account.give(folder)
            for file in folder.iterdir():
                account.give(file)
            account.become()
        if asked.token:
            join(
                folder, asked.address, asked.token, asked.name or socket.gethostname(), asked.places
            )
            say(f"Joined {asked.address}.")
        JoinedStation(folder, asked.address).run()
    except (NotJoined, Refused, Unreached, OSError) as error:
        say(str(error))
        return COULD_NOT
    return PASSED
