"""Addresses as people and pages write them: also such as no standard allows."""

from __future__ import annotations

from urllib.parse import SplitResult, urljoin, urlsplit


def parts_of(address: str) -> SplitResult:
    """Return the parts of an address; all of it is the path where it is none, as `http://[::1`."""
    try:
        return urlsplit(address)
    except ValueError:
        return SplitResult("", "", address, "", "")


def joined(base: str, address: str) -> str:
    """Return an address as it leads from a base; what is no address stays as it is."""
    try:
        return urljoin(base, address)
    except ValueError:
        return address
