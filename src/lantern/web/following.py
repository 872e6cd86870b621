"""What changed in runs that somebody follows: read once, told to all who do.

Notices of the database say which casts and results of a run are new. They are gathered while the
last ones are being read, so that many changes at once are one reading.
"""

from __future__ import annotations

import json
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Protocol

import structlog
from sqlalchemy.orm import Session

from lantern.core.problems import Missing
from lantern.store.channel import RECONNECTED
from lantern.store.database import Database
from lantern.web import shapes

log = structlog.get_logger()


@dataclass
class Changed:
    """What is known to have changed in a run; `lately`: look for what may have been missed."""

    casts: set[int] = field(default_factory=set)
    results: set[int] = field(default_factory=set)
    lately: bool = False


class Reads(Protocol):
    """Reads what changed in a run; raises Missing."""

    def __call__(
        self,
        session: Session,
        run_id: int,
        cast_ids: Sequence[int],
        result_ids: Sequence[int],
        *,
        lately: bool,
    ) -> shapes.RunDelta:
        """Return the change of these casts and results, and (`lately`) of what plays."""


class Following:
    """Reads what changed in runs, and hands it out with the run's id."""

    def __init__(
        self, database: Database, reads: Reads, hand_out: Callable[[int, str], object]
    ) -> None:
        self._database, self._reads, self._hand_out = database, reads, hand_out
        self._waiting: dict[int, Changed] = {}
        self._there = threading.Condition()

    def start(self) -> None:
        """Read and hand out from now on, in a thread of its own."""
        threading.Thread(target=self._work, name="following", daemon=True).start()

    def changed(self, run: int, casts: list[int], results: list[int]) -> None:
        """Take note of what changed in a run that is followed."""
        with self._there:
            one = self._waiting.setdefault(run, Changed())
            one.casts |= set(casts)
            one.results |= set(results)
            self._there.notify()

    def begun(self, run: int) -> None:
        """Take note that somebody follows a run from now on: they may have missed something."""
        with self._there:
            self._waiting.setdefault(run, Changed()).lately = True
            self._there.notify()

    def _work(self) -> None:
        while True:
            with self._there:
                while not self._waiting:
                    self._there.wait()
                run = next(iter(self._waiting))  # what has waited longest comes first
                changed = self._waiting.pop(run)
            self._hand_out(run, self._told(run, changed))

    def _told(self, run: int, changed: Changed) -> str:
        """Return the notice of what changed; where it can not be read, one to read all anew."""
        try:
            return self.notice(run, changed)
        except Missing:
            return json.dumps({"about": "run", "id": run})
        except Exception as error:  # whatever it is, others go on being told
            log.exception("change_not_read", error=type(error).__name__)
            return RECONNECTED

    def notice(self, run: int, changed: Changed) -> str:
        """Return the notice of what changed, with the change; raises Missing."""
        with self._database.session() as session:
            delta = self._reads(
                session, run, sorted(changed.casts), sorted(changed.results), lately=changed.lately
            )
        return shapes.RunNotice(about="run", id=run, delta=delta).model_dump_json()
