"""Setting up: what is made is made anew when what it comes from has changed."""

import subprocess
import sys

from lantern.host.setup import ROOT, api_sources, digest, path

LOADED = """
import sys
import lantern.web.app
print(*(m.__file__ for n, m in sys.modules.items() if n.startswith("lantern.") and m.__file__))
"""


def test_the_digest_of_the_clients_types_covers_every_module_that_the_document_comes_from():
    """A change in a shape went unnoticed once."""
    command = [sys.executable, "-c", LOADED]
    loaded = subprocess.run(command, env=path(), capture_output=True, text=True, check=True)
    covered = {str(one) for one in api_sources()}
    assert f"{ROOT}/src/lantern/web/shapes/runs.py" in covered
    assert set(loaded.stdout.split()) <= covered


def test_a_digest_changes_with_a_files_content_and_its_name(tmp_path, monkeypatch):
    monkeypatch.setattr("lantern.host.setup.ROOT", tmp_path)
    shapes = tmp_path / "shapes"
    shapes.mkdir()
    (shapes / "runs.py").write_text("a: int")
    first = digest([shapes])
    (shapes / "runs.py").write_text("a: str")
    second = digest([shapes])
    (shapes / "runs.py").rename(shapes / "casts.py")
    assert len({first, second, digest([shapes])}) == 3
