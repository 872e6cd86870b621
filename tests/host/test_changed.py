"""Which tests a change concerns."""

import subprocess

import pytest

from lantern.host.changed import changed_files, concerned
from lantern.host.setup import ROOT


@pytest.mark.parametrize(
    ("file", "some", "not_others"),
    [
        (
            "src/lantern/core/values/wording.py",
            "tests/core/test_checking.py",
            "tests/core/test_text.py",
        ),
        (
            "src/lantern/core/data/matching.py",
            "tests/core/test_taking.py",
            "tests/core/test_naming.py",
        ),
        ("src/lantern/exchange/junit.py", "tests/api/test_tables.py", "tests/core/test_text.py"),
        ("frontend/src/App.vue", "tests/ui/test_work.py", "tests/core/test_taking.py"),
        ("probe/src/main.ts", "tests/station/test_seam.py", "tests/api/test_tables.py"),
        ("tests/core/samples.py", "tests/core/test_checking.py", "tests/api/test_tables.py"),
        ("tests/core/test_text.py", "tests/core/test_text.py", "tests/core/test_taking.py"),
        ("docs/manual/editing.md", "tests/core/test_docs.py", "tests/core/test_text.py"),
    ],
)
def test_a_change_concerns_what_imports_it_or_reaches_it(file, some, not_others):
    found = concerned([file], ROOT)
    assert some in found
    assert not_others not in found


def test_nothing_concerns_nothing():
    assert concerned([], ROOT) == []


def test_changed_and_new_files_are_found(tmp_path):
    def git(*given):
        who = ("-c", "user.name=o", "-c", "user.email=o@x")
        subprocess.run(["git", *who, *given], cwd=tmp_path, check=True, capture_output=True)

    git("init", "-q")
    for name in ("a.py", "b.py"):
        (tmp_path / name).write_text("1")
    git("add", "-A")
    git("commit", "-qm", "first")
    (tmp_path / "a.py").write_text("2")
    (tmp_path / "c.py").write_text("3")
    assert changed_files(tmp_path) == ["a.py", "c.py"]
