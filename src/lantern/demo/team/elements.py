"""The elements of the Kiln Desk that the team's tests act on, beside those of the first two."""

from __future__ import annotations

from lantern.core.elements.clues import Clue, Element
from lantern.demo.data import BOARD, ELEMENTS, QUOTE, SIGN_IN

BENCH = "Glaze bench - Kiln Desk"
RECIPES = "Recipes - Kiln Desk"
FILES = "Files - Kiln Desk"
SHELVES = "Shelves - Kiln Desk"
TICKET = "Firing no. 4"
PLATTER = "Rush platter"
"""The piece that is booked to be deleted again."""

Words = tuple[str, str]


def _element(
    key: str, name: str, kind: str, page: str, *clues: Words, spare: Words | None = None
) -> Element:
    must = tuple(Clue(fact, "is", value) for fact, value in clues)
    also = (Clue(spare[0], "is", spare[1]),) if spare else ()
    return Element(f"demo-{key}", name, kind, must, also, page)


_ALL = (
    _element("refusal", "Refusal", "text", QUOTE, ("role", "alert")),
    _element("no-entry", "Refused sign-in", "text", SIGN_IN, ("role", "alert")),
    _element("message", "Message", "text", BOARD, ("role", "status")),
    _element("find", "Find", "text box", BOARD, ("label", "Find"), spare=("id", "find")),
    _element("search", "Search", "button", BOARD, ("name", "Search")),
    _element("menu", "Menu of the caddy", "button", BOARD, ("name", "Menu"), ("row", "Tea caddy")),
    _element("ticket", "Open ticket", "link", BOARD, ("name", "Open ticket"), ("row", "Tea caddy")),
    _element("heading", "Heading", "heading", TICKET, ("role", "heading")),
    _element("menu-of-it", "Menu of it", "button", BOARD, ("name", "Menu"), ("row", PLATTER)),
    _element("delete", "Delete", "button", BOARD, ("name", "Delete"), ("row", PLATTER)),
    _element("pieces", "Pieces of the caddy", "text", BOARD,
             ("tag", "td"), ("column", "Pieces"), ("row", "Tea caddy")),
    _element("new-count", "New number of pieces", "text box", BOARD,
             ("name", "Number of pieces in the firing")),
    _element("kiln", "Kiln", "choice list", BENCH, ("name", "Kiln")),
    _element("noted", "Noted", "text", BENCH, ("name", "Noted")),
    _element("recipe", "Find a recipe", "text box", RECIPES, ("label", "Find a recipe")),
    _element("find-recipe", "Find", "button", RECIPES, ("name", "Find")),
    _element("recipes", "Recipes", "table", RECIPES, ("name", "Recipes")),
    _element("photo", "Photo", "file box", FILES, ("label", "Photo"), spare=("id", "photo")),
    _element("send", "Send the photo", "button", FILES, ("name", "Send the photo")),
    _element("given", "Photos given", "list", FILES, ("name", "Photos given")),
    _element("jar", "Moon jar", "text", SHELVES, ("text", "Moon jar")),
    _element("shelf-top", "Top shelf", "text", SHELVES, ("tag", "section"), ("name", "Top shelf")),
)  # fmt: skip

TEAM_ELEMENTS = {**ELEMENTS, **{one.id: one for one in _ALL}}
"""All elements of the sample project by id."""
