"""Every feature by which nodes are compared speaks for the same and against another."""

from dataclasses import replace

import pytest

from lantern.core.elements.facts import Box, Facts
from lantern.core.elements.likeness import FEATURES, Page, evidence, likeness
from tests.core.samples import node

ONE = Facts(
    tag="input",
    role="textbox",
    name="Piece name",
    text="Moon jar",
    label="Piece",
    attributes={
        "data-testid": "piece", "name": "piece", "id": "piece", "placeholder": "A name",
        "title": "What is fired", "alt": "A jar", "href": "/pieces", "src": "/jar.png",
        "type": "text", "class": "field wide",
    },
    row=("Moon jar", "Porcelain"),
    column="Piece",
    section="Quote",
    path="form/div/input",
    after="Clay",
    followed="Cone",
    options=("Stoneware", "Raku"),
    frames=("recipes",),
    box=Box(10, 10, 240, 24),
)  # fmt: skip
OTHERS = [node("button", f"Button {number}", number) for number in range(1, 20)]
PAGE = Page([ONE, *OTHERS])


def with_attribute(name, value):
    return replace(ONE, attributes={**ONE.attributes, name: value})


OTHERWISE = {
    "test id": with_attribute("data-testid", "glaze"),
    "field name": with_attribute("name", "glaze"),
    "id": with_attribute("id", "glaze"),
    "name": replace(ONE, name="Shelf in the kiln"),
    "label": replace(ONE, label="Shelf in the kiln"),
    "text": replace(ONE, text="Shelf in the kiln"),
    "hint text": with_attribute("placeholder", "Shelf in the kiln"),
    "title": with_attribute("title", "Shelf in the kiln"),
    "alt": with_attribute("alt", "Shelf in the kiln"),
    "href": with_attribute("href", "/board/kilns"),
    "src": with_attribute("src", "/kiln/shelf.png"),
    "row": replace(ONE, row=("Tea caddy", "Raku")),
    "column": replace(ONE, column="Drop-off"),
    "options": replace(ONE, options=("Celadon", "Ash")),
    "section": replace(ONE, section="Firing board"),
    "after": replace(ONE, after="Sign out"),
    "followed": replace(ONE, followed="Sign out"),
    "path": replace(ONE, path="table/tr/td/b/button"),
    "frames": replace(ONE, frames=("elsewhere",)),
    "kind": replace(ONE, tag="button", role="button"),
    "tag": replace(ONE, tag="textarea"),
    "type": with_attribute("type", "search"),
    "class": with_attribute("class", "odd look"),
    "size": replace(ONE, box=Box(10, 10, 24, 96)),
}


def weight_of(name, now):
    return next(one.weight for one in evidence(ONE, now, PAGE) if one.feature == name)


def test_every_feature_is_looked_at():
    assert set(OTHERWISE) == {feature.name for feature in FEATURES}


@pytest.mark.parametrize("name", OTHERWISE)
def test_a_feature_speaks_for_the_same_and_against_another(name):
    assert weight_of(name, ONE) > 0.2
    assert weight_of(name, OTHERWISE[name]) < -0.1
    assert likeness(ONE, OTHERWISE[name], PAGE) < likeness(ONE, ONE, PAGE) - 0.1
