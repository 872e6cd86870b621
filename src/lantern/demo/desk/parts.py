"""Marks that tell which part of a page is which, whatever the release: truth for measuring."""

from __future__ import annotations

from collections.abc import Callable

from markupsafe import Markup, escape


def part_marker(on: bool) -> Callable[[str], Markup]:
    """Return the function that templates mark parts with: an attribute, or nothing when off."""

    def part(name: str) -> Markup:
        return Markup(' data-part="{}"').format(escape(name)) if on else Markup("")

    return part
