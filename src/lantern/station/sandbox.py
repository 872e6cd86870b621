"""Code of people apart: a command that runs under bubblewrap and sees nothing of the machine."""

from __future__ import annotations

import os
import shutil
import sys
import threading
from collections.abc import Sequence
from pathlib import Path

from lantern.limited import limited

MEMORY = 512 << 20
"""Bytes of memory that code gets, all its processes together."""
FILE = 10 << 20
"""Bytes of the largest file that it can write; all it writes is in memory."""
SCRATCH = 64 << 20
HOME = "/home/code"
SHARED, TMP = "/dev/shm", "/tmp"  # noqa: S108 - those of the confined code, its own
_worked = threading.Event()
"""Set once bubblewrap has worked on this machine."""
MISSING = (
    "Python of people is not run on this station: bubblewrap is not installed. "
    "Install it with: apt-get install bubblewrap"
)
FORBIDDEN = (
    "Python of people is not run on this station: bubblewrap does not work ({said}). "
    "Where user namespaces are switched off, this allows them: "
    "sysctl -w kernel.unprivileged_userns_clone=1 user.max_user_namespaces=10000"
)


def confined(command: Sequence[str]) -> list[str]:
    """Return a command that runs another one apart from everything.

    It sees the programs and libraries of the system and of Python, read-only; an empty home and
    /tmp of its own, in memory; no network, no other process, no environment; and it can not become
    more than it is.
    """
    base = str(Path(sys.base_prefix).resolve())
    programs = [] if base.startswith("/usr") else ["--ro-bind", base, base]
    links = [(f"/{name}", os.readlink(f"/{name}")) for name in _linked()]
    return [
        "prlimit", f"--as={2 * MEMORY}", f"--fsize={FILE}", f"--nofile={256}", "--core=0",
        "bwrap", "--unshare-all", "--unshare-user", "--disable-userns", "--die-with-parent",
        "--new-session", "--clearenv", "--cap-drop", "ALL", "--uid", "65534", "--gid", "65534",
        "--hostname", "apart", "--ro-bind", "/usr", "/usr",
        *(part for at, to in links for part in ("--symlink", to, at)), *programs,
        "--proc", "/proc", "--dev", "/dev", "--remount-ro", "/dev",
        "--size", str(SCRATCH), "--tmpfs", SHARED, "--size", str(SCRATCH), "--tmpfs", TMP,
        "--size", str(SCRATCH), "--tmpfs", HOME, "--remount-ro", "/",
        "--setenv", "HOME", HOME, "--setenv", "PATH", "/usr/bin", "--setenv", "LANG", "C.UTF-8",
        "--chdir", HOME, "--", *command,
    ]  # fmt: skip


def _linked() -> list[str]:
    """Return the names in / that lead into /usr, such as lib."""
    return [name for name in ("bin", "lib", "lib64", "sbin") if Path(f"/{name}").is_symlink()]


def refusal() -> str:
    """Return why code can not be run apart on this machine, and what mends it; "" when it can."""
    if shutil.which("bwrap") is None or shutil.which("prlimit") is None:
        return MISSING
    if not _worked.is_set():
        said = _tried()
        if said:  # looked at again the next time: a busy machine is no reason for good
            return FORBIDDEN.format(said=said)
        _worked.set()
    return ""


def _tried() -> str:
    """Return what bubblewrap complains of on this machine, "" for nothing."""
    command = confined(["/usr/bin/true"])
    try:
        done = limited(command, b"", seconds=20, memory=MEMORY, output=1 << 16)
    except OSError as error:
        return str(error)
    if done.status == 0 and not done.broke:
        return ""
    lines = done.errors.decode(errors="replace").strip().splitlines()
    return lines[-1][:200] if lines else f"status {done.status}"
