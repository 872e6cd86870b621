"""What the network and the page's own words say: whether it is down, broken, or refuses."""

from __future__ import annotations

import re
from collections.abc import Iterator

from lantern.core.review.case import Case, uses
from lantern.core.review.verdicts import Sign
from lantern.core.review.words import first, saying, status_of

DOWN = frozenset({408, 421, 429, 502, 503, 504, 507, 508, 509, 511, 521, 522, 523, 524})
"""Statuses by which what stands before an application, or its machine, speaks (RFC 9110, 6585)."""
REFUSED = frozenset({401, 403, 407})
_CUT = re.compile(r"ERR_|NS_ERROR|refused|reset|unreachable|not be resolved|aborted|cannot connect",
                  re.IGNORECASE)  # fmt: skip
_UNCAUGHT = re.compile(r"uncaught|\w*Error:|unhandled|is not (?:a function|defined)", re.IGNORECASE)
_SCRIPT = re.compile(r"\.(?:m?js|css)\b")


def broken_machine(case: Case) -> Iterator[Sign]:
    """The browser, the station or Lantern itself did not do its part."""
    if case.reason in ("browser died", "lantern failed"):
        yield Sign("environment", 6.0, f"It is no answer of the application: {case.message}")


def opened(case: Case) -> Iterator[Sign]:
    """An address was not answered, or with a status of an error."""
    if case.reason != "page error":
        return
    status = status_of(case.message)
    moved = case.changes.address
    if status in DOWN:
        yield Sign("environment", 5.0, f"The address was answered with {status}.")
    elif status in REFUSED:
        yield Sign("environment", 1.2, f"The address was answered with {status}: no access.")
        yield Sign("data", 1.0, "")
    elif status >= 500:
        down = first(case.said, "down")
        if down:
            yield Sign("environment", 5.0, f"It answered with {status} and says “{down}”.")
        else:
            yield Sign("product", 3.5, f"The application answered with {status}.")
    elif status == 404 or status == 410:
        yield from _gone(case, status)
    elif not status:
        if "no answer within" in case.message:
            yield Sign("timing", 1.8, "There was no answer within the limit.", "raise limit")
            yield Sign("environment", 0.9, "")
        else:
            yield Sign("environment", 4.5, f"Nothing answered at the address: {case.message}")
    if moved:
        told = f"The environment's address was {moved[0]} when it passed, and is {moved[1]}."
        yield Sign("environment", 2.5, told)


def _gone(case: Case, status: int) -> Iterator[Sign]:
    if case.changes.sentence:
        told = f"The sentence's own address was changed, and is answered with {status}."
        yield Sign("test", 4.0, told, "edit sentence")
    elif any(uses(value, "row") for value in case.line.given.values()):
        yield Sign("data", 2.5, f"The row's address is answered with {status}.")
    elif any(uses(value, "env") for value in case.line.given.values()):
        yield Sign("environment", 2.0, f"The environment's address is answered with {status}.")
    elif case.changes.address:
        yield Sign("environment", 1.0, f"The address is answered with {status}.")
    else:
        yield Sign("product", 2.6, f"The page that was there is answered with {status}.")


def requests_failed(case: Case) -> Iterator[Sign]:
    """Requests of the page that did not fail when it passed."""
    if case.reason in ("page error", "code failed"):
        return
    lost = [one for one in case.fresh_requests if not status_of(one) and _CUT.search(one)]
    by_status: dict[int, str] = {}
    for one in case.fresh_requests:
        by_status.setdefault(status_of(one), one)
    for status, one in by_status.items():
        if status in DOWN:
            yield Sign("environment", 3.6, f"A request was answered with {status}: {_short(one)}")
        elif status in (401, 419, 440):
            told = f"A request was refused with {status}, as after a sign-in that ran out."
            yield Sign("environment", 2.2, told)
        elif status >= 500:
            down = first(case.said, "down")
            if down:
                told = f"A request was answered with {status}, and the page says “{down}”."
                yield Sign("environment", 4.2, told)
            else:
                told = f"The application answered a request with {status}: {_short(one)}"
                yield Sign("product", 3.0, told)
        elif status == 403:
            yield Sign("environment", 1.4, f"A request was forbidden: {_short(one)}")
        elif status in (404, 410):
            weight = 1.6 if _SCRIPT.search(one) else 1.2
            yield Sign("product", weight, f"What the page asks for is not there: {_short(one)}")
        elif status >= 400:
            yield Sign("product", 0.8, f"A request was answered with {status}: {_short(one)}")
    if lost:
        yield Sign("environment", 3.4, f"A request got no answer: {_short(lost[0])}")


def complaints(case: Case) -> Iterator[Sign]:
    """Errors of scripts that were not there when it passed."""
    if case.reason in ("page error", "code failed"):
        return
    found = [one for one in case.fresh_console if _UNCAUGHT.search(one)]
    if found and not any(_CUT.search(one) for one in case.fresh_requests):
        yield Sign("product", 2.0, f"A script of the page failed: {found[0][:160]}")


def page_says(case: Case) -> Iterator[Sign]:
    """What the page says that it did not say when it passed."""
    if case.reason in ("bad value", "code failed"):
        return
    for text in case.said:
        kind = saying(text)
        if kind == "session":
            yield Sign("environment", 4.0, f"The page says “{text[:160]}”: the sign-in ran out.")
        elif kind == "down":
            yield Sign("environment", 3.8, f"The page says “{text[:160]}”.")
        elif kind == "broken":
            yield Sign("product", 2.4, f"The page says “{text[:160]}”.")
        else:
            continue
        return
    refusal = first(case.said, "refused") or case.warned
    if refusal:
        yield from _refused(case, refusal)


def _refused(case: Case, text: str) -> Iterator[Sign]:
    """The page refuses what was given: with values that it took before, or with others."""
    told = f"The page refuses what was given: “{text[:160]}”."
    changed = [name for name in case.columns_before if name in case.changes.data]
    if changed:
        was, now = case.changes.data[changed[0]]
        told += f" The row's {changed[0]} was “{was}” when it passed, and is “{now}”."
        yield Sign("data", 4.0, told, "edit value", {"column": changed[0]})
    elif case.changes.variables:
        yield Sign("data", 3.6, f"{told} {case.changes.variables[0]}", "edit value")
    elif case.changes.sentence or case.changes.before:
        yield Sign("test", 3.2, f"{told} The test was changed since it passed.")
    elif case.green and case.green.same_row:
        if _is_over(case):
            yield Sign("data", 3.4, f"{told} A date of the row has passed since.", "edit value")
        else:
            yield Sign("product", 2.2, f"{told} It took the same values before.")
    else:
        weight = 3.0 if case.columns_before else 1.2
        yield Sign("data", weight, f"{told} This row never passed.", "edit value")


def _is_over(case: Case) -> bool:
    dates = re.compile(r"\b(\d{4})-(\d\d)-(\d\d)\b")
    given = [*case.values.values()]
    given += [value for one in (*case.before, case.line) for value in one.given.values()]
    today = case.today.isoformat() if case.today else ""
    return any(match[0] < today for text in given for match in dates.finditer(text))


def _short(line: str) -> str:
    return line[:160]
