"""The account that does the work where Lantern is started as root.

Web, stations, browsers and code of people need nothing that only root may do. The set-up makes an
account for them that owns nothing but what they work with; whoever starts as somebody else than
root is unprivileged already, and everything runs as that account.
"""

from __future__ import annotations

import os
import pwd
import stat
import sys
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

NAME = "lantern"


@dataclass(frozen=True)
class Account:
    """An account by its numbers."""

    uid: int
    gid: int


def worker() -> Account | None:
    """Return the account that does the work; None where this process is not root, or has none."""
    return named() if os.geteuid() == 0 and not closed() else None


@cache
def named() -> Account | None:
    """Return the account that the set-up makes, None where it has not."""
    try:
        found = pwd.getpwnam(NAME)
    except KeyError:
        return None
    return Account(found.pw_uid, found.pw_gid)


@cache
def closed() -> str:
    """Return the folder that shuts other accounts out of the code or its Python, "" for none."""
    for place in (Path(__file__).resolve().parent, Path(sys.base_prefix).resolve()):
        if shut := shut_at(place):
            return str(shut)
    return ""


def shut_at(path: Path) -> Path | None:
    """Return the folder on a path that is not open to every account, None where all are."""
    way = [*reversed(path.parents), path]
    return next((one for one in way if not one.stat().st_mode & stat.S_IXOTH), None)


def as_root() -> str:
    """Return why all of this runs as root although it need not; "" where it does not."""
    if os.geteuid() != 0 or worker() is not None:
        return ""
    if closed():
        return f"Everything runs as root: other accounts can not enter {closed()}."
    return f"Everything runs as root: there is no account {NAME}."


def as_worker() -> dict[str, Any]:
    """Return how `subprocess` starts a program as the account that does the work."""
    account = worker()
    if account is None:
        return {}
    return {"user": account.uid, "group": account.gid, "extra_groups": []}


def give(path: Path) -> None:
    """Let a file or folder belong to the account that does the work."""
    if account := worker():
        os.chown(path, account.uid, account.gid)


def become() -> None:
    """Become the account that does the work, for good; does nothing where there is none."""
    if account := worker():
        os.setgroups([])
        os.setgid(account.gid)
        os.setuid(account.uid)
        os.environ["HOME"] = "/"
