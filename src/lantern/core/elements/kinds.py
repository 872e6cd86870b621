"""Kinds of element: what a thing on a page is, decided from its facts alone."""

from __future__ import annotations

from dataclasses import dataclass

from lantern.core.elements.facts import Facts

_TEXTUAL_TYPES = frozenset(
    "text search email url tel number date time month week datetime-local color".split()
)


@dataclass(frozen=True)
class Kind:
    """One kind.

    `selector` is CSS of what is of the kind by its markup ("*" when nothing can be said),
    `unmarked` of what may be of it besides, by what it holds; `pressable` tells that a press on
    something inside it means it.
    """

    name: str
    roles: frozenset[str]
    selector: str
    pressable: bool = False
    unmarked: str = ""

    @property
    def candidates(self) -> str:
        """CSS that every node of the kind satisfies, to narrow a search by."""
        return f"{self.selector},{self.unmarked}" if self.unmarked else self.selector


def _kind(
    name: str, roles: str, selector: str, *, pressable: bool = False, unmarked: str = ""
) -> tuple[str, Kind]:
    return name, Kind(name, frozenset(roles.split()), selector, pressable, unmarked)


KINDS: dict[str, Kind] = dict(
    [
        _kind(
            "button",
            "button menuitem menuitemcheckbox menuitemradio tab treeitem switch",
            "button,summary,input[type=button],input[type=submit],input[type=reset],"
            "input[type=image],[role=button],[role=menuitem],[role=menuitemcheckbox],"
            "[role=menuitemradio],[role=tab],[role=treeitem],[role=switch]",
            pressable=True,
        ),
        _kind("link", "link", "a[href],area[href],[role=link]", pressable=True),
        _kind(
            "text box",
            "textbox searchbox spinbutton",
            "input,textarea,[contenteditable],[role=textbox],[role=searchbox],[role=spinbutton]",
            pressable=True,
        ),
        _kind("slider", "slider", "input[type=range],[role=slider]", pressable=True),
        _kind("password box", "", "input[type=password]", pressable=True),
        _kind("file box", "", "input[type=file]", pressable=True),
        _kind(
            "choice list",
            "combobox listbox",
            "select,[role=combobox],[role=listbox],input[list],[aria-haspopup=listbox]",
            pressable=True,
        ),
        _kind("option", "option", "option,[role=option]", pressable=True),
        _kind("tick box", "checkbox", "input[type=checkbox],[role=checkbox]", pressable=True),
        _kind("radio", "radio", "input[type=radio],[role=radio]", pressable=True),
        _kind(
            "table",
            "table grid treegrid",
            "table,[role=table],[role=grid],[role=treegrid],dl",
            unmarked="div,section,main,form,fieldset",
        ),
        _kind("list", "list feed", "ul,ol,[role=list],[role=feed]"),
        _kind("dialog", "dialog alertdialog", "dialog,[role=dialog],[role=alertdialog]"),
        _kind("picture", "img image", "img,svg,canvas,[role=img],[role=image]"),
        _kind("heading", "heading", "h1,h2,h3,h4,h5,h6,[role=heading]"),
        _kind("page", "", "body"),
        _kind("text", "", "*"),
    ]
)
"""All kinds by name. Adding one is one entry here."""

KIN: dict[str, tuple[str, ...]] = {
    "button": ("link",),
    "link": ("button",),
    "text": ("button", "link"),
    "text box": ("choice list",),
    "choice list": ("text box",),
    "tick box": ("button",),
}
"""What a thing of a kind becomes when it is reworked and is still the same to people."""


def candidates_of(kind: str) -> str:
    """Return CSS that every node satisfies which may be a thing of the kind, or what it became."""
    kinds = [KINDS[kind], *(KINDS[kin] for kin in KIN.get(kind, ()))]
    if any(one.selector == "*" for one in kinds):
        return "*"
    return ",".join(one.candidates for one in kinds)


_BY_ROLE = {role: kind.name for kind in KINDS.values() for role in kind.roles}
_BY_TYPE = {"password": "password box", "file": "file box"}


def kind_of(facts: Facts) -> str:
    """Return the name of the kind that a node is of; "text" for what is nothing special."""
    if facts.tag == "input":
        kind = _BY_TYPE.get(facts.attributes.get("type", "text").lower())
        if kind:
            return kind
        if facts.attributes.get("type", "text").lower() in _TEXTUAL_TYPES and not facts.role:
            return "text box"
    if facts.tag == "body":
        return "page"
    if facts.tag == "dl" or (facts.blocks > 1 and facts.role not in _BY_ROLE):
        return "table"
    if facts.attributes.get("aria-haspopup") == "listbox":
        return "choice list"
    if facts.attributes.get("contenteditable") and facts.role not in _BY_ROLE:
        return "text box"
    if facts.tag in ("svg", "canvas", "img") and facts.role not in _BY_ROLE:
        return "picture"
    return _BY_ROLE.get(facts.role, "text")


def pressable_selector() -> str:
    """Return CSS for everything that a press means as a whole, for the probe's `closest`."""
    return ",".join(kind.selector for kind in KINDS.values() if kind.pressable)


def special_selector() -> str:
    """Return CSS for all that is of a kind of its own: everything but plain text and the page."""
    return ",".join(kind.selector for kind in KINDS.values() if kind.name not in ("text", "page"))
