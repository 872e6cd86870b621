"""Ports on loopback."""

from __future__ import annotations

import socket


def is_free(port: int, host: str = "127.0.0.1") -> bool:
    """Tell whether a server could listen on the port."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return False
        return True


def free_port(preferred: int = 0, host: str = "127.0.0.1") -> int:
    """Return the preferred port, or one of the next twenty, or any that is free."""
    if preferred:
        for port in range(preferred, preferred + 20):
            if is_free(port, host):
                return port
    with socket.socket() as probe:
        probe.bind((host, 0))
        return int(probe.getsockname()[1])
