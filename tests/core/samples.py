"""Facts of made-up nodes, and a stage without a browser."""

from dataclasses import replace

from lantern.core.elements.clues import Clue, Element
from lantern.core.elements.facts import Box, Facts
from lantern.core.engine import requests as ask
from lantern.core.engine.interpreter import Script, play_row
from lantern.core.steps.model import Document, Settings, Step
from lantern.core.values.sources import Names

ROLES = {"button": "button", "a": "link", "select": "combobox", "table": "table"}


def node(tag="button", name="", handle=1, **more):
    """Facts of a node, with sensible facts for what is not given."""
    attributes = more.pop("attributes", {})
    kind = attributes.get("type", "text")
    role = {"text": "textbox", "checkbox": "checkbox"}.get(kind, "") if tag == "input" else ""
    return Facts(
        tag=tag,
        role=more.pop("role", role or ROLES.get(tag, "")),
        name=name,
        text=more.pop("text", name if tag != "input" else ""),
        handle=handle,
        order=more.pop("order", handle),
        attributes=attributes,
        box=more.pop("box", Box(10, 10, 80, 20)),
        **more,
    )


def element(name="Get a quote", kind="button", **clues):
    """An element known by facts that must be as given."""
    made = tuple(Clue(fact.replace("_", " "), "is", value) for fact, value in clues.items())
    return Element(f"e-{name}", name, kind, made or (Clue("name", "is", name),), page="Quote")


def step(action, on=None, key="s1", **inputs):
    more = {k: inputs.pop(k) for k in ("limit", "on_failure", "enabled") if k in inputs}
    return Step(key, action, on.id if on else "", inputs, **more)


class FakeStage:
    """Answers the interpreter's requests from a list of nodes; time passes with each wait.

    `appears` maps a node's name to the second at which it comes to be there, `problems` a node's
    name to why it is not ready, `values` (name, property) to what is read.
    """

    def __init__(self, *nodes, appears=None, problems=None, values=None, options=None):
        self.nodes, self.appears = list(nodes), appears or {}
        self.problems, self.values, self.options = problems or {}, values or {}, options or []
        self.time = 0.0
        self.did = []
        self.results = []
        self.dialog = None
        self.windows = [ask.Window("w1", "Quote", "http://desk/quote", True)]
        self.opened = ask.Opened()
        self.dies_at = None
        self.slider = None
        self.files, self.downloads = [], []
        self.quiet_after = 0.0

    def present(self):
        return [one for one in self.nodes if self.appears.get(one.name, 0) <= self.time]

    def answer(self, request):
        self.time += 0.01
        match request:
            case ask.Now():
                return self.time
            case ask.Lookup():
                if request.after is not None:
                    self.time += request.wait
                found = self.present()
                return ask.Seen(found, len(found), 1, None, self.dialog)
            case ask.Aim():
                found = next(one for one in self.nodes if one.handle == request.handle)
                problem = self.problems.get(found.name, "")
                return ask.Aimed(
                    found.handle,
                    50,
                    20,
                    found.box,
                    problem,
                    "div “Notice”" * (problem == "covered"),
                )
            case ask.Nearby():
                return self.present()
            case ask.Read():
                found = next(one for one in self.nodes if one.handle == request.handle)
                if self.slider is not None and request.property == "value":
                    return str(self.slider)
                return self.values.get((found.name, request.property))
            case ask.Open():
                self.did.append(("open", request.address))
                return self.opened
            case ask.Choose():
                self.did.append(("choose", request.option))
                return ask.Chosen(request.option in self.options, self.options)
            case ask.TypeText():
                self.did.append(("add" if request.append else "type", request.text))
            case ask.Letters():
                self.did.append(("letters", request.text))
            case ask.ScrollOn():
                self.time += 0.1
                self.did.append(("scroll", request.down))
                return True
            case ask.Mouse():
                self.did.append(("press", request.button, request.count))
            case ask.PressKey():
                self.did.append(("key", request.keys))
                by = {"ArrowRight": 1, "ArrowLeft": -1}.get(request.keys)
                if by and self.slider is not None:
                    self.slider = min(max(self.slider + by, 0), 10)
            case ask.PointAt():
                self.did.append(("point", request.x, request.y))
            case ask.Drag():
                self.did.append(("drag", (request.x, request.y), (request.to_x, request.to_y)))
            case ask.History():
                self.did.append(("history", request.to))
            case ask.GiveFiles():
                missing = [name for name in request.names if name not in self.files]
                self.did.append(("files", *request.names))
                return missing[0] if missing else ""
            case ask.Downloads():
                return self.downloads
            case ask.KeepDownload():
                return {"name": request.id, "size": 3, "digest": "d"}
            case ask.AnswerDialog():
                if self.dialog is not None:
                    said, self.dialog = self.dialog, None
                    self.did.append(("dialog", request.accept, request.text))
                    return said
            case ask.Windows():
                return self.windows
            case ask.SwitchTo() | ask.CloseWindow():
                self.did.append((type(request).__name__, request.id))
            case ask.Wait():
                self.time += request.seconds
            case ask.Quiet():
                self.time += min(self.quiet_after, request.limit)
                return self.quiet_after <= request.limit
            case ask.Picture():
                return f"picture-{len(self.did)}"
            case ask.StepStarts() | ask.StepFails():
                return ask.Onward()
            case ask.StepEnds():
                self.results.append(request.result)
            case ask.StopEverything():
                self.did.append(("stop everything",))
        return None

    def play(self, *steps, elements=(), names=None, settings=None, flows=None):
        """Play steps to their end; returns the row's outcome."""
        document = Document(
            tuple(replace(one, id=f"s{n}") for n, one in enumerate(steps, 1)),
            settings=settings or Settings(limit=2),
        )
        known = {one.id: one for one in elements}
        play = play_row(Script(document, known, names or Names(), "http://desk", flows or {}))
        answer, asked = None, 0
        while True:
            try:
                asked += 1
                if self.dies_at == asked:
                    request = play.throw(ask.StageLost("it crashed"))
                else:
                    request = play.send(answer)
            except StopIteration as end:
                return end.value
            answer = self.answer(request)
