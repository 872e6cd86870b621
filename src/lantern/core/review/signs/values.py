"""What was expected and what was found, and which of the two is wrong."""

from __future__ import annotations

from collections.abc import Iterator

from lantern.core.review.case import Case, Line, uses
from lantern.core.review.differences import only_written_otherwise
from lantern.core.review.verdicts import Sign


def differs(case: Case) -> Iterator[Sign]:
    """A check or a wait that found something else than it wanted."""
    if case.reason not in ("check differed", "waited in vain"):
        return
    line, then = case.line, case.then
    wanted = line.given.get("expected", "")
    same_row = bool(case.green and case.green.same_row)
    if then and then.outcome == "passed" and same_row:
        yield from _against_then(case, then, wanted)
    elif uses(wanted, "row"):
        yield from _new_row(case)
    elif not case.green:
        yield Sign("test", 0.6, "The check never held: nothing says that it can.")
        yield Sign("product", 0.5, "")
    else:
        yield Sign("product", 0.8, "The check held for other rows.")
    if line.found and only_written_otherwise(line.expected, line.found):
        column = next(iter(uses(wanted, "row")), "")
        told = f"“{line.found}” is only written otherwise than “{line.expected}”."
        if column and not (then and same_row and then.expected == line.expected):
            yield Sign("data", 1.6, told, "edit value", {"column": column})
        elif not column and not (then and then.expected == line.expected):
            yield Sign("test", 1.4, told, "edit sentence")


def _against_then(case: Case, then: Line, wanted: str) -> Iterator[Sign]:
    line = case.line
    if then.found and then.found == line.found and then.expected != line.expected:
        told = (
            f"The page shows “{line.found}” as when it passed; expected was “{then.expected}” "
            f"then, and is “{line.expected}” now."
        )
        yield from _wish_changed(case, wanted, told)
    elif then.expected != line.expected:
        told = f"Expected was “{then.expected}” when it passed, and is “{line.expected}” now."
        yield from _wish_changed(case, wanted, told)
    elif inputs := [name for name in case.columns_before if name in case.changes.data]:
        was, now = case.changes.data[inputs[0]]
        told = f"The row's {inputs[0]} was “{was}” when it passed, and is “{now}”."
        yield Sign("data", 3.0, told, "edit value", {"column": inputs[0]})
    elif case.changes.sentence or case.changes.before:
        told = f"It showed “{then.found}” when it passed; the test was changed since."
        yield Sign("test", 2.6, told)
    elif case.changes.variables:
        told = f"It showed “{then.found}” when it passed. {case.changes.variables[0]}"
        yield Sign("data", 3.0, told, "edit value")
    elif line.found:
        told = f"It showed “{then.found}” when it passed with the same values, now “{line.found}”."
        yield Sign("product", 2.2, told)
    else:
        yield Sign("product", 1.2, f"It showed “{then.found}” when it passed, now nothing.")


def _wish_changed(case: Case, wanted: str, told: str) -> Iterator[Sign]:
    columns = uses(wanted, "row")
    if columns and columns[0] in case.changes.data:
        yield Sign("data", 3.8, told, "edit value", {"column": columns[0]})
    elif uses(wanted, "env"):
        yield Sign("data", 3.4, told, "edit value")
    elif uses(wanted, "kept"):
        yield Sign("product", 1.0, told)
    else:
        yield Sign("test", 3.8, told, "edit sentence")


def _new_row(case: Case) -> Iterator[Sign]:
    """A row that never passed expects a value of its own."""
    (column, *_) = uses(case.line.given.get("expected", ""), "row")
    if case.others.passed and case.others.passed >= case.others.alike:
        told = f"This row never passed, and other rows do: its {column} may be wrong."
        yield Sign("data", 2.4, told, "edit value", {"column": column})
    elif case.others.alike:
        yield Sign("product", 1.0, "Several rows show something else than they expect.")
    else:
        yield Sign("data", 1.0, "This row never passed.", "edit value", {"column": column})


def no_value(case: Case) -> Iterator[Sign]:
    """What a sentence was given can not be used."""
    if case.reason != "bad value":
        return
    given = case.line.given
    columns = [name for value in given.values() for name in uses(value, "row")]
    then = case.then
    taken = bool(then and then.outcome == "passed" and case.green and case.green.same_row)
    if columns and columns[0] in case.changes.data:
        was, now = case.changes.data[columns[0]]
        told = f"The row's {columns[0]} was “{was}” when it passed, and is “{now}”."
        yield Sign("data", 4.0, told, "edit value", {"column": columns[0]})
    elif columns and not taken:
        told = f"The value comes from the row's {columns[0]}: {case.message}"
        yield Sign("data", 3.4, told, "edit value", {"column": columns[0]})
    elif any(uses(value, "env") or uses(value, "secret") for value in given.values()):
        yield Sign("data", 3.0, f"The value comes from the environment: {case.message}")
    elif case.changes.sentence:
        yield Sign("test", 3.6, f"The sentence was changed since it passed. {case.message}")
    elif taken and (case.late or case.fresh_requests):
        yield Sign("product", 0.8, f"The same value was taken when it passed. {case.message}")
    elif taken:
        yield Sign(
            "product",
            1.6 if "the 0 options" in case.message else 2.6,
            f"The same value was taken when it passed. {case.message}",
        )
    else:
        yield Sign("test", 2.6, case.message)


def code(case: Case) -> Iterator[Sign]:
    """A piece of Python of the test failed."""
    if case.reason == "code failed":
        yield Sign("test", 3.2, "Code of the test itself failed.", "edit sentence")
