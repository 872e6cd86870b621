"""Which checks a change concerns: `./lantern test --changed`."""

from __future__ import annotations

import ast
import subprocess
from collections.abc import Iterable, Sequence
from pathlib import Path

import grimp

THROUGH_PAGES = ("frontend/", "src/lantern/web/", "src/lantern/store/", "src/lantern/station/",
                 "src/lantern/browser/", "src/lantern/host/", "probe/")  # fmt: skip
"""What interface tests reach without importing it."""
THROUGH_THE_API = ("src/lantern/core/", "src/lantern/exchange/", "src/lantern/store/",
                   "src/lantern/web/")  # fmt: skip
THROUGH_BROWSERS = ("probe/", "src/lantern/browser/", "src/lantern/station/")
DOCUMENTS = (".md", ".png")


def changed_files(root: Path, since: str = "HEAD") -> list[str]:
    """Return the files, relative to the root, that differ from a commit, new ones too."""

    def git(*given: str) -> list[str]:
        done = subprocess.run(["git", *given], cwd=root, capture_output=True, text=True, check=True)
        return done.stdout.splitlines()

    new = git("ls-files", "--others", "--exclude-standard")
    return sorted({*git("diff", "--name-only", since), *new})


def concerned(files: Iterable[str], root: Path) -> list[str]:
    """Return the test files that changed files concern, as paths relative to the root.

    Tests are followed by what they import, and those that drive pages or browsers by what they
    reach through them.
    """
    changed = list(files)
    modules = _with_downstream(_modules(changed))
    helpers = {_dotted(Path(one)) for one in changed if one.startswith("tests/")}
    found: set[str] = set()
    for path in sorted((root / "tests").rglob("test_*.py")):
        name = str(path.relative_to(root))
        imported = _imports(path)
        if name in changed or imported & modules or imported & helpers or _reached(name, changed):
            found.add(name)
    return sorted(found)


def _reached(test: str, changed: Sequence[str]) -> bool:
    if test.startswith("tests/ui/"):
        return any(one.startswith(THROUGH_PAGES) for one in changed)
    if test.startswith("tests/api/"):
        return any(one.startswith(THROUGH_THE_API) for one in changed)
    if test.startswith(("tests/station/", "tests/yard/")):
        return any(one.startswith(THROUGH_BROWSERS) for one in changed)
    if test.startswith("tests/host/"):
        return any(one.startswith("src/lantern/host/") or one == "lantern" for one in changed)
    return test == "tests/core/test_docs.py" and any(one.endswith(DOCUMENTS) for one in changed)


def _dotted(path: Path) -> str:
    parts = path.with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def _modules(files: Iterable[str]) -> set[str]:
    inside = (Path(one) for one in files if one.startswith("src/") and one.endswith(".py"))
    return {_dotted(path.relative_to("src")) for path in inside}


def _with_downstream(modules: set[str]) -> set[str]:
    graph = grimp.build_graph("lantern")
    known = modules & graph.modules
    return modules.union(*(graph.find_downstream_modules(one) for one in known))


def _imports(path: Path) -> set[str]:
    """Return the names of modules that a file imports, and of what it takes from them."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            found |= {one.name for one in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
            found |= {f"{node.module}.{one.name}" for one in node.names}
    return found
