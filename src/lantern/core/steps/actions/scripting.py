"""Running a script in the page, for what no sentence does."""

from __future__ import annotations

from lantern.core.engine import requests as ask
from lantern.core.engine.outcomes import StepFailed
from lantern.core.steps.actions.base import Action, Call, Input
from lantern.core.values.templates import check_name


def _page_script(call: Call) -> ask.Play[None]:
    name = call.inputs.get("name", "")
    if name:
        check_name(name, "kept value")
    ran: ask.Ran = yield from ask.PageScript(call.inputs["script"], call.limit)
    if ran.error:
        where = f" (line {ran.line})" if ran.line else ""
        raise StepFailed("code failed", f"The script failed{where}: {ran.error}")
    call.evidence.found = ran.gave.get("value", "")
    if name:
        call.evidence.kept[name] = call.evidence.found
    yield from call.picture()


ENTRIES = (
    Action(
        "page script",
        "Run a page script",
        "Run the script {script} in the page, kept as {name}",
        _page_script,
        (Input("script"), Input("name", "name", optional=True)),
        kinds=None,
        help="JavaScript in the page under test; what it returns can be kept under a name.",
    ),
)
