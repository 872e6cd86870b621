"""`./lantern export DIR` and `./lantern import DIR`."""

from __future__ import annotations

from pathlib import Path

from lantern.core.problems import Problem
from lantern.host.running import COULD_NOT, FAILED, PASSED, database_for_now
from lantern.host.setup import SetupFailed, say
from lantern.store import projects

LARGEST = 50_000_000
OWN = (projects.TOP, "lantern.schema.json")
FOLDERS = (*projects.FOLDERS.values(), "pages", "files", "plans")


class _Undone(Exception):
    """Takes everything back that an import did."""


def export_project(folder: str) -> int:
    """Write the project into a folder; what it held before and is no longer there is removed.

    Returns the exit code.
    """
    top = Path(folder)
    strangers = _strangers(top)
    if strangers:
        say(f"{top} holds other things, such as {strangers[0]}. Name an empty or an earlier one.")
        return COULD_NOT
    try:
        with database_for_now() as database, database.session() as session:
            found = projects.export(session)
    except (Problem, SetupFailed) as error:
        say(f"Could not export: {error}")
        return COULD_NOT
    for path in _paths(top):
        if path not in found and _is_ours(path, (top / path).read_bytes()):
            (top / path).unlink()
    for path, content in found.items():
        file = top / path
        file.parent.mkdir(parents=True, exist_ok=True)
        if not file.exists() or file.read_bytes() != content:
            file.write_bytes(content)
    say(f"{len(found)} files are in {top}.")
    return PASSED


def _is_ours(path: str, content: bytes) -> bool:
    """Tell whether an export wrote a file: only those are removed."""
    return path.startswith("files/") or content.startswith(b"lantern: ")


def _strangers(top: Path) -> list[str]:
    """Return what is in a folder and is not of an export; hidden files may be there."""
    if not top.exists():
        return []
    known = {*OWN, *FOLDERS}
    names = [one.name for one in top.iterdir() if not one.name.startswith(".")]
    others = sorted(name for name in names if name not in known and not name.startswith("README"))
    return others if projects.TOP not in names else []


def _paths(top: Path) -> list[str]:
    """Return the paths of the files that make a project."""
    found = [name for name in OWN if (top / name).is_file()]
    for folder in FOLDERS:
        found += [
            str(file.relative_to(top)) for file in (top / folder).rglob("*") if file.is_file()
        ]
    return sorted(found)


def import_project(folder: str, *, dry: bool) -> int:
    """Take a project in from a folder: all of it, or with `dry` only say what would change.

    Returns the exit code: 1 when something in it is wrong, then nothing is changed.
    """
    top = Path(folder)
    if not top.is_dir():
        say(f"There is no folder {top}.")
        return COULD_NOT
    found = {}
    for path in _paths(top):
        file = top / path
        if file.stat().st_size > LARGEST:
            say(f"{file} has more than {LARGEST // 1_000_000} MB.")
            return COULD_NOT
        if path != OWN[1]:
            found[path] = file.read_bytes()
    try:
        with database_for_now() as database, database.session() as session:
            work = projects.Import(session, None)
            work.take(found)
            _tell(work, dry=dry)
            if dry or work.troubles:
                raise _Undone
    except _Undone:
        return FAILED if work.troubles else PASSED
    except (Problem, SetupFailed) as error:
        say(f"Could not import: {error} {getattr(error, 'hint', '')}".strip())
        return COULD_NOT
    return PASSED


def _tell(work: projects.Import, *, dry: bool) -> None:
    """Print what is wrong, or what changes: the answer of the command."""
    for path, trouble in work.troubles:
        print(f"{path}:{trouble.line}: {trouble.message} {trouble.hint}".rstrip())
    if work.troubles:
        print("Nothing was changed.")
        return
    for change in work.changes:
        print(f"{change.what:8} {change.path}: {change.words}")
    if not work.changes:
        print("Nothing differs.")
    elif dry:
        print("Nothing was changed yet: this was a dry run.")
