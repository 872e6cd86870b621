"""The parts of a script that are the same in all of them."""

from __future__ import annotations

from importlib.resources import files

from lantern.core.elements.facts import USUAL_VIEW
from lantern.exchange.script.carried import CLUES, MAKING, MEANING, carried

HEAD = '''"""{name}: exported from Lantern, runs on its own.

    pip install pytest selenium{more}
    BASE_URL={shown_base} {secrets}pytest {file}

What is made up comes from SEED, which a failure shows: give it again, and it is the same.
"""

from __future__ import annotations

import copy
import json
import math
import os
import re
import time
import uuid
from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from datetime import date, timedelta
from pathlib import Path
from random import Random
from typing import Any, Literal

import pytest
{rstr}from selenium import webdriver
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    NoAlertPresentException,
    NoSuchFrameException,
    StaleElementReferenceException,
    WebDriverException,
)
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

BASE = os.environ.get("BASE_URL", {base!r})
LIMIT = {limit:g}
"""Seconds that a sentence waits at the most."""
ENV = {env}
SEED = os.environ.get("SEED") or uuid.uuid4().hex[:8]
DRAWS = Random()
LISTENS = {listens}
"""Whether requests of the page are watched, for sentences that wait until it is quiet."""
'''
HIDDEN = '''

def secret(name):
    """A secret, from the environment variable of its name in capitals."""
    return os.environ[name.upper()]
'''
THING = '''

{clue}


@dataclass(frozen=True)
class Thing:
    """A thing on a page: what it is called, its kind and clues, and the tag that it had."""

    name: str
    kind: str
    clues: tuple
    tag: str = ""

    def filled(self, *values):
        """The thing with these values, one after the other, in the clues that have none."""
        left = iter(values)
        clues = (
            Clue(one.fact, one.operator, next(left) if one.value is None else one.value, one.loose)
            for one in self.clues
        )
        return Thing(self.name, self.kind, tuple(clues), self.tag)
'''
MADE = '''

{carried}


def made(draw, *given):
    """Make a value up."""
    return draw(DRAWS, given, date.today())


def fits(limits, write):
    """Make a text up until the field takes it."""
    for _ in range(MOST_TRIES):
        text = write(limits)
        if limits.fits(text):
            return text
    raise BadInput(f"Nothing that was made up was {{limits.words()}}.")


def check_pattern(_):
    pass


def fullmatch(text, pattern):
    return re.fullmatch(pattern, text) is not None


Problem = (BadInput, re.error)
'''
CONVERT = """

as_str, as_float, as_int, as_date = str, float, int, date.fromisoformat


def as_bool(text):
    return text.strip().lower() in ("yes", "true", "1")


def as_text(value):
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "" if value is None else str(value)
"""


def things() -> str:
    """Return what the elements of a script are made of."""
    return THING.format(clue=carried(CLUES))


def runtime(*, makes: bool) -> str:
    """Return what is the same in every script; with what `makes` values up where that is asked."""
    here = files("lantern.exchange.script")
    look = here.joinpath("look.js").read_text("utf-8").strip()
    meaning = f"USUAL_VIEW = {USUAL_VIEW!r}\n{carried(MEANING)}"
    made = MADE.format(carried=carried(MAKING)).lstrip() + "\n\n" if makes else ""
    text = here.joinpath("runtime.txt").read_text("utf-8")
    for mark, said in (("@carried@", meaning), ("@made@", made), ("@look@", look)):
        text = text.replace(mark, said)
    return text
