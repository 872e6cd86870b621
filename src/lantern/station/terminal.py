"""`./lantern element`: learning and finding elements on any page, from a terminal."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import yaml

from lantern.browser.engines import ENGINES
from lantern.browser.errors import BrowserError, CommandFailed
from lantern.browser.session import Engine, Session, Window
from lantern.core.addresses import parts_of
from lantern.core.elements.clues import Element
from lantern.core.elements.repair import Proposal
from lantern.core.engine.browsers import BROWSERS, USUAL
from lantern.core.problems import BadInput, Problem
from lantern.core.storable import read_json
from lantern.station.inspecting import QUIET, Found, Learned, find, learn
from lantern.station.prelude import lead, read_steps

FORMAT = "lantern element 1"
OPEN_LIMIT = 30.0
SETTLE_LIMIT = 8.0
LOOK_LIMIT = 4.0
"""Seconds that a page gets to show an element, once it was opened and came to rest."""

Answer = dict[str, Any]


def read_element(raw: object, where: str) -> Element:
    """Read an element from what a file or a line holds; raises BadInput."""
    if isinstance(raw, dict) and isinstance(raw.get("element"), dict):
        raw = raw["element"]
    if not isinstance(raw, dict) or "clues" not in raw:
        raise BadInput(
            "This is no element.", where=where, hint="Make one with: ./lantern element learn"
        )
    return Element.read(raw)


def as_answer(learned: Learned, address: str) -> Answer:
    """Return what was learned as plain data, for YAML and JSON."""
    answer: Answer = {
        "format": FORMAT,
        "address": address,
        "element": learned.element.as_json(),
        "clues": [clue.sentence() for clue in learned.element.clues],
        "strength": learned.strength.share,
        "weakest": learned.strength.weakest,
    }
    if learned.better:
        answer["stronger"] = learned.better.share
    return answer


def as_found(found: Found) -> Answer:
    """Return what was found as plain data.

    `matches` are the nodes that were accepted; a node that satisfies the clues but looks like
    another thing is not among them but in `doubted`.
    """
    doubted = found.verdict.word == "finds another one"
    nodes = [
        _node(facts.frames, path, facts.name or facts.text)
        for facts, path in zip(found.verdict.found, found.paths, strict=True)
    ]
    return {
        "verdict": found.verdict.word,
        "matches": [] if doubted else [node["xpath"] for node in nodes],
        "nodes": nodes,
        "doubted": [node["xpath"] for node in nodes] if doubted else [],
        "proposals": [
            _proposal(one, path)
            for one, path in zip(found.proposals, found.proposal_paths, strict=True)
        ],
    }


def _node(frames: tuple[str, ...], path: str, words: str) -> Answer:
    return {"xpath": path, "frames": list(frames), "shows": words[:80]}


def _proposal(proposal: Proposal, path: str) -> Answer:
    facts = proposal.facts
    return _node(facts.frames, path, facts.name or facts.text) | {
        "score": proposal.score,
        "high": proposal.high,
        "agrees": list(proposal.agrees),
        "differs": list(proposal.differs),
    }


def _cookies(given: list[str], address: str) -> list[dict[str, str]]:
    parts = parts_of(address)
    if parts.scheme not in ("http", "https") or not parts.netloc:
        raise BadInput(
            f"“{address}” is not an address.", hint="Write it in full, with http:// or https://."
        )
    cookies = []
    for one in given:
        name, mark, value = one.partition("=")
        if not mark or not name:
            raise BadInput(f"“{one}” is not a cookie.", hint="Write --cookie NAME=VALUE.")
        cookies.append({"name": name, "value": value, "url": f"{parts.scheme}://{parts.netloc}"})
    return cookies


def _headers(given: list[str]) -> dict[str, str]:
    headers = {}
    for one in given:
        name, mark, value = one.partition(":")
        if not mark or not name.strip():
            raise BadInput(f"“{one}” is not a header.", hint="Write --header 'Name: value'.")
        headers[name.strip()] = value.strip()
    return headers


class Visits:
    """Opens addresses in one browser, each in a window of its own context."""

    def __init__(self, arguments: argparse.Namespace) -> None:
        self._cookies: list[str] = arguments.cookie
        self._headers = _headers(arguments.header)
        self._do: str = arguments.do or ""
        self._browser: Engine | None = None
        self._context: Session | None = None
        self._page: Window | None = None
        self._key = ("", "")

    def page(self, address: str, do: str = "") -> Window:
        """Open an address and take the steps of the file `do` (else those of --do) on it.

        The page is kept when the next one asks for the same. Raises BadInput when it can not be
        opened, or a step fails.
        """
        steps = do or self._do
        if self._page is not None and self._key == (address, steps) and self._browser_lives():
            return self._page
        self._forget()
        cookies = _cookies(self._cookies, address)
        if not self._browser_lives():
            self.close()
            self._browser = ENGINES[BROWSERS[USUAL].engine].start()
        assert self._browser is not None  # noqa: S101 - made right above
        script = read_steps(steps) if steps else None
        context = self._context = self._browser.new_session(BROWSERS[USUAL])
        page = context.open_page()
        if cookies:
            context.set_cookies(cookies)
        if self._headers:
            context.set_headers(self._headers)
        status, error = page.navigate(address, OPEN_LIMIT)
        if error:
            raise BadInput(f"{address} could not be opened: {error}.", where=address)
        if status >= 400:
            raise BadInput(f"{address} answered with the error {status}.", where=address)
        page.quiet(QUIET, SETTLE_LIMIT)
        if script:
            lead(context, script, address)
            page = context.current
            page.quiet(QUIET, SETTLE_LIMIT)
        self._page, self._key = page, (address, steps)
        return page

    def _browser_lives(self) -> bool:
        return self._browser is not None and self._browser.alive

    def _forget(self) -> None:
        if self._context is not None and self._browser_lives():
            self._context.close()
        self._page = self._context = None

    def close(self) -> None:
        """End the browser."""
        if self._browser is not None:
            self._browser.close()
            self._browser = None


def _answered(work: Callable[[], Answer]) -> Answer:
    """Return an answer, or what went wrong in words."""
    try:
        return work()
    except Problem as error:
        return {"error": error.message, "where": error.where, "hint": error.hint}
    except CommandFailed as error:
        return {"error": str(error), "where": "", "hint": "Check the expression."}
    except BrowserError as error:
        return {"error": str(error), "where": "", "hint": "The browser stopped; try it again."}


def _batch(path: str) -> Iterator[tuple[int, dict[str, Any] | str]]:
    """Yield the lines of a JSONL file: objects, or what is wrong with a line."""
    for number, line in enumerate(Path(path).read_text(encoding="utf-8").splitlines(), 1):
        if not line.strip():
            continue
        try:
            raw = read_json(line)
        except ValueError as error:
            yield number, f"Line {number} is not JSON: {error}."
            continue
        yield number, raw if isinstance(raw, dict) else f"Line {number} is not an object."


def _each(path: str, work: Callable[[dict[str, Any]], Answer]) -> int:
    """Answer every line of a batch with one line of JSON; returns the exit code."""
    code = 0
    for number, raw in _batch(path):
        if isinstance(raw, str):
            answer: Answer = {"id": None, "error": raw, "where": f"line {number}", "hint": ""}
        else:
            line = raw
            answer = {"id": line.get("id")} | _answered(lambda line=line: work(line))  # type: ignore[misc]
        code = code or int("error" in answer)
        print(json.dumps(answer, ensure_ascii=False), flush=True)
    return code


def _needed(raw: dict[str, Any], *names: str) -> None:
    for name in names:
        if not raw.get(name):
            raise BadInput(f"The line has no “{name}”.", where=str(raw.get("id", "")))


def learn_command(arguments: argparse.Namespace) -> int:
    """Carry out `element learn`; returns the exit code: 0 done, 1 for a batch with an error, 2."""
    visits = Visits(arguments)

    def one(address: str, at: str, do: str = "") -> Answer:
        return as_answer(learn(visits.page(address, do), at), address)

    def line(raw: dict[str, Any]) -> Answer:
        _needed(raw, "address", "at")
        return one(str(raw["address"]), str(raw["at"]), str(raw.get("do") or ""))

    try:
        if arguments.batch:
            return _each(arguments.batch, line)
        if not (arguments.address and arguments.at):
            raise BadInput("An address and --at XPATH are needed, or --batch FILE.")
        answer = _answered(lambda: one(arguments.address, arguments.at))
        if "error" in answer:
            return _complain(answer, as_json=arguments.json)
        if arguments.json and not arguments.out:
            print(json.dumps(answer, ensure_ascii=False, indent=1))
            return 0
        text = yaml.safe_dump(answer, allow_unicode=True, sort_keys=False, width=100)
        if arguments.out:
            Path(arguments.out).write_text(text, encoding="utf-8")
            print(f"{arguments.out}: {'; '.join(answer['clues'])}")
            print(f"strength {answer['strength']:.0%}, weakest: {answer['weakest'] or 'nothing'}")
        else:
            sys.stdout.write(text)
        return 0
    except (Problem, OSError) as error:
        told = {"error": str(error), "hint": getattr(error, "hint", "")}
        return _complain(told, as_json=arguments.json)
    finally:
        visits.close()


def find_command(arguments: argparse.Namespace) -> int:
    """Carry out `element find`; returns 0 when it finds it alone, 1 when not, 2 for an error."""
    visits = Visits(arguments)

    def one(address: str, element: Element, do: str = "") -> Answer:
        page = visits.page(address, do)
        return as_found(find(page, element, arguments.wait, repair=arguments.repair))

    def line(raw: dict[str, Any]) -> Answer:
        _needed(raw, "address", "element")
        element = read_element(raw["element"], str(raw.get("id", "")))
        return one(str(raw["address"]), element, str(raw.get("do") or ""))

    try:
        if arguments.batch:
            return _each(arguments.batch, line)
        if not (arguments.address and arguments.file):
            raise BadInput("An address and a file are needed, or --batch FILE.")
        try:
            raw = yaml.safe_load(Path(arguments.file).read_text(encoding="utf-8"))
        except yaml.YAMLError as error:
            raise BadInput(f"{arguments.file} is not YAML: {error}") from error
        element = read_element(raw, arguments.file)
        answer = _answered(lambda: one(arguments.address, element))
        if "error" in answer:
            return _complain(answer, as_json=arguments.json)
        _tell(answer, as_json=arguments.json)
        return 0 if answer["verdict"] == "finds it" else 1
    except (Problem, OSError) as error:
        told = {"error": str(error), "hint": getattr(error, "hint", "")}
        return _complain(told, as_json=arguments.json)
    finally:
        visits.close()


def _tell(answer: Answer, *, as_json: bool) -> None:
    if as_json:
        print(json.dumps(answer, ensure_ascii=False, indent=1))
        return
    print(answer["verdict"])
    for node in answer["nodes"]:
        print(f"  {node['xpath'] or 'inside a shadow root'}  “{node['shows']}”")
    for one in answer["proposals"]:
        print(f"  perhaps {one['score']:.0%}: {one['xpath']}  “{one['shows']}”")
        for words in one["differs"]:
            print(f"      {words}")


def _complain(answer: Answer, *, as_json: bool = False) -> int:
    if as_json:
        print(json.dumps(answer, ensure_ascii=False))
        return 2
    print(answer["error"], file=sys.stderr)
    if answer.get("hint"):
        print(answer["hint"], file=sys.stderr)
    return 2


def add_commands(commands: Any) -> None:  # noqa: ANN401 - argparse has no public type for it
    """Add `element learn` and `element find` to the command line."""
    element = commands.add_parser("element", help="learn an element of any page, or find it again")
    kinds = element.add_subparsers(dest="what", required=True, metavar="learn|find")
    learner = kinds.add_parser("learn", help="which clues would be chosen, and how strong they are")
    learner.add_argument("address", nargs="?", help="the page")
    learner.add_argument("--at", metavar="XPATH", help="where the element is")
    learner.add_argument("--out", metavar="FILE.yaml", help="where to write it (else it is shown)")
    learner.set_defaults(work=learn_command)
    finder = kinds.add_parser("find", help="what an element finds: exit 0 it alone, 1 not, 2 error")
    finder.add_argument("address", nargs="?", help="the page")
    finder.add_argument("file", nargs="?", help="the element, as learn wrote it")
    finder.add_argument("--repair", action="store_true", help="propose what it may be now")
    finder.add_argument(
        "--wait", type=float, default=LOOK_LIMIT, help="seconds that the page gets to show it"
    )
    finder.set_defaults(work=find_command)
    for one in (learner, finder):
        one.add_argument("--cookie", action="append", default=[], metavar="NAME=VALUE")
        one.add_argument("--header", action="append", default=[], metavar="'NAME: VALUE'")
        one.add_argument("--json", action="store_true", help="answer in JSON")
        one.add_argument(
            "--do", metavar="FILE", help="steps to take before looking, a test as text"
        )
        one.add_argument("--batch", metavar="FILE.jsonl", help="one object a line, one answer each")
