"""Things of small pages, and sentences about them, that several modules play."""

from tests.core.samples import element, step

SAVE = element("Save")
FIELD = element("Piece", "text box", label="Piece")
OUT = element("Out", "text", id="out")
LIST = element("Clay", "choice list", label="Clay")
TELL = "onclick=\"out.textContent = 'pressed ' + event.isTrusted\""


def check(expected, on=OUT, prop="text"):
    return step("check", on, property=prop, comparison="is", expected=expected)


def failure(notes):
    assert notes.outcome == "failed", notes.results
    return next(result for result in notes.results if result.outcome == "failed")
