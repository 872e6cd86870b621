"""Asking for code of people to be run."""

from __future__ import annotations

from collections.abc import Mapping

from lantern.core.engine.requests import RunCode
from lantern.core.problems import UnknownName
from lantern.core.steps.code import signature
from lantern.core.values.sources import Names
from lantern.core.values.templates import resolve


def code_request(source: str, given: Mapping[str, str], limit: float) -> RunCode:
    """Return the request to run a source's function with inputs as text, for `limit` seconds.

    Raises BadInput for what is wrong with the source.
    """
    offers = signature(source)
    types = {one.name: kind for one, kind in zip(offers.takes, offers.types, strict=True)}
    return RunCode(source, offers.function, types, dict(given), limit)


def trial(source: str, given: Mapping[str, str], names: Names, limit: float) -> RunCode:
    """Return the request to try a source: inputs that are not given have their defaults.

    Raises BadInput for the source, UnknownName for an input that it does not take.
    """
    takes = {one.name: one.default for one in signature(source).takes}
    for name in given:
        if name not in takes:
            raise UnknownName("input", name, takes)
    filled = {name: resolve(value, names) for name, value in (takes | dict(given)).items()}
    return code_request(source, filled, limit)
