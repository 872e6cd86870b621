"""Secrets at rest: sealed with a key that lies outside the database."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

from cryptography.fernet import Fernet, InvalidToken
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from lantern.account import give
from lantern.core.problems import Problem
from lantern.core.values.redaction import redacted
from lantern.store import logs
from lantern.store.models import Secret


class KeyLost(Problem):
    """The secrets of an environment were sealed with another key."""

    code = "key_lost"


def make_key(path: Path) -> None:
    """Write a new key to `path`, readable by its owner alone, unless there is one."""
    if path.exists():
        return
    descriptor = os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600)
    with os.fdopen(descriptor, "wb") as file:
        file.write(Fernet.generate_key())
    give(path)


class Vault:
    """Seals and opens secrets with the key in the file LANTERN_KEY_FILE."""

    def __init__(self, key_file: str | None = None) -> None:
        path = key_file or os.environ.get("LANTERN_KEY_FILE", "")
        if not path:
            raise RuntimeError("LANTERN_KEY_FILE is not set: Lantern has no key for secrets.")
        self._fernet = Fernet(Path(path).read_bytes())

    def seal(self, value: str) -> bytes:
        """Return a secret sealed."""
        logs.know([value])
        return self._fernet.encrypt(value.encode())

    def open(self, sealed: bytes) -> str:
        """Return a sealed secret in clear; raises KeyLost when another key sealed it."""
        try:
            value = self._fernet.decrypt(sealed).decode()
        except InvalidToken as error:
            raise KeyLost("It was sealed with another key.", hint="Enter it again.") from error
        logs.know([value])
        return value

    def put(self, session: Session, environment_id: int, name: str, value: str) -> None:
        """Keep a secret under a name, replacing an earlier value."""
        secret = session.scalar(select(Secret).filter_by(environment_id=environment_id, name=name))
        if secret is None:
            secret = Secret(environment_id=environment_id, name=name)
            session.add(secret)
        logs.know([value])
        secret.sealed = self._fernet.encrypt(value.encode())
        session.flush()

    def drop(self, session: Session, environment_id: int, name: str) -> None:
        """Forget a secret."""
        session.execute(delete(Secret).filter_by(environment_id=environment_id, name=name))

    def values(self, session: Session, environment_id: int | None) -> dict[str, str]:
        """Return the secrets of an environment in clear, by name: only for playing a test.

        Raises KeyLost when they were sealed with another key.
        """
        secrets = session.scalars(select(Secret).filter_by(environment_id=environment_id))
        try:
            opened = {one.name: self._fernet.decrypt(one.sealed).decode() for one in secrets}
        except InvalidToken as error:
            raise KeyLost(
                "The secrets of this environment were sealed with another key.",
                hint="Put the old key file back, or enter the secrets again.",
            ) from error
        logs.know(opened.values())
        return opened

    def hide(self, session: Session, text: str) -> str:
        """Return a text that a person wrote with every secret of every environment masked.

        Comments and defects are read, mailed and handed over by those who must not know them. A
        secret that was sealed with another key is not known here, and not looked for.
        """
        values = set()
        for sealed in session.scalars(select(Secret.sealed)):
            with suppress(InvalidToken):
                values.add(self._fernet.decrypt(sealed).decode())
        return redacted(text, values)


def names(session: Session, environment_id: int) -> list[str]:
    """Return the names of an environment's secrets."""
    query = select(Secret.name).filter_by(environment_id=environment_id).order_by(Secret.name)
    return list(session.scalars(query))
