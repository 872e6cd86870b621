"""Which flows a document calls, and that none comes to call itself."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session

from lantern.core.engine.attempt import Flow
from lantern.core.problems import BadInput
from lantern.core.steps.flows import loop_in
from lantern.core.steps.model import Document
from lantern.store.models import Test
from lantern.store.rows import unpacked

FLOW = "flow"


def load(session: Session, ids: Iterable[str]) -> dict[str, Flow]:
    """Return flows by id with all that they call in turn; those that are gone are left out."""
    found: dict[str, Flow] = {}
    waiting = list(ids)
    while waiting:
        numbers = {int(key) for key in waiting if key.isdecimal()} - {int(key) for key in found}
        waiting = []
        for flow in session.scalars(select(Test).filter(Test.id.in_(numbers), Test.kind == FLOW)):
            document = unpacked(flow)
            found[str(flow.id)] = Flow(flow.name, document)
            waiting += [key for key in document.flow_ids() if key not in found]
    return found


def element_ids(document: Document, flows: Mapping[str, Flow]) -> Iterable[str]:
    """Return the ids of the elements that a document and the flows act on, each once."""
    documents = [document, *(flow.document for flow in flows.values())]
    return dict.fromkeys(key for one in documents for key in one.element_ids())


def check_calls(session: Session, test: Test, document: Document) -> None:
    """Raise BadInput, with the loop named, when a flow would come to call itself."""
    if test.kind != FLOW or not any(document.flow_ids()):
        return
    known = load(session, document.flow_ids())
    calls = {key: list(flow.document.flow_ids()) for key, flow in known.items()}
    calls[str(test.id)] = list(document.flow_ids())
    loop = loop_in(calls, str(test.id))
    if loop:
        names = {str(test.id): test.name} | {key: flow.name for key, flow in known.items()}
        path = " → ".join(f"“{names.get(key, key)}”" for key in loop)
        raise BadInput(f"A flow can not call itself: {path}.", where="flow")


def check_plain(session: Session, key: str) -> None:
    """Raise BadInput where there is no flow of that id, or one that needs values of its caller."""
    flow = load(session, [key]).get(key)
    if flow is None:
        raise BadInput("That flow does not exist.", where="flow")
    needy = [one.name for one in flow.document.takes if not one.default]
    if needy:
        raise BadInput(
            f"“{flow.name}” needs a value for {needy[0]}, which nobody gives here.",
            where=flow.name,
            hint="Give the input a default.",
        )
