"""Why an element is not found on the page that is shown: it is not the one, or it waits."""

from __future__ import annotations

import re
from collections.abc import Iterator
from urllib.parse import urlsplit

from lantern.core.elements.facts import Facts
from lantern.core.elements.repair import explained, found_by
from lantern.core.searching.looked import Answer, Looked
from lantern.core.searching.naming import said
from lantern.core.steps.actions.navigating import title_pattern

_ERROR = re.compile(
    r"\b(?:4[01][0-9]|50[0-9]|not found|error|went wrong|unavailable|forbidden|denied)\b",
    re.IGNORECASE,
)


def asks(looked: Looked) -> Iterator[Answer]:
    """Tell of a question of the page that waits for its answer."""
    if looked.dialog is not None:
        told = f"The page asks “{looked.dialog}” and waits for an answer."
        label = "Answer it with OK before this sentence"
        yield Answer("dialog", told, 0.99, (), "answer dialog", label, {"answer": "OK"})


def wrong_page(looked: Looked) -> Iterator[Answer]:
    """Tell of a page that is another: a sign-in page, an error page, or any other."""
    if looked.is_it or len(looked.found) > 1 or looked.dialog is not None:
        return
    other = other_title(looked)
    wanted = looked.wanted_title or "another page"
    doubt = 1.0 - 0.7 * max((one.score for one in looked.proposals), default=0.0)
    passwords = [facts for facts in looked.nodes if _asks_password(facts)]
    knew = _knew_password(looked)
    if passwords and (other or not knew):
        told = f"The stage shows a sign-in page (“{looked.title}”) instead of “{wanted}”."
        flow = looked.flow_that_signs_in
        act = ("sign in", "Sign in again before this sentence", {"flow": flow}) if flow else ()
        share = (0.85 if knew else 0.97 if other else 0.7) * doubt
        yield Answer("sign in", told, share, tuple(passwords[:1]), *act)
    error = _error_in(looked)
    if error and other:
        told = f"The stage shows an error page: “{error}”."
        yield Answer("error page", told, 0.96 * doubt)
    if other:
        told = f"The stage shows “{looked.title or 'nothing'}”; the sentence belongs to “{wanted}”."
        yield Answer("other page", told, 0.8 * doubt)
    elif looked.wanted_address and path_of(looked.wanted_address) != path_of(looked.address):
        told = (
            f"The stage is at {path_of(looked.address)}; the sentence was played at "
            f"{path_of(looked.wanted_address)}."
        )
        yield Answer("other page", told, 0.45 * doubt)


def other_title(looked: Looked) -> bool:
    """Tell whether the page has another title than the one that is wanted."""
    wanted = looked.wanted_title
    return bool(wanted) and title_pattern(wanted) != title_pattern(looked.title)


def _asks_password(facts: Facts) -> bool:
    return facts.visible and facts.attributes.get("type") == "password"


def _knew_password(looked: Looked) -> bool:
    """Tell whether the page that is wanted asks for a password itself."""
    seen = looked.element.seen
    around = [*looked.green, *looked.element.lookalikes, *([seen] if seen else [])]
    return any(_asks_password(facts) for facts in around)


def _error_in(looked: Looked) -> str:
    if _ERROR.search(looked.title):
        return looked.title
    heads = [
        facts for facts in looked.nodes if facts.role == "heading" or facts.tag in ("h1", "h2")
    ]
    return next((said(facts) for facts in heads[:3] if _ERROR.search(said(facts))), "")


def path_of(address: str) -> str:
    """Return the part of an address that says which page it is; numbers in it differ by record."""
    parts = [("#" if one.isdigit() else one) for one in urlsplit(address).path.split("/")]
    return "/".join(parts).rstrip("/") or "/"


def other_window(looked: Looked) -> Iterator[Answer]:
    """Tell of another window in which it is."""
    if looked.is_it:
        return
    for other in looked.windows:
        found = [one for one in found_by(looked.element, other.nodes) if one.visible]
        if len(found) == 1 and explained(looked.element, found[0], other.nodes):
            told = f"It is in another window: “{other.title}”."
            window = title_pattern(other.title)
            label = f"Go to the window “{other.title}” before this sentence"
            yield Answer("other window", told, 0.97, (), "go to window", label, {"window": window})
