"""A station that joined over the network: it reaches nothing but the web's address."""

from lantern.station.joined.service import JoinedStation, NotJoined, join

__all__ = ["JoinedStation", "NotJoined", "join"]
