"""What a station that joined tells of a cast that it plays, put where it belongs.

A note is a JSON object with its `kind`, one of NOTES. All secrets of the environment are masked
in what is said, whichever of them the station knew.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from sqlalchemy import exists, select
from sqlalchemy.orm import Session

from lantern.core.elements.facts import Facts
from lantern.core.engine.outcomes import StepResult
from lantern.core.problems import BadInput
from lantern.core.steps.actions.navigating import title_pattern
from lantern.core.values.templates import masked
from lantern.store import casts, elements, pages
from lantern.store.models import Cast, Run, SavedPage
from lantern.store.vault import Vault

Raw = Mapping[str, Any]


class Noting:
    """Puts notes about a cast, played under a token, in place; raises TooLate when it is not."""

    def __init__(self, session: Session, vault: Vault, cast_id: int, token: str) -> None:
        self._session = session
        self._cast: Cast = casts.hold(session, cast_id, token)
        self._token = token
        self._run = session.get_one(Run, self._cast.run_id)
        self._secrets = vault.values(session, self._run.environment_id)

    def take(self, note: Raw) -> None:
        """Put a note in place; raises BadInput for what is none."""
        does = NOTES.get(str(note.get("kind")))
        if does is None:
            raise BadInput("That is no note.", where="kind", hint=f"Known: {', '.join(NOTES)}.")
        try:
            does(self, note)
        except (KeyError, TypeError, AttributeError) as error:
            raise BadInput(f"That note lacks something: {error}.", where=note["kind"]) from error

    def _hide(self, text: object) -> str:
        return masked(str(text), self._secrets)

    def _nodes(self, note: Raw) -> list[Facts]:
        return [Facts.read(raw).masked(self._hide) for raw in note["nodes"]]

    def began(self, note: Raw) -> None:
        """It is played in a browser of this `version`."""
        casts.began(self._session, self._cast.id, self._token, str(note["version"])[:200])

    def at(self, note: Raw) -> None:
        """It is at a `sentence`, which is that of a `step`."""
        casts.set_current(
            self._session,
            self._cast.id,
            self._token,
            self._hide(note["sentence"]),
            str(note["step"]),
        )

    def ends(self, note: Raw) -> None:
        """A sentence ended with a `result`, its `place` from 1, `console` and `requests`."""
        casts.keep_result(
            self._session,
            self._cast.id,
            self._token,
            int(note["place"]),
            StepResult.read(note["result"]),
            list(note["console"]),
            list(note["requests"]),
            self._secrets,
        )

    def remember(self, note: Raw) -> None:
        """An `element` of the run was seen among `nodes`."""
        if note["element"] in self._run.elements:
            elements.remember(self._session, note["element"], self._nodes(note))

    def saw(self, note: Raw) -> None:
        """A page, by its `title`, `address`, `nodes`, `picture` and the `step` that was on it.

        Told twice, as when an answer got lost, it is there once.
        """
        title, step = self._hide(note["title"]), str(note["step"])
        known = exists().where(
            SavedPage.cast_id == self._cast.id,
            SavedPage.step_id == step,
            SavedPage.page == title_pattern(title),
        )
        if self._session.scalar(select(known)):
            return
        pages.save(
            self._session,
            title,
            self._nodes(note),
            address=self._hide(note["address"]),
            picture=str(note["picture"]),
            test_id=self._run.test_id,
            run_id=self._run.id,
            cast_id=self._cast.id,
            step_id=step,
        )


NOTES: dict[str, Callable[[Noting, Raw], None]] = {
    name: getattr(Noting, name) for name in ("began", "at", "ends", "remember", "saw")
}
"""What can be noted, by its kind."""
