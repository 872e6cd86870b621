"""The documents are held to the code."""

import re
from pathlib import Path

from lantern.core.engine.browsers import BROWSERS
from lantern.core.steps.catalogue import ACTIONS
from lantern.core.steps.properties import COMPARISONS, PROPERTIES
from lantern.host.setup import ROOT

MANUAL = " ".join(
    " ".join(file.read_text().split()) for file in sorted((ROOT / "docs/manual").glob("*.md"))
)


def test_the_manual_names_every_action_property_and_comparison():
    for action in ACTIONS.values():
        assert action.title in MANUAL, action.title
    for name in [*PROPERTIES, *COMPARISONS]:
        assert name in MANUAL, name


def test_the_manual_names_every_browser():
    for name in BROWSERS:
        assert f"`{name}`" in MANUAL, name


def test_every_link_and_picture_of_the_documents_exists():
    for file in [*ROOT.glob("*.md"), *(ROOT / "docs").rglob("*.md")]:
        for target in re.findall(r"\]\(([^)#]+)\)", file.read_text()):
            assert (file.parent / target).exists(), f"{file.name} -> {target}"


def test_the_readme_shows_every_picture_and_the_two_commands_first():
    readme = (ROOT / "README.md").read_text()
    pictures = list((ROOT / "docs/screenshots").glob("*.png"))
    assert 0 < len(pictures) < 20
    for picture in pictures:
        assert f"docs/screenshots/{Path(picture).name}" in readme
    assert readme.index("./lantern demo") < readme.index("./lantern test") < readme.index("![")
